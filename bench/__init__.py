"""How fast it is: `./run bench`. Figures in milliseconds; ratios are taken within one run, on one machine.

engine: tracing, relighting, mixing; screen: pointer to pixels in a real browser; reference: against Mitsuba 3.
"""

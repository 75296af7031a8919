"""The predicted picture: a plan of the whole set in, one linear picture per light out.

plan: everything that stands on the set; arrange: plan to kernel arrays; stage: trace, relight, mix.
lighting: what lights, cards and the table throw on matte places; collisions: what cannot stand where it stands.
meter: a virtual incident meter on the set.
"""

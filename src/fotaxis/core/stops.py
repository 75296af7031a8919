"""How stops are written: differences, what is measured, what is set, and the powers of heads. Every word about stops
comes from here.
"""

from __future__ import annotations

import math

BLACK = "black"
"""What a level of no light at all is called."""


def stops_name(stops: float) -> str:
    """A difference in stops with its sign to a tenth: '+1.3', '−0.7', '0.0'."""
    if not math.isfinite(stops):
        return BLACK
    text = measured_stops(stops)
    if text == "0.0":
        return text
    return ("+" if stops > 0 else "−") + text


def signed_stops(stops: float) -> str:
    """As stops_name, with a sign before nothing too: a level against grey."""
    return f"{'+' if stops >= 0 else '−'}{measured_stops(stops)}"


def measured_stops(stops: float) -> str:
    """How many stops a reading differs, to a tenth and without sign: '1.3'."""
    return f"{abs(stops):.1f}"


def lost_stops(stops: float) -> str:
    """What something on the way takes, to a tenth: '−0.7'; never less than nothing."""
    return f"−{measured_stops(max(stops, 0.0))}"


def set_stops(stops: float) -> str:
    """A number of stops that somebody set or a maker states, as short as it is: '3', '1.25', '0.33'."""
    return f"{round(abs(stops), 2):g}"


NEAR_THIRD = 0.02


def thirds_name(stops: float) -> str:
    """A difference that was set, in thirds where it is that: '+⅔', '−1⅓', '+2'; else to a tenth, as stops_name."""
    thirds = round(abs(stops) * 3)
    if not math.isfinite(stops) or thirds == 0 or abs(thirds / 3 - abs(stops)) > NEAR_THIRD:
        return stops_name(stops)
    whole, rest = divmod(thirds, 3)
    return ("+" if stops > 0 else "−") + (str(whole) if whole or not rest else "") + ("", "⅓", "⅔")[rest]


def over_or_under(stops: float) -> str:
    """A reading against another: '1.3 over', '0.7 under'."""
    return f"{measured_stops(stops)} {'over' if stops > 0 else 'under'}"


def power_name(stops: float, *, steps_per_stop: int) -> str:
    """How the head's display names a power: '1/8', '1/8 +⅓', '1/16 +0.7'.

    stops relative to full, 0 or negative. Common practice: named upwards from the next lower full stop.
    """
    steps = round(-stops * steps_per_stop)
    whole, rest = divmod(steps, steps_per_stop)
    if rest == 0:
        return f"1/{2**whole}"
    above = steps_per_stop - rest
    return f"1/{2 ** (whole + 1)} +{step_name(above, steps_per_stop=steps_per_stop)}"


def step_name(steps: int, *, steps_per_stop: int) -> str:
    """A part of a stop as it is written: ⅓, ½, 0.3."""
    return {(1, 3): "⅓", (2, 3): "⅔", (1, 2): "½"}.get((steps, steps_per_stop), f"{steps / steps_per_stop:.1f}")

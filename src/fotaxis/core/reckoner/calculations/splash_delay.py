"""From a trigger to the splash: the delay of a fall."""

from __future__ import annotations

from fotaxis.core.errors import DomainError
from fotaxis.core.reckoner.calculation import TIME, Calculation, Given
from fotaxis.core.reckoner.falling import GRAVITY_M_S2, fall_s, fall_speed_m_s
from fotaxis.core.reckoner.pictures import Drawn, line, round_, view
from fotaxis.core.reckoner.quantity import Quantity
from fotaxis.core.reckoner.roots import where
from fotaxis.core.reckoner.units import CM, SPEED
from fotaxis.core.reckoner.units import TIME as DURATION


def _barrier(v: Given) -> float:
    if v.barrier > v.height:
        raise DomainError(
            f"the trigger is {CM.write(v.barrier)} above the surface, higher than where it falls from "
            f"({CM.write(v.height)}); it must be lower"
        )
    return fall_s(v.height) - fall_s(v.height - v.barrier)


def _delay(v: Given) -> float:
    return _barrier(v) + v.after - v.lag


def _height(v: Given) -> float:
    """The higher it falls from, the faster it passes the trigger, the shorter the delay."""

    def delay(height: float) -> float:
        return _delay(Given(**{**vars(v), "height": height}))

    return where(delay, v.delay, low=max(v.barrier, 1e-6), high=100.0, what="height")


def _trigger(v: Given) -> float:
    left = fall_s(v.height) - (v.delay - v.after + v.lag)
    if left < 0 or left > fall_s(v.height):
        raise DomainError(
            f"from {CM.write(v.height)} the fall takes {DURATION.write(fall_s(v.height))}; the delay must fit into it"
        )
    return float(v.height - GRAVITY_M_S2 * left * left / 2)


def _picture(v: Given) -> Drawn:
    return view("From the side: where it starts, the trigger, the surface", [
        line(-0.3 * v.height, 0, 0.3 * v.height, 0, style="ground", words=f"surface, {SPEED.write(v.impact)}"),
        round_(0, v.height, 0.03 * v.height, style="thing", words=f"starts at {CM.write(v.height)}"),
        line(-0.2 * v.height, v.barrier, 0.2 * v.height, v.barrier, style="light", words="trigger at "
            f"{CM.write(v.barrier)}"),
        line(0, v.height, 0, 0, style="ghost"),
    ])  # fmt: skip


CALCULATION = Calculation(
    key="splash-delay", name="Delay from a trigger to a splash", group=TIME,
    words="Something falls past a light barrier, or is let go: how long until it meets the surface, and when to flash.",
    also="drop trigger laser barrier valve drip fall",
    asks=(
        Quantity(name="height", words="Falls from", unit=CM, usual="50 cm", low=0, above=True, high=100, note="Above the "
            "surface it meets."),
        Quantity(name="barrier", words="Trigger above the surface", unit=CM, usual="20 cm", low=0, high=100,
                 note="As high as it falls from, where letting go is the trigger."),
        Quantity(name="after", words="Splash stands after", unit=DURATION, usual="0.04 s", low=0, high=5,
                 note="A crown stands 20 to 60 ms after it is met: try around it."),
        Quantity(name="lag", words="Trigger and flash take", unit=DURATION, usual="0 s", low=0, high=1),
        Quantity(name="delay", words="Delay to set", unit=DURATION, usual="0.1 s", low=0, high=10),
    ),
    unknowns={"delay": _delay, "barrier": _trigger, "height": _height},
    gives=(
        Quantity(name="falls", words="Trigger to surface", unit=DURATION), Quantity(name="impact", words="Speed at the "
            "surface", unit=SPEED),
        Quantity(name="whole", words="Whole fall", unit=DURATION),
    ),
    beside=lambda v: {"falls": _barrier(v), "impact": fall_speed_m_s(v.height), "whole": fall_s(v.height)}, picture=_picture,
    cautions=lambda v: ["Water, pumps and mains apart, a residual-current breaker; wipe the floor, tape the cables."],
    formula="t = √(2 h / g) − √(2 (h − b) / g); delay = t + splash − lag; v = √(2 g h)",
    limits="Free fall without the air: drops of 4 mm fall 1 % slower from half a metre. Shallow water splashes higher.",
    source="textbook mechanics, g = 9.80665 m/s²",
)  # fmt: skip

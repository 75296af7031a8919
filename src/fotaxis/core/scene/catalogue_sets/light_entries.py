"""Small sets that show boxes, what shapes a head, and cards cut for a purpose, each with words and figures."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from datetime import UTC, datetime

from fotaxis.core.constants import REC709_LUMINANCE
from fotaxis.core.lights.calibration import Candela
from fotaxis.core.lights.card_finishes import FINISH
from fotaxis.core.lights.colour import hue_rgb
from fotaxis.core.lights.fixtures import Card, Emission, Lamp, Light, Panel, Stance, sun_lamp
from fotaxis.core.lights.gels import COLDEST_K
from fotaxis.core.lights.gobos import MASKS, OPEN_GATE, Gate
from fotaxis.core.lights.heads import HEAD
from fotaxis.core.lights.sun import sun_at
from fotaxis.core.stops import stops_name
from fotaxis.core.values import Point

FULL = Emission(calibration=Candela(value=1000), power_stops=0)
BEFORE = (0.42, 0.3, 0.35, -159.0, -14.0)
"""Place, turn and tilt of a lamp that lights the wall beside the bottle."""

FARTHER = (0.95, 0.3, 0.45, -115.0, -10.0)
BESIDE = (-0.75, 0.12, 0.12, 84.0, 0.0)


@dataclass(frozen=True, slots=True, kw_only=True)
class Shape:
    """Something that shapes light and is no kind of head or sheet by itself, with the lights and cards that show it."""

    group: str
    name: str
    words: str
    figures: str = ""
    lights: tuple[Light, ...]
    cards: tuple[Card, ...] = ()


def stance(x: float, y: float, z: float, turn: float, tilt: float = 0.0) -> Stance:
    """Place in metres, turn and tilt in degrees."""
    return Stance(place=Point(x_m=x, y_m=y, z_m=z), turn_rad=math.radians(turn), tilt_rad=math.radians(tilt))


def _box(width: float, height: float, **more: object) -> Panel:
    made = {"gradient": "core", "gradient_stops": 1.0, "emission": FULL, **more}
    return Panel(key="light", name="box", stance=stance(*FARTHER), width_m=width, height_m=height, **made)  # type: ignore[arg-type]


def _head(name: str = "dish 65°", **more: object) -> Lamp:
    kind = HEAD[name]
    made = {"stance": stance(*BEFORE), "diameter_m": kind.diameter_m, "emission": FULL, **more}
    return Lamp(key="light", name=name, head=kind, **made)  # type: ignore[arg-type]


def card(finish: str, x: float, y: float, z: float, turn: float, width: float, height: float, **more: object) -> Card:
    """A card, sheet or net by the name of its finish."""
    return Card(
        key="card", name=finish, stance=stance(x, y, z, turn), width_m=width, height_m=height, finish=FINISH[finish],
        **more,  # type: ignore[arg-type]
    )  # fmt: skip


def _spot(**gate: object) -> Lamp:
    return _head("focusing spot", gate=Gate(focus_m=0.85, **gate))  # type: ignore[arg-type]


def _sun(hour: float) -> Lamp:
    sun = sun_at(latitude_deg=52, longitude_deg=10, when=datetime(2026, 6, 21, int(hour), int(hour % 1 * 60), tzinfo=UTC))
    emission = replace(FULL, continuous=True, colour_k=max(COLDEST_K, sun.colour_k))
    return sun_lamp(key="light", name="sun", sun=sun, side_rad=math.radians(155), away_m=20.0, emission=emission)


BOXES, HEADS, CARDS = "Boxes and panels", "What shapes a head", "Cards for a purpose"
MASK_WORDS = {
    "window": "Panes of a window, thrown by a spot. The image is reversed, and sharp at one distance.",
    "slats": "A blind: bars of light across the background.",
    "leaves": "Light through leaves. Out of focus it looks least like a slide.",
    "dots": "Round holes, for a sprinkle of light.",
}


def _grids() -> list[Shape]:
    return [
        Shape(group=HEADS, name=f"grid {angle}°", words=words, lights=(_head(grid_angle_rad=math.radians(angle)),))
        for angle, words in (
            (10, "A tight honeycomb: a small pool, dark around. It costs most, since most of the dish is hidden."),
            (20, "A honeycomb: a pool with a soft rim."),
            (40, "A wide honeycomb: keeps light off walls and lens, hardly a pool."),
        )
    ]


SHAPES = (
    Shape(group=BOXES, name="strip box", figures="30 × 120 cm", lights=(_box(0.3, 1.2),),
          words="A narrow box for edge lines. Its image on glass is a long bright line."),
    Shape(group=BOXES, name="square box", figures="60 × 60 cm", lights=(_box(0.6, 0.6),),
          words="The usual box, hot in the middle. Its shape stands in every dark curve."),
    Shape(group=BOXES, name="octabox", figures="Ø 95 cm", lights=(_box(0.95, 0.95, octagon=True),),
          words="Eight corners: a rounder image on balls, caps and shoulders."),
    Shape(group=BOXES, name="box with an inner baffle", figures="60 × 90 cm",
          words="A second cloth inside evens the hot core out.", lights=(_box(0.6, 0.9, gradient_stops=0.3),)),
    Shape(group=BOXES, name="box with a grid", figures="60 × 60 cm, 40°",
          words="Cloth cells keep the light narrow. Meter it: the loss follows from the angle.",
          lights=(_box(0.6, 0.6, grid_angle_rad=math.radians(40)),)),
    Shape(group=BOXES, name="wrinkled cloth", figures="60 × 60 cm",
          words="A fault: folds of the cloth show as blotches in glass. Iron it, or use acrylic.",
          lights=(_box(0.6, 0.6, gradient="even", gradient_stops=0.0, wrinkles=1.0),)),
    Shape(group=BOXES, name="LED panel", figures="30 × 60 cm, burns on",
          words="An even continuous face. What is seen is what is taken.",
          lights=(_box(0.3, 0.6, gradient="even", gradient_stops=0.0, emission=replace(FULL, continuous=True)),)),
    Shape(group=BOXES, name="LED tube", figures="3.5 × 60 cm, burns on",
          words="A line of light: a thin crisp line in glass.",
          lights=(_box(0.035, 0.6, gradient="even", gradient_stops=0.0, emission=replace(FULL, continuous=True)),)),
    Shape(group=BOXES, name="window, open sky", figures="120 × 150 cm, 6500 K",
          words="A large soft source that follows the day. A white card opposite balances it.",
          lights=(_box(1.2, 1.5, gradient="even", gradient_stops=0.0, emission=replace(FULL, continuous=True, colour_k=6500.0)),)),
    *_grids(),
    Shape(group=HEADS, name="barn doors", words="Four flaps on the head cut the beam straight. Here the left one is nearly shut.",
          lights=(_head(doors=(math.radians(5), math.radians(60), math.radians(60), math.radians(60))),)),
    Shape(group=HEADS, name="blades", words="Four blades in a spot's gate: a pool with straight edges. The image is reversed.",
          lights=(_spot(blades=(0.3, 0.2, 0.25, 0.25)),)),
    *(Shape(group=HEADS, name=f"mask: {mask}", words=MASK_WORDS[mask], lights=(_spot(mask=mask, blur=0.03),))
      for mask in MASKS if mask != OPEN_GATE),
    Shape(group=HEADS, name="torch moved", words="A torch led along while the shutter is open: a soft source as long as its way.",
          figures="60 cm during the exposure",
          lights=(_head("torch", stance=stance(0.15, 0.35, 0.3, -168, -20), way=(stance(0.55, 0.1, 0.3, -140, 5),),
                        emission=replace(FULL, continuous=True)),)),
    *(Shape(group=HEADS, name=f"LED hue {hue}°", words=words, lights=(_head(emission=replace(FULL, hue_rad=math.radians(hue))),),
            figures=f"{stops_name(math.log2(float(hue_rgb(hue_rad=math.radians(hue), saturation=1.0) @ REC709_LUMINANCE)))} stops"
            .replace("-", "−"))
      for hue, words in ((0, "Red emitters alone. Put colour into kicker or background."), (30, "Orange."), (200, "Azure."))),
    *(Shape(group=HEADS, name=name, words=words, figures="21 June, 52° north", lights=(_sun(hour),))
      for name, hour, words in (("sun, noon", 11.5, "High and hard, from its place by date and hour."),
                                ("sun, evening", 18.5, "Low and warm: long shadows."))),
    Shape(group=CARDS, name="lens-hole card", figures="60 × 60 cm, hole 9 cm",
          words="A white card round the lens: the front of glass and foil mirrors one even face.",
          lights=(_head(stance=stance(0.7, 0.5, 0.2, 24, -18)),),
          cards=(card("white card", 0.1, 0.12, 0.98, 180, 0.6, 0.6, hole_m=0.09),)),
    Shape(group=CARDS, name="card behind the bottle", words="Cut to its outline, behind it: throws light on through the liquid.",
          lights=(_head(stance=stance(-0.35, 0.45, 0.45, 142, -28)),),
          cards=(card("silver card", 0.12, 0.1, -0.12, 0, 0.09, 0.2, like_product=True),)),
    Shape(group=CARDS, name="curved reflector", words="A bent silver card gathers light into a brighter, smaller patch.",
          lights=(_head(stance=stance(*BESIDE)),),
          cards=(card("silver card", 0.3, 0.1, 0.1, -112, 0.3, 0.3, bend_rad=math.radians(60)),)),
)  # fmt: skip

SHAPE = {shape.name: shape for shape in SHAPES}

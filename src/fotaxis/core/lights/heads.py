"""Heads by generic name: how large their face is, how their light leaves them, how bright they are.

Angles, sizes and guide numbers are common practice for each kind; a meter reading of one's own head always wins.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

from fotaxis.core.lights.beam_patterns import BELL, FLAT_TOP, Pattern

DAYLIGHT_K = 5600.0
EVEN_FACE = Pattern()


@dataclass(frozen=True, slots=True, kw_only=True)
class Head:
    """A kind of head.

    diameter_m: of its luminous face; ball: it shines all round (its pattern then does not count).
    guide_number_m: full power on the axis, metres at ISO 100, for flash; candela: likewise for continuous light; one of them.
    cell: diameter over length of a tube before the face (snoot), 0 for none.
    """

    name: str
    words: str
    diameter_m: float
    pattern: Pattern = EVEN_FACE
    ball: bool = False
    guide_number_m: float = 0.0
    candela: float = 0.0
    colour_k: float = DAYLIGHT_K
    cell: float = 0.0

    @property
    def continuous(self) -> bool:
        """Burns on, so that the shutter counts."""
        return self.candela > 0


def _bell(beam_deg: float) -> Pattern:
    return Pattern(kind=BELL, half_rad=math.radians(beam_deg / 2))


def _flat_top(beam_deg: float, soft_deg: float) -> Pattern:
    return Pattern(kind=FLAT_TOP, half_rad=math.radians(beam_deg / 2), soft_rad=math.radians(soft_deg))


PLAIN = Head(name="plain dish", words="An even disc of light.", diameter_m=0.18, guide_number_m=45)

SUN = Head(
    name="sun", words="The sun in a clear sky, where it stands at a place, date and hour.", diameter_m=0.56, candela=1.0
)

HEADS = (
    Head(
        name="bare head", diameter_m=0.09, ball=True, guide_number_m=22,
        words="A flash tube under its frosted dome, without a reflector. It shines all round, so walls and ceiling join in.",
    ),
    Head(
        name="dish 65°", diameter_m=0.18, pattern=_bell(65), guide_number_m=56,
        words="The usual small reflector. Hard light with a soft fall-off; behind a sheet it makes the hot core.",
    ),
    Head(
        name="dish 110°", diameter_m=0.17, pattern=_bell(110), guide_number_m=36,
        words="A shallow reflector that fills a box or a wide sheet evenly. Too wide for a pool of light.",
    ),
    Head(
        name="narrow dish 40°", diameter_m=0.25, pattern=_bell(40), guide_number_m=80,
        words="A long reflector that throws far. For a hard shaft of light, or a far sheet.",
    ),
    Head(
        name="broad dish", diameter_m=0.42, pattern=_bell(80), guide_number_m=45,
        words="A wide shallow dish with a covered tube. Between hard and soft; a grid makes it a broad pool.",
    ),
    Head(
        name="snoot", diameter_m=0.06, pattern=_bell(65), guide_number_m=32, cell=0.06 / 0.18,
        words="A tube before the head: a small round pool with a soft rim. For a label, a cap, one word.",
    ),
    Head(
        name="focusing spot", diameter_m=0.08, pattern=_flat_top(24, 1.0), guide_number_m=60,
        words="A lens images the lamp's gate: an even pool with a rim as sharp as the focus. Its image is reversed.",
    ),
    Head(
        name="lens spot", diameter_m=0.15, pattern=_flat_top(40, 8.0), guide_number_m=56,
        words="A stepped lens before the lamp: an even pool that fades softly. Hard shadows, clean edge.",
    ),
    Head(
        name="small battery flash", diameter_m=0.05, pattern=_bell(60), guide_number_m=34,
        words="A flash of the size that sits on a camera. Weak beside studio heads, but it stands anywhere.",
    ),
    Head(
        name="LED head", diameter_m=0.12, pattern=_bell(60), candela=9000,
        words="A continuous lamp in a dish. What is seen is what is taken, but the shutter counts and power is low.",
    ),
    Head(
        name="household lamp", diameter_m=0.06, ball=True, candela=64, colour_k=2700,
        words="An opal bulb of about 800 lumens. Warm, all round, and only with a long exposure.",
    ),
    Head(
        name="torch", diameter_m=0.03, pattern=_bell(16), candela=4000, colour_k=6500,
        words="A narrow hand lamp. Moved during a long exposure it becomes a soft light of any shape.",
    ),
    Head(
        name="phone light", diameter_m=0.006, pattern=_bell(100), candela=16, colour_k=6000,
        words="The lamp of a phone: a very small, wide source. Good for a sparkle, or for painting.",
    ),
    Head(
        name="candle", diameter_m=0.014, ball=True, candela=1.0, colour_k=1900,
        words="A flame of about one candela. It needs a long exposure of its own beside the flash frame.",
    ),
)  # fmt: skip

HEAD = {head.name: head for head in (PLAIN, *HEADS)}

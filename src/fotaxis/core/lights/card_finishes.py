"""What cards, sheets and nets do to light, by generic name.

Stops lost and kinds of scatter are common practice; real sheets vary by a third of a stop either way.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, replace

from fotaxis.core.errors import DomainError
from fotaxis.core.lights.losses import NET_STOPS, SHEET_STOPS
from fotaxis.core.values import Reflectance

BLACK = Reflectance.grey(0.0)


@dataclass(frozen=True, slots=True, kw_only=True)
class Finish:
    """Shares of light that a flat thing sends each way; together at most 1 in each channel.

    reflectance   scattered evenly back, from both sides
    through       scattered evenly through
    straight      through, spread about the straight way by spread_rad (standard deviation of the lobe)
    gloss         mirrored, spread by gloss_spread_rad; 0 for a mirror as hard as what it reflects
    veil          through unspread (a net, a gel) at normal incidence; at an angle to the power 1 / cos. A thing that has a
                  veil has nothing else.
    """

    name: str = ""
    words: str = ""
    group: str = "card"
    reflectance: Reflectance = BLACK
    through: Reflectance = BLACK
    straight: float = 0.0
    spread_rad: float = 0.0
    gloss: Reflectance = BLACK
    gloss_spread_rad: float = 0.0
    veil: Reflectance = BLACK

    def __post_init__(self) -> None:
        most = (
            self.reflectance.array() + self.through.array() + self.gloss.array() + self.straight + self.veil.array()
        ).max()
        if not 0 <= most <= 1 + 1e-9:
            raise DomainError(f"{self.name or 'a finish'} gives back {most:.2f} of the light; no more than 1 can be.")
        for what, share, spread in (("straight", self.straight, self.spread_rad),
                                    ("gloss", float(self.gloss.array().max()), self.gloss_spread_rad)):  # fmt: skip
            if share > 0 and (what == "straight" or spread) and not math.radians(1) <= spread <= math.radians(60):
                raise DomainError(f"{what} light is spread by {math.degrees(spread):g}°; it must be from 1° to 60°.")

    @property
    def passed(self) -> float:
        """Share of an even light that goes through, green."""
        return self.through.green + self.straight + self.veil.green

    @property
    def stops(self) -> float:
        """Stops lost by an even light that goes through, at normal incidence for a veil; 0 where none does."""
        return -math.log2(self.passed) if self.passed > 0 else 0.0


def _scaled(colour: Reflectance, by: float) -> Reflectance:
    return Reflectance(red=min(1.0, colour.red * by), green=min(1.0, colour.green * by), blue=min(1.0, colour.blue * by))


def reflecting(finish: Finish, share: float) -> Finish:
    """A card's finish that gives back so much of the green light, 0..1, in its own hue and blurred as before; share 0: as it is.

    Where another channel would give back more than it gets, a little less.
    """
    own = finish.reflectance.green + finish.gloss.green
    if share <= 0 or own <= 0:
        return finish
    most = float((finish.reflectance.array() + finish.gloss.array()).max())
    by = min(share / own, 1.0 / most)
    return replace(finish, reflectance=_scaled(finish.reflectance, by), gloss=_scaled(finish.gloss, by))


def passing(finish: Finish, loss_stops: float) -> Finish:
    """A sheet's finish that takes so many stops of an even light, spread as before; 0: as it is. What more it lets through, it
    gives back less."""
    if loss_stops <= 0 or finish.passed <= 0:
        return finish
    passed = 2.0**-loss_stops
    by = passed / finish.passed
    through, straight = _scaled(finish.through, by), finish.straight * by
    left = 1.0 - straight - float(through.array().max())
    back = min(1.0, left / max(float(finish.reflectance.array().max()), 1e-9))
    return replace(finish, through=through, straight=straight, reflectance=_scaled(finish.reflectance, max(back, 0.0)))


def _card(name: str, words: str, diffuse: float | tuple[float, float, float],
          gloss: tuple[float, float, float] = (0.0, 0.0, 0.0), spread_deg: float = 0.0) -> Finish:  # fmt: skip
    colour = (
        Reflectance.grey(diffuse)
        if isinstance(diffuse, float)
        else Reflectance(red=diffuse[0], green=diffuse[1], blue=diffuse[2])
    )
    return Finish(
        name=name, words=words, reflectance=colour, gloss=Reflectance(red=gloss[0], green=gloss[1], blue=gloss[2]),
        gloss_spread_rad=math.radians(spread_deg),
    )  # fmt: skip


def _sheet(name: str, straight: float, spread_deg: float, words: str) -> Finish:
    """straight: part of what goes through that keeps about its direction."""
    passed = 2.0 ** -SHEET_STOPS[name]
    return Finish(
        name=name, words=words, group="sheet", reflectance=Reflectance.grey(0.9 * (1 - passed)),
        through=Reflectance.grey(passed * (1 - straight)), straight=passed * straight, spread_rad=math.radians(spread_deg),
    )  # fmt: skip


def _net(name: str, words: str) -> Finish:
    return Finish(name=name, words=words, group="net", veil=Reflectance.grey(2.0 ** -NET_STOPS[name]))


CARDS = (
    _card("white card", "Scatters what falls on it evenly. Soft, weak, and it spills everywhere.", 0.85),
    _card("black card", "Takes light away. On glass it draws a dark line, and seen from the product it ends a reflection.", 0.03),
    _card("mirror card", "A plane mirror, as hard as what it reflects: a second light for free, only where it is aimed.", 0.0,
          (0.88, 0.89, 0.89)),
    _card("silver card", "A crumpled metal foil: a hard, broken second light. Stronger than white, only where it is aimed.",
          0.08, (0.76, 0.77, 0.78), 9),
    _card("satin silver card", "Brushed metal paint: between silver and white. Forgiving to aim, still with direction.", 0.25,
          (0.53, 0.54, 0.55), 20),
    _card("gold card", "A silver card in a warm tone. A little goes a long way beside a neutral light.", (0.08, 0.06, 0.03),
          (0.80, 0.62, 0.30), 9),
)  # fmt: skip

SHEETS = (
    _sheet("light frost", 0.85, 6, "Takes the edge off; the lamp still shows through as a soft-edged patch."),
    _sheet("quarter silk", 0.70, 6, "Thin woven silk. A little softer, nearly as bright."),
    _sheet("quarter white", 0.60, 10, "Thin white diffusion. The lamp shows as a wide glow."),
    _sheet("half white", 0.40, 14, "White diffusion between frost and opal. A hot core with a long fall-off."),
    _sheet("quarter grid cloth", 0.35, 12, "Light woven cloth for large frames. Softens without killing direction."),
    _sheet("opal frost", 0.25, 16, "A soft core and no visible lamp. The usual first sheet before a box."),
    _sheet("full white", 0.12, 20, "Dense white diffusion: nearly an even face."),
    _sheet("light grid cloth", 0.15, 18, "Woven cloth for large frames; broad and even."),
    _sheet("full silk", 0.30, 12, "Heavy woven silk. Bright centre, soft rim."),
    _sheet("dense white", 0.0, 0, "Scatters everything: the sheet is the source, whatever stands behind."),
    _sheet("dense diffusion", 0.0, 0, "Fuses several lamps into one face."),
    _sheet("opal acrylic", 0.0, 0, "Two to four millimetres, clean and without a wrinkle: what a dark bottle should mirror."),
    _sheet("full grid cloth", 0.0, 0, "The heaviest cloth. Very even, and it costs two stops."),
)  # fmt: skip

NETS = (
    _net("single net", "Takes half a stop and changes nothing else. Turned to the beam it takes more."),
    _net("double net", "Takes a stop and keeps the light's kind."),
    _net("triple net", "Takes a stop and a half."),
)

FINISHES = (*CARDS, *SHEETS, *NETS)
FINISH = {finish.name: finish for finish in FINISHES}

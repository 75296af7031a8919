"""How fine a picture at rest is made, and who is told how far it is."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from fotaxis.core.render.lighting import FINE, FINEST, Detail


@dataclass(frozen=True, slots=True, kw_only=True)
class RenderQuality:
    """How many samples a picture at rest takes.

    Pixels of a light narrower than they are take `thin` samples. Edge pixels that differ much from a neighbour are traced again
    with `plain` samples where their paths hardly split and so cost little, with `strong` where they do, the others with `weak`;
    where these differ much from each other, with `more`
    beside them: a line thinner than a pixel may slip between few samples. texture: in pixels of a relief or pattern; inner:
    directions from a place inside glass; gloss: more directions from a blurred mirror where the first ones disagree; detail: of
    what lights matte places; lens: samples through the lens's opening of a pixel out of focus, of one in glass a third, 0 to spread
    the picture of a pin's opening instead.
    """

    thin: int
    plain: int
    strong: int
    weak: int
    more: int
    texture: int
    inner: int
    gloss: int
    detail: Detail
    lens: int


SCREEN = RenderQuality(thin=89, plain=21, strong=5, weak=5, more=0, texture=5, inner=400, gloss=0, detail=FINE, lens=0)

FINAL = RenderQuality(thin=377, plain=34, strong=5, weak=5, more=8, texture=8, inner=900, gloss=640, detail=FINEST, lens=64)


ProgressCallback = Callable[[float], bool]
"""Is told now and then what share of a picture is done, 0..1, and says whether it is still wanted."""

TRACED, LIT, EDGED = 0.2, 0.4, 0.9
"""About what share of the work is done when the paths are traced, when everything is lit, and when edges are smoothed and what is
out of focus is sampled; pixels that stand alone take the rest."""


def never_cancel(done: float) -> bool:
    """A picture that is wanted whatever happens."""
    return True

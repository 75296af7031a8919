"""Two lenses, one framing: how the far thing shrinks against the near one."""

from __future__ import annotations

from fotaxis.core.errors import NoSolution
from fotaxis.core.reckoner.calculation import LENS, Calculation, Given
from fotaxis.core.reckoner.pictures import Drawn, box, view
from fotaxis.core.reckoner.quantity import Quantity
from fotaxis.core.reckoner.units import CM, MM, PERCENT


def _new_distance(v: Given) -> float:
    """Magnification stays: f / (d - f) = f' / (d' - f'), so distances go with focal lengths."""
    if v.distance <= v.focal:
        raise NoSolution("the camera must be farther from the product than the focal length")
    return float(v.distance * v.new_focal / v.focal)


def _beside(v: Given) -> dict[str, float]:
    before, now = v.distance / (v.distance + v.behind), v.new_distance / (v.new_distance + v.behind)
    return {"before": before, "now": now, "change": now / before - 1}


def _picture(v: Given) -> Drawn:
    """The product and what is behind it as tall as they appear, now and then."""
    parts = []
    for at, focal, behind in ((0.0, v.focal, v.before), (3.2, v.new_focal, v.now)):
        parts += [box(at, 0.5, 0.7, 1.0, words=f"product, {MM.write(focal)}"),
                  box(at + 1.1, behind / 2, 0.7 * behind, behind, style="area", words=f"behind {PERCENT.write(behind)}")]  # fmt: skip
    return view("How large the product and the same thing behind it appear", parts)


CALCULATION = Calculation(
    key="perspective", name="Perspective of two lenses", group=LENS,
    words="Another lens with the same framing: how far back, and how much larger what stands behind appears.",
    also="compression massive distortion zoom distance background size",
    asks=(
        Quantity(name="focal", words="Lens now", unit=MM, usual="50 mm", low=0.002, high=2, shot="camera.focal", taken=False),
        Quantity(name="distance", words="Lens to product now", unit=CM, usual="80 cm", low=0, above=True, high=1000,
            shot="camera.distance", taken=False),
        Quantity(name="new_focal", words="Other lens", unit=MM, usual="100 mm", low=0.002, high=5, shot="camera.new_focal"),
        Quantity(name="new_distance", words="Lens to product then", unit=CM, usual="160 cm", low=0, above=True, high=2500,
            shot="camera.new_distance"),
        Quantity(name="behind", words="Behind the product", unit=CM, usual="30 cm", low=0, high=1000, note="A glass, the "
            "rear of a carton."),
    ),
    unknowns={
        "new_distance": _new_distance,
        "new_focal": lambda v: v.focal * v.new_distance / v.distance,
    },
    gives=(
        Quantity(name="before", words="What is behind appears now at", unit=PERCENT), Quantity(name="now", words="then at",
            unit=PERCENT),
        Quantity(name="change", words="which is a change of", unit=PERCENT),
    ),
    beside=_beside, picture=_picture,
    formula="d₂ = d₁ f₂ / f₁; size behind = d / (d + behind) of its size beside the product",
    limits="Thin lens, product and thing behind square to the axis. Perspective comes from the distance alone; the lens "
    "only frames it.",
    source="central projection (geometry)",
)  # fmt: skip

"""How wide a card or panel must be for a highlight on an upright round product."""

from __future__ import annotations

import math

from fotaxis.core.errors import DomainError
from fotaxis.core.placement.edge import EdgePanel, edge_panel, panel_ends
from fotaxis.core.reckoner.calculation import LIGHT, Calculation, Given
from fotaxis.core.reckoner.pictures import Drawn, line, round_, view
from fotaxis.core.reckoner.quantity import Quantity
from fotaxis.core.reckoner.roots import where
from fotaxis.core.reckoner.units import ANGLE, CM, PERCENT

LEAST = 0.001


def _ends(v: Given, width: float) -> tuple[float, float]:
    inner, outer = v.place - width / 2, v.place + width / 2
    if not (inner > 0 and outer < 1):
        raise DomainError(
            f"a line of {100 * width:.1f} % in the middle of {100 * v.place:.0f} % reaches from {100 * inner:.0f} to "
            f"{100 * outer:.0f} % "
            "of the half width; both ends must lie between 0 and 100 %"
        )
    return inner, outer


def _outside(v: Given) -> None:
    if v.distance <= v.diameter / 2:
        raise DomainError(
            f"the card stands {CM.write(v.distance)} from the axis, inside the product; it must be farther than its radius"
        )


def _panel(v: Given) -> EdgePanel:
    inner, outer = _ends(v, v.line)
    _outside(v)
    return edge_panel(
        radius_m=v.diameter / 2, foot_m=0.0, top_m=v.height, camera_height_m=v.camera_height, camera_distance_m=v.camera,
        distance_m=v.distance, inner=inner, outer=outer,
    )  # fmt: skip


def _card(v: Given) -> float:
    inner, outer = _ends(v, v.line)
    _outside(v)
    ends, _ = panel_ends(radius_m=v.diameter / 2, distance_m=v.distance, inner=inner, outer=outer)
    return math.dist(*ends)


def _line(v: Given) -> float:
    most = 2 * min(v.place, 1 - v.place) * 0.999

    def card(line: float) -> float:
        return _card(Given(**{**vars(v), "line": line}))

    return where(card, v.card, low=LEAST, high=most, what="line there")


def _beside(v: Given) -> dict[str, float]:
    panel = _panel(v)
    return {
        "angle": math.pi + panel.turn_rad,
        "side": panel.x_m,
        "behind": -panel.z_m,
        "tall": panel.height_m,
        "low": panel.low_m,
    }


def _picture(v: Given) -> Drawn:
    inner, outer = _ends(v, v.line)
    radius, panel = v.diameter / 2, _panel(v)
    half = v.card / 2
    across = math.cos(panel.turn_rad), -math.sin(panel.turn_rad)
    a = (panel.x_m - half * across[0], panel.z_m - half * across[1])
    b = (panel.x_m + half * across[0], panel.z_m + half * across[1])
    reach = max(abs(panel.x_m), abs(panel.z_m), 3 * radius)
    parts = [round_(0, 0, radius, words="product"), line(a[0], -a[1], b[0], -b[1], style="light", words="card")]
    for ratio in (inner, outer):
        px, pz = radius * ratio, radius * math.sqrt(1 - ratio * ratio)
        end = min((a, b), key=lambda one: abs(math.atan2(one[0] - px, one[1] - pz) - 2 * math.asin(ratio)))
        parts += [line(px, -pz, px, -0.4 * reach, style="ghost"), line(px, -pz, end[0], -end[1], style="ghost")]
    return view("From above, camera below: the card that the line mirrors", parts)


CALCULATION = Calculation(
    key="highlight-card", name="Card for a highlight", group=LIGHT,
    words="How wide a card or panel must be for a line on a bottle, and where it stands.",
    also="panel strip size edge highlight reflection line width bottle cylinder",
    asks=(
        Quantity(name="diameter", words="Product's diameter", unit=CM, usual="7.4 cm", low=0, above=True, high=2,
            shot="product.width"),
        Quantity(name="height", words="Product's height", unit=CM, usual="30 cm", low=0, above=True, high=5,
            shot="product.height"),
        Quantity(name="place", words="Middle of the line", unit=PERCENT, usual="90 %", low=0.02, high=0.99,
                 note="Of the half width: 0 in the middle of the product, 100 % at its edge."),
        Quantity(name="line", words="Width of the line", unit=PERCENT, usual="10 %", low=0.002, high=0.98,
            note="Of the half width."),
        Quantity(name="distance", words="Card to the axis", unit=CM, usual="50 cm", low=0, above=True, high=10,
            shot="light.from_axis"),
        Quantity(name="camera", words="Camera to the axis", unit=CM, usual="120 cm", low=0.1, high=50,
            shot="camera.distance"),
        Quantity(name="camera_height", words="Camera's height", unit=CM, usual="15 cm", low=-2, high=10,
            shot="camera.height"),
        Quantity(name="card", words="Card's width", unit=CM, usual="20 cm", low=0, above=True, high=10, shot="light.width"),
    ),
    unknowns={"card": _card, "line": _line},
    gives=(
        Quantity(name="angle", words="Off the camera's axis", unit=ANGLE), Quantity(name="side", words="Beside the axis",
            unit=CM),
        Quantity(name="behind", words="Behind the product", unit=CM), Quantity(name="tall", words="Height", unit=CM),
        Quantity(name="low", words="Lower edge, from the table", unit=CM),
    ),
    beside=_beside, picture=_picture,
    says=lambda v: [f"Its lower edge must reach {CM.write(-v.low)} below the table top, or the table cuts the line: a riser "
                    "that high "
                    "under the product does as well."] if v.low < -0.002 else [],
    formula="light comes from 2 asin(x/R) off the axis; heights: y + s (y − c) / d along the ray of length s",
    limits="Upright round product, camera far against its radius. Shoulders need more height than the body. The card's "
    "height holds for a "
    "line from foot to top.",
    source="law of reflection; 85 to 95 % of the half width needs 116.4° to 143.6°",
)  # fmt: skip

"""What a lighting set-up says of itself, the sizes it is fitted to, and the tools all of them build with."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from fotaxis.core.metering import incident
from fotaxis.core.placement.edge import EdgePanel, clear_distance_m, edge_panel
from fotaxis.core.scene.plan import Plan
from fotaxis.services.mirror_pairs import mirrored
from fotaxis.services.ports import Document
from fotaxis.services.presets import new_thing

LEAST_DISTANCE_M = 0.3
FLAG_BEFORE_CM = 6.0
BEYOND_FRAME, BEYOND_FLAG = 1.06, 1.6
"""The flag of a dark field is so much larger than the frame, the box behind it too."""

EDGE_STOPS, LABEL_STOPS, GLOW_STOPS, FIELD_STOPS, ACCENT_STOPS = 1.5, 0.8, 1.0, 2.2, 1.0
"""How bright the brightest of what a light does should be, stops from grey. Common practice."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Sizes:
    """What a start is fitted to, centimetres: the product's height, greatest width and lift, camera, table; label_cm: height of
    the middle of its label, or of itself."""

    height: float
    width: float
    lift: float
    camera_height: float
    camera_distance: float
    table_width: float
    table_depth: float
    label: float
    camera_side: float
    aim_side: float
    aim_height: float
    half_field: tuple[float, float]

    def field_at(self, z: float) -> tuple[float, float, float, float]:
        """What the frame shows at a depth: its middle x and y, half its width and height."""
        part = (self.camera_distance - z) / self.camera_distance
        x = self.camera_side + (self.aim_side - self.camera_side) * part
        y = self.camera_height + (self.aim_height - self.camera_height) * part
        away = self.camera_distance - z
        return x, y, self.half_field[0] * away, self.half_field[1] * away

    @property
    def middle(self) -> float:
        return self.lift + self.height / 2

    @property
    def top(self) -> float:
        return self.lift + self.height


@dataclass(frozen=True, slots=True, kw_only=True)
class LightingSetup:
    """One lighting set-up of a school: make builds its lights and cards for a set, as parts of a shot; targets: stops
    from grey that each
    light's brightest should reach, by key. windowed: with a window mask on the lens."""

    key: str
    name: str
    words: str
    make: Callable[[Sizes], Document]
    targets: dict[str, float]
    windowed: bool = False


def sizes_of(plan: Plan) -> Sizes:
    """What of a plan a start is fitted to."""
    product, table = plan.product, plan.table
    camera = plan.camera
    return Sizes(
        height=product.height_m * 100, width=product.profile.widest_m * 200, lift=plan.lift_m * 100,
        camera_height=camera.place.y_m * 100, camera_distance=camera.place.z_m * 100, camera_side=camera.place.x_m * 100,
        aim_side=camera.aim.x_m * 100, aim_height=camera.aim.y_m * 100, half_field=camera.half_field,
        table_width=(table.width_m + 2 * abs(table.x_m)) * 100 if table else 0.0,
        table_depth=max(0.0, table.depth_m - 2 * table.z_m) * 100 if table else 0.0,
        label=incident.usual_height_m(plan) * 100,
    )  # fmt: skip


def edge_for(s: Sizes, *, inner: float = 0.85, outer: float = 0.95, least_cm: float = 0.0) -> EdgePanel:
    """The right edge panel for a product: clear of the table, so that its line runs to the foot."""
    radius = s.width / 200
    least = max(LEAST_DISTANCE_M, 3 * radius, 0.9 * s.height / 100, least_cm / 100)
    distance = clear_distance_m(
        radius_m=radius, table_width_m=s.table_width / 100, table_depth_m=s.table_depth / 100, least_m=least, inner=inner,
        outer=outer,
    )  # fmt: skip
    return edge_panel(
        radius_m=radius, foot_m=s.lift / 100, top_m=s.top / 100, camera_height_m=s.camera_height / 100,
        camera_distance_m=s.camera_distance / 100, distance_m=distance, inner=inner, outer=outer,
    )  # fmt: skip


def cm(value_m: float) -> float:
    return round(100 * value_m, 1)


def thing(
    kind: str, key: str, name: str, *, x: float, y: float, z: float, turn: float, tilt: float = 0.0, **more: Any
) -> Document:
    place = {"x_cm": round(x, 1), "y_cm": round(y, 1), "z_cm": round(z, 1)}
    made = {
        **new_thing(kind),
        "key": key,
        "name": name,
        "place": place,
        "turn_deg": round(turn, 1),
        "tilt_deg": round(tilt, 1),
    }
    return {**made, **{name: round(v, 1) if isinstance(v, float) else v for name, v in more.items()}}


def aimed(x: float, y: float, z: float, at_height: float) -> dict[str, float]:
    """Place and angles of something that looks at the product's axis at a height."""
    return {
        "x": x, "y": y, "z": z, "turn": math.degrees(math.atan2(-x, -z)),
        "tilt": math.degrees(math.atan2(at_height - y, math.hypot(x, z))),
    }  # fmt: skip


def as_pair(right: Document, key: str, name: str) -> list[Document]:
    """A thing and its mirror image on the left, linked."""
    left = {**mirrored(right), "key": key, "name": name, "pair": right["key"]}
    return [left, {**right, "pair": key}]


def on_edge(kind: str, panel: EdgePanel, *, key: str, name: str, **more: Any) -> Document:
    return thing(
        kind, key, name, x=cm(panel.x_m), y=cm(panel.y_m), z=cm(panel.z_m), turn=math.degrees(panel.turn_rad),
        width_cm=cm(panel.width_m), height_cm=cm(panel.height_m), **more,
    )  # fmt: skip


def behind(panel: EdgePanel, distance_cm: float) -> tuple[float, float]:
    """A place so far behind an edge panel, away from the product."""
    return (
        cm(panel.x_m) - distance_cm * math.sin(panel.turn_rad), cm(panel.z_m) - distance_cm * math.cos(panel.turn_rad),
    )  # fmt: skip


def box_behind(s: Sizes, key: str, name: str) -> tuple[Document, float]:
    away = max(45.0, 1.6 * s.height, s.table_depth / 2 + 8)
    x, y, half_w, half_h = s.field_at(-away)
    box = thing(
        "square box", key, name, x=x, y=y, z=-away, turn=0.0, width_cm=2 * BEYOND_FLAG * half_w, height_cm=2 * BEYOND_FLAG * half_h,
        gradient_stops=0.5,
    )  # fmt: skip
    return box, away

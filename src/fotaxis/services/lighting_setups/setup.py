"""What a lighting set-up says of itself, the sizes it is fitted to, and the tools all of them build with."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from fotaxis.core.metering import incident
from fotaxis.core.metering.relief_contrast import zone_patch
from fotaxis.core.placement.edge import clear_distance_m, edge_panel
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
class MirrorZone:
    """A zone of foil or metal that faces the camera: its middle and half its size, centimetres, and the unit direction in which the
    camera sees mirrored there.   Source: law of reflection."""

    middle: tuple[float, float, float]
    looks: tuple[float, float, float]
    half: tuple[float, float]


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
    middle_field: tuple[float, float] = (0.0, 0.0)
    logo: MirrorZone | None = None

    def field_at(self, z: float) -> tuple[float, float, float, float]:
        """What the frame shows at a depth: its middle x and y, half its width and height."""
        part = (self.camera_distance - z) / self.camera_distance
        x = self.camera_side + (self.aim_side - self.camera_side) * part
        y = self.camera_height + (self.aim_height - self.camera_height) * part
        away = self.camera_distance - z
        x, y = x + self.middle_field[0] * away, y + self.middle_field[1] * away
        return x, y, self.half_field[0] * away, self.half_field[1] * away

    @property
    def middle(self) -> float:
        return self.lift + self.height / 2

    @property
    def top(self) -> float:
        return self.lift + self.height


@dataclass(frozen=True, slots=True, kw_only=True)
class LightingSetup:
    """One lighting set-up: make builds its lights and cards for a set, as parts of a shot; targets: stops from grey that each light's
    brightest should reach, by key, on the product, or anywhere in the frame for those of in_frame. windowed: with a window mask on
    the lens."""

    key: str
    name: str
    words: str
    make: Callable[[Sizes], Document]
    targets: dict[str, float]
    windowed: bool = False
    in_frame: frozenset[str] = frozenset()


def sizes_of(plan: Plan) -> Sizes:
    """What of a plan a start is fitted to."""
    product, table = plan.product, plan.table
    camera = plan.camera
    return Sizes(
        height=product.height_m * 100, width=product.profile.widest_m * 200, lift=plan.lift_m * 100,
        camera_height=camera.place.y_m * 100, camera_distance=camera.place.z_m * 100, camera_side=camera.place.x_m * 100,
        aim_side=camera.aim.x_m * 100, aim_height=camera.aim.y_m * 100, half_field=camera.half_field, middle_field=camera.middle,
        table_width=(table.width_m + 2 * abs(table.x_m)) * 100 if table else 0.0,
        table_depth=max(0.0, table.depth_m - 2 * table.z_m) * 100 if table else 0.0,
        label=incident.usual_height_m(plan) * 100, logo=_logo(plan),
    )  # fmt: skip


def _logo(plan: Plan) -> MirrorZone | None:
    """The product's first zone of metal that the camera sees; None without one."""
    eye = plan.camera.place.array()
    for band in plan.product.bands:
        if not band.skin.metal:
            continue
        middle, _, _, normal, half = zone_patch(plan, plan.product, band)
        way = middle - eye
        way /= np.linalg.norm(way)
        if float(way @ normal) < -FACING:
            looks = way - 2 * float(way @ normal) * normal
            x, y, z = (float(v) for v in 100 * middle)
            a, b, c = (float(v) for v in looks)
            return MirrorZone(middle=(x, y, z), looks=(a, b, c), half=(100 * half[0], 100 * half[1]))
    return None


FACING = 0.1
"""A zone that faces away more than this cosine is seen too flat to be lit."""


STEEP_DEG = 15.0
"""From a camera that looks down steeper, walls mirror the table: the faces that matter are the top and the table itself, which mirror
what stands behind and above."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Face:
    """Where a luminous face stands: its middle and size, centimetres; turn and tilt, degrees."""

    x: float
    y: float
    z: float
    turn: float
    tilt: float
    width: float
    height: float

    def behind(self, distance: float) -> tuple[float, float, float]:
        """A place so far behind it, x, y and z."""
        turn, tilt = math.radians(self.turn), math.radians(self.tilt)
        level = distance * math.cos(tilt)
        return (
            self.x - level * math.sin(turn), self.y - distance * math.sin(tilt), self.z - level * math.cos(turn),
        )  # fmt: skip

    def grown(self, by: float) -> Face:
        return replace(self, width=by * self.width, height=by * self.height)


def looks_down_deg(s: Sizes) -> float:
    """How steeply the camera looks down."""
    return math.degrees(math.atan2(s.camera_height - s.aim_height, max(s.camera_distance, 1.0)))


def is_steep(s: Sizes) -> bool:
    return looks_down_deg(s) > STEEP_DEG


def mirrored_field(s: Sizes, away: float) -> Face:
    """What a level mirror at the aim shows of the space behind, filling the frame, so far beyond it.

    Source: law of reflection: the camera's image under the mirror looks up as steeply as the camera looks down.
    """
    down = math.radians(looks_down_deg(s))
    eye = math.hypot(s.camera_distance, s.camera_height - s.aim_height)
    half_w, half_h = s.half_field
    x, rise = (part * (eye + away) for part in s.middle_field)
    # What the frame shows higher up on a level mirror lies lower behind it.
    return Face(
        x=s.aim_side + x, y=s.aim_height + away * math.sin(down) - rise * math.cos(down),
        z=-away * math.cos(down) - rise * math.sin(down), turn=0.0, tilt=-math.degrees(down),
        width=2 * half_w * (eye + away), height=2 * half_h * (eye + away),
    )  # fmt: skip


def edge_for(s: Sizes, *, inner: float = 0.85, outer: float = 0.95, least_cm: float = 0.0) -> Face:
    """The right edge panel for a product: clear of the table, so that its line runs to the foot; from above the right half of what the
    top mirrors."""
    if is_steep(s):
        field = mirrored_field(s, max(40.0, 1.5 * s.height, least_cm))
        part = min(1.0, 1.6 * max(s.width, s.height) / field.width * 2)
        wide, high = field.width * part / 2, field.height * part
        return replace(field, x=field.x + wide / 2 + HALVES_APART_CM, width=wide, height=high)
    radius = s.width / 200
    least = max(LEAST_DISTANCE_M, 3 * radius, 0.9 * s.height / 100, least_cm / 100)
    distance = clear_distance_m(
        radius_m=radius, table_width_m=s.table_width / 100, table_depth_m=s.table_depth / 100, least_m=least, inner=inner,
        outer=outer,
    )  # fmt: skip
    panel = edge_panel(
        radius_m=radius, foot_m=s.lift / 100, top_m=s.top / 100, camera_height_m=s.camera_height / 100,
        camera_distance_m=s.camera_distance / 100, distance_m=distance, inner=inner, outer=outer,
    )  # fmt: skip
    return Face(
        x=cm(panel.x_m), y=cm(panel.y_m), z=cm(panel.z_m), turn=math.degrees(panel.turn_rad), tilt=0.0, width=cm(panel.width_m),
        height=cm(panel.height_m),
    )  # fmt: skip


HALVES_APART_CM = 1.0


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


def on_edge(kind: str, face: Face, *, key: str, name: str, **more: Any) -> Document:
    return thing(
        kind, key, name, x=face.x, y=face.y, z=face.z, turn=face.turn, tilt=face.tilt, width_cm=face.width, height_cm=face.height,
        **more,
    )  # fmt: skip


def field_behind(s: Sizes, away: float) -> Face:
    """What fills the frame behind the product, so far away; from above, what the table mirrors."""
    if is_steep(s):
        return mirrored_field(s, away)
    x, y, half_w, half_h = s.field_at(-away)
    return Face(x=x, y=y, z=-away, turn=0.0, tilt=0.0, width=2 * half_w, height=2 * half_h)


def box_behind(s: Sizes, key: str, name: str) -> tuple[Document, float]:
    away = max(45.0, 1.6 * s.height, s.table_depth / 2 + 8)
    box = on_edge("square box", field_behind(s, away).grown(BEYOND_FLAG), key=key, name=name, gradient_stops=0.5)
    return box, away

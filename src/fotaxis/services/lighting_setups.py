"""Whole starting points of the main schools, fitted to the product, the table and the camera by computation."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from fotaxis.core.camera.camera import picture_size
from fotaxis.core.constants import MIDDLE_GREY, REC709_LUMINANCE
from fotaxis.core.errors import FormatError
from fotaxis.core.lights.fixtures import Light, at_full_power
from fotaxis.core.metering import incident
from fotaxis.core.placement.edge import EdgePanel, clear_distance_m, edge_panel
from fotaxis.core.render.layers import layer_gains
from fotaxis.core.render.preview.traced_scene import TracedScene, relight_draft, trace_scene
from fotaxis.core.scene.plan import Plan
from fotaxis.services.mirror_pairs import mirrored
from fotaxis.services.ports import Document, ShotCodec
from fotaxis.services.presets import new_thing, usual_mask

DRAFT_SIDE = 120
LEAST_DISTANCE_M = 0.3
BOX_BEHIND_SHEET_CM = 25.0
FLAG_BEFORE_CM = 6.0
BEYOND_FRAME, BEYOND_FLAG = 1.06, 1.6
"""The flag of a dark field is so much larger than the frame, the box behind it too."""

OUTLINE_TURN_DEG = 80.0
KICKER_CLEAR_CM = 32.0
EDGE_STOPS, LABEL_STOPS, GLOW_STOPS, FIELD_STOPS, ACCENT_STOPS = 1.5, 0.8, 1.0, 2.2, 1.0
"""How bright the brightest of what a light does should be, stops from grey. Common practice."""

BRIGHTEST = 0.995
"""Share of a light's pixels that may be brighter than what counts as its brightest."""


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
class School:
    """One starting point. targets: stops from grey that each light's brightest should reach, by key."""

    key: str
    name: str
    words: str
    make: Callable[[Sizes], Document]
    targets: dict[str, float]


def sizes_of(plan: Plan) -> Sizes:
    """What of a plan a start is fitted to."""
    product, table = plan.product, plan.table
    camera = plan.camera
    return Sizes(
        height=product.height_m * 100, width=product.profile.widest_m * 200, lift=plan.lift_m * 100,
        camera_height=camera.place.y_m * 100, camera_distance=camera.place.z_m * 100, camera_side=camera.place.x_m * 100,
        aim_side=camera.aim.x_m * 100, aim_height=camera.aim.y_m * 100, half_field=camera.half_field,
        table_width=table.width_m * 100 if table else 0.0, table_depth=table.depth_m * 100 if table else 0.0,
        label=incident.usual_height_m(plan) * 100,
    )  # fmt: skip


def _edge(s: Sizes, *, inner: float = 0.85, outer: float = 0.95, least_cm: float = 0.0) -> EdgePanel:
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


def _cm(value_m: float) -> float:
    return round(100 * value_m, 1)


def _thing(
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


def _aimed(x: float, y: float, z: float, at_height: float) -> dict[str, float]:
    """Place and angles of something that looks at the product's axis at a height."""
    return {
        "x": x, "y": y, "z": z, "turn": math.degrees(math.atan2(-x, -z)),
        "tilt": math.degrees(math.atan2(at_height - y, math.hypot(x, z))),
    }  # fmt: skip


def _as_pair(right: Document, key: str, name: str) -> list[Document]:
    """A thing and its mirror image on the left, linked."""
    left = {**mirrored(right), "key": key, "name": name, "pair": right["key"]}
    return [left, {**right, "pair": key}]


def _on_edge(kind: str, panel: EdgePanel, *, key: str, name: str, **more: Any) -> Document:
    return _thing(
        kind, key, name, x=_cm(panel.x_m), y=_cm(panel.y_m), z=_cm(panel.z_m), turn=math.degrees(panel.turn_rad),
        width_cm=_cm(panel.width_m), height_cm=_cm(panel.height_m), **more,
    )  # fmt: skip


def _behind(panel: EdgePanel, distance_cm: float) -> tuple[float, float]:
    """A place so far behind an edge panel, away from the product."""
    return (
        _cm(panel.x_m) - distance_cm * math.sin(panel.turn_rad), _cm(panel.z_m) - distance_cm * math.cos(panel.turn_rad),
    )  # fmt: skip


def _double_diffusion(s: Sizes) -> Document:
    panel = _edge(s)
    sheet = _on_edge("full grid cloth", panel, key="sheet-right", name="Right sheet")
    x, z = _behind(panel, BOX_BEHIND_SHEET_CM)
    strip = _thing(
        "strip box", "right", "Right strip", x=x, y=_cm(panel.y_m), z=z, turn=math.degrees(panel.turn_rad),
        width_cm=_cm(panel.width_m), height_cm=_cm(panel.height_m), group="edges",
    )  # fmt: skip
    return {"lights": _as_pair(strip, "left", "Left strip"), "cards": _as_pair(sheet, "sheet-left", "Left sheet")}


def _acrylic(s: Sizes) -> Document:
    panel = _edge(s)
    sheet = _on_edge("opal acrylic", panel, key="sheet-right", name="Right acrylic")
    x, z = _behind(panel, max(30.0, 0.7 * _cm(panel.height_m)))
    head = _thing(
        "dish 65°", "right", "Right head", x=x, y=_cm(panel.y_m), z=z, turn=math.degrees(panel.turn_rad), group="edges"
    )
    return {"lights": _as_pair(head, "left", "Left head"), "cards": _as_pair(sheet, "sheet-left", "Left acrylic")}


def _one_light(s: Sizes) -> Document:
    panel = _edge(s)
    right = _on_edge("panel", panel, key="key", name="Key panel", gradient="core", gradient_stops=1.0)
    light = {**mirrored(right)}
    card = _on_edge("white card", _edge(s, inner=0.82, outer=0.96), key="opposite", name="White card")
    return {"lights": [light], "cards": [card]}


def _box_behind(s: Sizes, key: str, name: str) -> tuple[Document, float]:
    away = max(45.0, 1.6 * s.height, s.table_depth / 2 + 8)
    x, y, half_w, half_h = s.field_at(-away)
    box = _thing(
        "square box", key, name, x=x, y=y, z=-away, turn=0.0, width_cm=2 * BEYOND_FLAG * half_w, height_cm=2 * BEYOND_FLAG * half_h,
        gradient_stops=0.5,
    )  # fmt: skip
    return box, away


def _dark_field(s: Sizes) -> Document:
    box, away = _box_behind(s, "behind", "Box behind")
    x, y, half_w, half_h = s.field_at(-away + FLAG_BEFORE_CM)
    flag = _thing(
        "black card", "flag", "Flag before the box", x=x, y=y, z=-away + FLAG_BEFORE_CM, turn=0.0,
        width_cm=2 * BEYOND_FRAME * half_w, height_cm=2 * BEYOND_FRAME * half_h,
    )  # fmt: skip
    return {"lights": [box], "cards": [flag], "lens": {"mask": True}}


def _bright_field(s: Sizes) -> Document:
    box, _ = _box_behind(s, "behind", "Box behind")
    middle, _, half_w, _ = s.field_at(0.0)
    wide = max(6.0, 0.9 * s.width)
    out = (
        half_w + abs(middle) + wide * math.cos(math.radians(OUTLINE_TURN_DEG)) / 2 + 1
    )  # just out of the frame on both sides
    card = _thing(
        "black card", "outline-right", "Right outline card", x=out, y=s.middle, z=-0.3 * s.width, turn=-OUTLINE_TURN_DEG,
        width_cm=wide, height_cm=1.3 * s.height,
    )  # fmt: skip
    return {"lights": [box], "cards": _as_pair(card, "outline-left", "Left outline card")}


def _raking(s: Sizes) -> Document:
    reach = max(60.0, 3 * s.width)
    rake = _thing("dish 65°", "rake", "Raking head", **_aimed(-reach, s.middle + 0.2 * s.height, 0.16 * reach, s.middle))
    card = _thing(
        "silver card", "logo", "Silver card for the logo", **_aimed(1.2 * s.width + 14, s.middle, s.width + 22, s.label),
        width_cm=max(12.0, 0.9 * s.width), height_cm=max(16.0, 0.8 * s.height),
    )  # fmt: skip
    return {"lights": [rake], "cards": [card]}


def _overhead(s: Sizes) -> Document:
    over = max(30.0, 1.2 * s.height, 2 * s.width)
    side = max(60.0, 2.2 * max(s.width, s.height))
    box = _thing(
        "square box", "overhead", "Overhead box", **_aimed(0.0, s.top + over, -6.0, s.middle), width_cm=side, height_cm=side
    )
    away = max(55.0, 2 * s.height)
    middle, _, half_w, _ = s.field_at(-0.71 * away)
    side_x = max(0.71 * away, middle + half_w + KICKER_CLEAR_CM)
    kicker = _thing(
        "dish 65°", "kicker", "Kicker", **_aimed(side_x, s.top + 0.5 * s.height, -0.71 * away, s.middle),
        doors_deg=[45.0, 45.0, 45.0, 5.0],
    )  # fmt: skip
    return {"lights": [box, kicker], "cards": []}


def _glow(s: Sizes) -> Document:
    away = max(18.0, s.width + 10, s.table_depth / 2 + 4)
    sheet = _thing(
        "opal acrylic", "acrylic", "Acrylic behind", x=0.0, y=s.middle, z=-away, turn=0.0, width_cm=max(60.0, 2.2 * s.height),
        height_cm=max(60.0, 2.2 * s.height),
    )  # fmt: skip
    head = _thing(
        "dish 65°", "glow", "Glow head", x=0.0, y=s.lift + 0.45 * s.height, z=-away - max(35.0, 1.2 * s.height), turn=0.0,
        grid_angle_deg=30.0,
    )  # fmt: skip
    return {"lights": [head], "cards": [sheet]}


SCHOOLS = (
    School(
        key="double-diffusion", name="Two strips, double diffusion", make=_double_diffusion,
        words="A strip box behind a sheet on either side: soft lines down both edges.",
        targets={"left": EDGE_STOPS, "right": EDGE_STOPS},
    ),
    School(
        key="acrylic", name="Two acrylic sheets", make=_acrylic, words="A bare head behind clean opal acrylic on either side.",
        targets={"left": EDGE_STOPS, "right": EDGE_STOPS},
    ),
    School(
        key="one-light", name="One light and a card", make=_one_light,
        words="One panel, led from the left, and a white card opposite for the second, weaker line.",
        targets={"key": EDGE_STOPS},
    ),
    School(
        key="dark-field", name="Dark field", make=_dark_field,
        words="A large box behind, a flag before it: clear glass drawn by bright edges on black. Window mask on the lens.",
        targets={"behind": EDGE_STOPS},
    ),
    School(
        key="bright-field", name="Bright field", make=_bright_field,
        words="The box behind is the background; black cards draw the outline.", targets={"behind": FIELD_STOPS},
    ),
    School(
        key="raking", name="Raking light, card for the logo", make=_raking,
        words="A hard head along the surface for texture, a silver card that throws it onto the logo.",
        targets={"rake": LABEL_STOPS},
    ),
    School(
        key="overhead", name="Overhead box with a kicker", make=_overhead,
        words="For metal: a large soft ceiling, and a hard kicker from behind with doors that keep it off the table.",
        targets={"overhead": ACCENT_STOPS, "kicker": ACCENT_STOPS},
    ),
    School(
        key="glow", name="Gridded glow", make=_glow, words="A gridded head behind frosted acrylic: a round glow through the liquid.",
        targets={"glow": GLOW_STOPS},
    ),
)  # fmt: skip
SCHOOL = {school.key: school for school in SCHOOLS}


def begun(document: Document, key: str, codec: ShotCodec) -> Document:
    """A shot's document with the lights and cards of a school in place of its own, powers set so that each light's brightest
    reaches what is usual. Raises FormatError for an unknown school, or where the set cannot be built."""
    if key not in SCHOOL:
        raise FormatError(f"there is no start called {key[:20]!r}; choose one from the list.", place="school")
    school = SCHOOL[key]
    before = codec.plan(document)
    made = school.make(sizes_of(before))
    mask = made.pop("lens", {}).get("mask", False)
    lens = {**document["lens"]}
    if mask and not lens.get("mask"):
        lens["mask"] = usual_mask(before)
    result = codec.check({**document, "lens": lens, **made})
    plan = codec.plan(result)
    powers = _powers(plan, school)
    result["lights"] = [
        {**light, "power_stops": powers.get(light["key"], light["power_stops"])} for light in result["lights"]
    ]
    return codec.check(result)


def _powers(plan: Plan, school: School) -> dict[str, float]:
    """The step of each light's power at which its brightest on the product, or in the frame, is what the school wants."""
    full = tuple(at_full_power(light) for light in plan.lights)
    bright = replace(plan, lights=full, exposure=plan.exposure.in_step(), room_lux=0.0)
    width, height = picture_size(ratio=plan.camera.crop_ratio, long_side=DRAFT_SIDE)
    stage = trace_scene(bright, width=width, height=height)
    layers, gains = relight_draft(stage, bright).pictures, layer_gains(bright)
    powers = {}
    for i, light in enumerate(full, start=1):
        if light.key in school.targets:
            level = _brightest(stage, layers[i] * np.float32(gains[i]))
            if level > 0:
                powers[light.key] = _step(light, school.targets[light.key] - math.log2(level / MIDDLE_GREY))
    return powers


def _brightest(stage: TracedScene, picture: np.ndarray) -> float:
    luminance = picture.astype(np.float64) @ np.array(REC709_LUMINANCE)
    there = luminance[stage.is_product] if stage.is_product.any() else luminance
    level = float(np.quantile(there, BRIGHTEST))
    return level if level > 1e-6 else float(np.quantile(luminance, BRIGHTEST))


def _step(light: Light, stops: float) -> float:
    """The nearest step of the light's own power range."""
    steps, lowest = light.emission.power_range.steps_per_stop, light.emission.power_range.lowest_stops
    return max(-float(lowest), min(0.0, round(stops * steps) / steps))

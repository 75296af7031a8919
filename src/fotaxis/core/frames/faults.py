"""What would spoil the photograph: things, stands and table edges in the frame, light into the lens, a clipped product."""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from fotaxis.core.columns import SEGMENT
from fotaxis.core.constants import MIDDLE_GREY, REC709_LUMINANCE
from fotaxis.core.geometry import orientation
from fotaxis.core.keys import BACKGROUND_KEY, TABLE_KEY
from fotaxis.core.lights.fixtures import Card, Light
from fotaxis.core.render.arrays.pack_static_scene import surface_owners
from fotaxis.core.render.arrays.path_records import SKINS_PER_SURFACE
from fotaxis.core.render.arrays.static_scene import StaticScene
from fotaxis.core.render.lens.through_lens import glare_reach
from fotaxis.core.render.lens.veiling_glare import lens_illuminance
from fotaxis.core.render.lighting import Lighting
from fotaxis.core.render.mirrored import zone_name
from fotaxis.core.render.passes import trace_samples
from fotaxis.core.render.preview.traced_scene import TracedScene
from fotaxis.core.scene.checks import is_far
from fotaxis.core.scene.naming import names_of
from fotaxis.core.scene.plan import Plan
from fotaxis.core.stops import measured_stops, signed_stops
from fotaxis.core.values import Array, Picture

Thing = Light | Card

ON_EDGE = 17
"""Places looked at along each side of a face, and along each edge of a table."""

LEAST_SEEN = 2
NEAR_M = 4e-3
"""What is hit so close before a place hides nothing of it."""

HAND_HELD_M = 0.3
"""A card smaller than this both ways needs no stand of its own."""

BOOMED_M = 0.6
"""What hangs higher over the table stands aside on a boom."""

BOOMED_TILT_RAD = math.radians(20)
"""What looks down so steeply hangs on a boom too."""

LEAST_VEIL_STOPS = -6.0
"""A veil fainter than this, from grey, lifts no black that anybody sees. Common practice."""

LEAST_CLIPPED = 0.005
EDGE_STOPS = 0.6
"""Two sides of a table's edge that differ by less are not told apart."""

EDGE_APART = 0.012
DARKEST_STOPS = -5.0


VEIL, CLIPPED, IN_FRAME, CROSSING = "veil", "clipped", "in frame", "crossing"


@dataclass(frozen=True, slots=True, kw_only=True)
class Fault:
    """One thing that is wrong: its kind, whose (a key, '' for the picture as a whole), what and what to do.

    flag: a card that would stop it; side, depth_m, whole: of a thing in the frame, from where it comes in, how far, and is that half
    of the frame or more; other: key of what it stands in.
    """

    kind: str
    key: str
    words: str
    flag: Flag | None = None
    side: str = ""
    depth_m: float = 0.0
    whole: bool = False
    other: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class Flag:
    """A black card: place of its middle (m), turn and tilt (rad), size (m)."""

    place: Array
    turn_rad: float
    tilt_rad: float
    width_m: float
    height_m: float


def things_in_frame(plan: Plan, scene: StaticScene) -> list[Fault]:
    """Lights and cards of which an edge is seen in the frame, and stands that would be."""
    found = []
    for thing in (*plan.lights, *plan.cards):
        if is_far(thing):
            continue
        seen = _seen(plan, scene, _outline(thing), thing.key)
        if np.count_nonzero(seen) >= LEAST_SEEN:
            side, depth_cm, whole = _intrudes(plan, _outline(thing)[seen])
            words = f"{thing.name} reaches {depth_cm:.0f} cm into the frame {side}: move it out, or crop."
            if whole:
                words = f"{thing.name} shows its edges in the frame: take a larger one, move it, or crop."
            found.append(Fault(kind=IN_FRAME, key=thing.key, words=words, side=side, depth_m=depth_cm / 100, whole=whole))
        elif (stand := _stand(plan, thing)) is not None and np.count_nonzero(
            _seen(plan, scene, stand, thing.key)
        ) >= LEAST_SEEN:
            found.append(
                Fault(
                    kind=IN_FRAME,
                    key=thing.key,
                    words=f"The stand under {thing.name} would show: boom it in from the side, or hang it.",
                )
            )
    return found


def _axes(thing: Thing) -> tuple[Array, Array, Array]:
    return orientation.axes(turn_rad=thing.stance.turn_rad, tilt_rad=thing.stance.tilt_rad)


def _outline(thing: Thing) -> Array:
    """Places along the outline of a face, (4 ON_EDGE, 3) metres."""
    half_w, half_h = thing.half_size_m
    across, up, _ = _axes(thing)
    part = np.linspace(-1, 1, ON_EDGE)
    one = np.ones(ON_EDGE)
    u, v = np.concatenate([part, part, -one, one]), np.concatenate([-one, one, part, part])
    return thing.stance.place.array() + (u * half_w)[:, None] * across + (v * half_h)[:, None] * up


def _stand(plan: Plan, thing: Thing) -> Array | None:
    """Places down a stand behind a thing, from its middle to the floor; None for what needs none there."""
    half_w, half_h = thing.half_size_m
    place = thing.stance.place.array()
    if isinstance(thing, Card) and max(half_w, half_h) < HAND_HELD_M / 2:
        return None
    floor = -(plan.table.above_floor_m if plan.table else 0.75)
    if abs(thing.stance.tilt_rad) > BOOMED_TILT_RAD or place[1] > BOOMED_M or place[1] - half_h < floor + 0.05:
        return None
    _, _, front = _axes(thing)
    behind = place - 0.05 * front
    low = np.linspace(place[1] - half_h, floor, ON_EDGE)
    return np.column_stack([np.full(ON_EDGE, behind[0]), low, np.full(ON_EDGE, behind[2])])


def _seen(plan: Plan, scene: StaticScene, places: Array, own: str) -> np.ndarray:
    """Which of some places the camera sees in its frame past everything else, (n,) bool."""
    camera = plan.camera
    eye, (right, up, ahead) = camera.place.array(), camera.from_frame()
    half_w, half_h = camera.half_field
    way = places - eye
    depth = way @ ahead
    safe = np.where(depth > 1e-6, depth, 1.0)
    x, y = (way @ right / safe / half_w + 1) / 2, (1 - way @ up / safe / half_h) / 2
    seen: np.ndarray = (depth > 1e-6) & (x > 0) & (x < 1) & (y > 0) & (y < 1)
    if not seen.any():
        return seen
    numbers = np.flatnonzero(seen)
    traced = trace_samples(plan, scene, np.column_stack([x, y])[numbers] * 100, 100, 100)
    free = traced.segments[traced.starts[:-1], SEGMENT.LENGTH]
    far = np.linalg.norm(way[numbers], axis=1)
    hidden = free < far - NEAR_M
    for thing in (*plan.lights, *plan.cards):
        if thing.key != own and not (isinstance(thing, Card) and thing.finish.veil.green > 0):
            hidden |= _hides(thing, eye, way[numbers])
    seen[numbers[hidden]] = False
    return seen


def _hides(thing: Thing, eye: Array, ways: Array) -> np.ndarray:
    """Does a face stand before the ends of some ways from the lens, (n,) bool?"""
    half_w, half_h = thing.half_size_m
    across, up, front = _axes(thing)
    toward = thing.stance.place.array() - eye
    along = ways @ front
    part = np.where(np.abs(along) > 1e-9, float(toward @ front) / np.where(along == 0, 1, along), np.inf)
    at = part[:, None] * ways - toward
    hit: np.ndarray = (part > 0) & (part < 1 - 1e-3) & (np.abs(at @ across) < half_w) & (np.abs(at @ up) < half_h)
    return hit


def _intrudes(plan: Plan, places: Array) -> tuple[str, float, bool]:
    """At which side of the frame some places come in, how far, centimetres where they are, and is that half of the frame or more."""
    camera = plan.camera
    eye, (right, up, ahead) = camera.place.array(), camera.from_frame()
    half_w, half_h = camera.half_field
    way = places - eye
    depth = way @ ahead
    x, y = way @ right, way @ up
    deep = {
        "from the left": float((x + half_w * depth).max()), "from the right": float((half_w * depth - x).max()),
        "from below": float((y + half_h * depth).max()), "from above": float((half_h * depth - y).max()),
    }  # fmt: skip
    side = min(deep, key=lambda name: deep[name])
    half = half_w if side in ("from the left", "from the right") else half_h
    return side, 100 * deep[side], bool(deep[side] > half * float(depth.mean()))


def table_edges(plan: Plan, scene: StaticScene, luminance: Array) -> list[Fault]:
    """Edges of the table that show in the picture: luminance (height, width), linear, grey 0.18."""
    table = plan.table
    if not table or table.sweep_m:
        return []
    half_w, half_d = table.width_m / 2, table.depth_m / 2
    part = np.linspace(-0.98, 0.98, 2 * ON_EDGE)
    one = np.ones(len(part))
    sides = {
        "back": (part * half_w, -half_d * one), "front": (part * half_w, half_d * one),
        "left": (-half_w * one, part * half_d), "right": (half_w * one, part * half_d),
    }  # fmt: skip
    found = []
    for name, (x, z) in sides.items():
        places = np.column_stack([x + table.x_m, np.zeros(len(x)), z + table.z_m])
        if _edge_shows(plan, scene, luminance, places):
            advice = "a deeper table, a sweep, or a lower camera" if name == "back" else "a larger table, or a tighter crop"
            found.append(
                Fault(kind=IN_FRAME, key=TABLE_KEY, words=f"The table's {name} edge shows in the frame: {advice} hides it.")
            )
    return found


def _edge_shows(plan: Plan, scene: StaticScene, luminance: Array, places: Array) -> bool:
    """Is an edge of the table seen, and told from what lies beside it?"""
    seen = _seen(plan, scene, places, "")
    if np.count_nonzero(seen) < LEAST_SEEN:
        return False
    spots = np.array([plan.camera.project(place, width=1, height=1) for place in places[seen]])
    if len(spots) < LEAST_SEEN:
        return False
    along = spots[-1] - spots[0]
    aside = np.array([-along[1], along[0]]) / max(float(np.hypot(*along)), 1e-9) * EDGE_APART
    both = np.concatenate([spots - aside, spots + aside])
    inside = ((both > 0) & (both < 1)).all(axis=1).reshape(2, -1).all(axis=0)
    if np.count_nonzero(inside) < LEAST_SEEN:
        return False
    owners = np.array(surface_owners(plan))
    traced = trace_samples(plan, scene, both * 100, 100, 100)
    owner = np.where(traced.first >= 0, owners[np.maximum(traced.first, 0) // SKINS_PER_SURFACE], "").reshape(2, -1)
    split = inside & ((owner == TABLE_KEY).sum(axis=0) == 1) & np.isin(owner, ["", TABLE_KEY, BACKGROUND_KEY]).all(axis=0)
    if np.count_nonzero(split) < LEAST_SEEN:
        return False
    height, width = luminance.shape
    level = luminance[
        (both[:, 1] * height).astype(int).clip(0, height - 1), (both[:, 0] * width).astype(int).clip(0, width - 1)
    ].reshape(2, -1)[:, split]
    stops = np.log2(np.maximum(level, MIDDLE_GREY * 2.0**-16) / MIDDLE_GREY)
    return bool(np.median(np.abs(stops[0] - stops[1])) > EDGE_STOPS and np.median(stops.max(axis=0)) > DARKEST_STOPS)


def light_into_lens(plan: Plan, lit: Lighting, gains: Array) -> list[Fault]:
    """Lights that shine straight into the lens and veil the picture, with a flag that stops each.

    gains (1 + lights,): factor of every layer. Of the veil the median over the frame counts.
    """
    if plan.before_lens.glare <= 0:
        return []
    eye, ahead = plan.camera.place.array(), plan.camera.basis()[2]
    straight, from_faces = lens_illuminance(lit.scene, lit.emitters, lit.lights, eye=eye, ahead=ahead)
    reach = glare_reach(plan, straight)
    weights = np.array(REC709_LUMINANCE)
    found = []
    for i, light in enumerate(plan.lights):
        own = _hides(light, eye, FAR_M * straight) & (from_faces[:, i].max(axis=1) > 0)
        veil = gains[1 + i] * float(np.median(reach[:, own] @ (from_faces[own, i] @ weights))) if own.any() else 0.0
        if veil <= MIDDLE_GREY * 2.0**LEAST_VEIL_STOPS:
            continue
        flag = _flag_for(plan, light)
        where = f" {_flag_words(flag)} stops it." if flag else " It stands in the frame."
        found.append(
            Fault(
                kind=VEIL, key=light.key, flag=flag,
                words=f"{light.name} shines into the lens: a veil of {signed_stops(math.log2(veil / MIDDLE_GREY))} stops over "
                f"everything.{where}",
            )
        )  # fmt: skip
    return found


FAR_M = 1e3
FLAG_PARTS = np.linspace(0.25, 0.8, 12)
FLAG_SLACK = 1.15


def _flag_for(plan: Plan, light: Light) -> Flag | None:
    """A black card between lens and light, as near to the lens as it can stand outside the frame; None where it cannot."""
    camera = plan.camera
    eye, (right, up, ahead) = camera.place.array(), camera.from_frame()
    half_w, half_h = camera.half_field
    pupil = camera.focal_length_m / plan.exposure.f_number
    way = light.stance.place.array() - eye
    size = 2 * math.hypot(*light.half_size_m)
    for part in FLAG_PARTS:
        wide = FLAG_SLACK * (size * part + pupil * (1 - part))
        middle = part * way
        depth = float(middle @ ahead)
        half = wide / 2 + pupil / 2
        beside = abs(float(middle @ right)) - half > half_w * max(depth, 0) or abs(float(middle @ up)) - half > half_h * max(
            depth, 0
        )
        if beside or depth <= -half:
            turn, tilt = math.atan2(way[0], way[2]), math.atan2(way[1], math.hypot(way[0], way[2]))
            return Flag(place=eye + middle, turn_rad=turn, tilt_rad=tilt, width_m=wide, height_m=wide)
    return None


def _flag_words(flag: Flag) -> str:
    x, y, z = (100 * float(v) for v in flag.place)
    side = f"{abs(x):.0f} cm {'right' if x >= 0 else 'left'}"
    return f"A flag {100 * flag.width_m:.0f} × {100 * flag.height_m:.0f} cm, {side}, {z:.0f} cm in front, {y:.0f} cm high,"


def clipped_product(plan: Plan, stage: TracedScene, levels: Picture) -> list[Fault]:
    """Where the product is clipped; levels (height, width, 3) of the planned picture, of any size."""
    height, width = levels.shape[:2]
    rows = (np.arange(height) * stage.height // height)[:, None]
    columns = (np.arange(width) * stage.width // width)[None, :]
    pixels = rows * stage.width + columns
    first = stage.traced.first[pixels]
    own = stage.is_product[rows, columns]
    most = levels.max(axis=2)
    over = own & (most >= 1.0)
    count = int(np.count_nonzero(own))
    if not count or np.count_nonzero(over) < LEAST_CLIPPED * count:
        return []
    zones: dict[str, int] = {}
    for skin, seen in zip(*np.unique(first[over] % SKINS_PER_SURFACE, return_counts=True), strict=True):
        name = zone_name(plan, "product", stage.scene.skins[int(skin)]) or plan.product.name
        zones[name] = zones.get(name, 0) + int(seen)
    told = " and ".join(
        f"{100 * seen / count:.1f} % on {name}" for name, seen in sorted(zones.items(), key=lambda p: -p[1])[:2]
    )
    by = math.log2(float(np.quantile(most[over], 0.9)))
    return [
        Fault(
            kind=CLIPPED,
            key="",
            words=f"Clipped: {told} of the product's area; {measured_stops(max(by, 0.1))} stops less holds most of it.",
        )
    ]


def crossings(plan: Plan) -> Iterator[Fault]:
    """Lights and cards that stand in one another."""
    names = names_of(plan)
    things = [thing for thing in (*plan.lights, *plan.cards) if not is_far(thing)]
    for i, one in enumerate(things):
        for other in things[i + 1 :]:
            if _cross(one, other) or _cross(other, one):
                words = f"{names[one.key]} and {names[other.key]} stand in each other: move one of them."
                yield Fault(kind=CROSSING, key=one.key, words=words, other=other.key)


SHRUNK = 0.97
"""Faces that only touch along their edges do not cross."""


def _cross(one: Thing, other: Thing) -> bool:
    """Does an edge of one face go through the other?"""
    half_w, half_h = one.half_size_m
    across, up, _ = _axes(one)
    middle = one.stance.place.array()
    u, v = np.array([-1, 1, 1, -1]) * half_w * SHRUNK, np.array([-1, -1, 1, 1]) * half_h * SHRUNK
    corners = middle + u[:, None] * across + v[:, None] * up
    w, h = (SHRUNK * size for size in other.half_size_m)
    a, b, front = _axes(other)
    start = corners - other.stance.place.array()
    end = np.roll(start, -1, axis=0)
    s, t = start @ front, end @ front
    through = s * t < 0
    if not through.any():
        return False
    part = s[through] / (s[through] - t[through])
    at = start[through] + part[:, None] * (end[through] - start[through])
    return bool(((np.abs(at @ a) < w) & (np.abs(at @ b) < h)).any())

"""Which captures a set asks for: one exposure where everything agrees, and why not where it does not; both schools."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from fotaxis.core.captures.areas import BESIDE, METALLIC, PAPER, ZONE, SceneAreas
from fotaxis.core.captures.composite import OVER, SUM
from fotaxis.core.constants import REC709_LUMINANCE
from fotaxis.core.frames.faults import IN_FRAME, Fault
from fotaxis.core.frames.readings.reading import Value
from fotaxis.core.render.layers import layer_gains
from fotaxis.core.scene.plan import Plan
from fotaxis.core.stops import measured_stops
from fotaxis.core.wishes.wish import NamedWish
from fotaxis.services.captures.capture import capture_of
from fotaxis.services.captures.composite import base_plan
from fotaxis.services.pictures import Pictures
from fotaxis.services.ports import Document, ShotCodec
from fotaxis.services.sheet import camera_figures
from fotaxis.services.wishes import about, balanced, listed

ONE_FRAME, PER_PART = "one frame", "one per part"
LOST_STOPS = 1.0
"""A line that a polariser darkens by more than this is taken away by it."""

OWN_SHARE = 0.5
"""A light that makes more than half of what a part shows is that part's own."""

MOST_FOCUS = 8
SIDE = 400


@dataclass(frozen=True, slots=True, kw_only=True)
class Needed:
    """What a set asks for. reasons: why one frame will not do, () where it will; captures: what to shoot by the school, as parts of a
    document; words: that in a sentence."""

    school: str
    reasons: tuple[str, ...]
    captures: tuple[Document, ...]
    words: str

    @property
    def single(self) -> bool:
        return not self.reasons


def needed(document: Document, codec: ShotCodec, pictures: Pictures, *, school: str = ONE_FRAME) -> Needed:
    """The captures that a shot asks for as it stands.

    One frame: a single exposure where its wishes, focus and polariser agree, else as few more as heal what does not. One per part: a
    capture for each light, and one through a mask for each part of the product that has a light of its own.
    Raises DomainError where flash and shutter contradict each other.
    """
    plan = base_plan(document, codec)
    conflicts = level_conflicts(document, plan, codec, pictures)
    lost = lost_to_polariser(document, plan, codec, pictures)
    stack = focus_stack(plan)
    away = to_lift_away(plan, pictures)
    reasons = (*(one.words for one in conflicts), *lost, *stack.words, *(f"{fault.words} {LIFT}" for fault in away))
    if school == PER_PART:
        made = _per_part(document, plan, pictures)
    else:
        made = _focused(document, stack) or [_capture(document, [], name="Everything")]
    for conflict in conflicts:
        made.append(_balanced_alone(document, made, conflict))
    if lost:
        made.append({**_capture(document, made, name="Without the polariser's loss"), "polariser_deg": None})
    if away:
        names = listed([_lower(_name(plan, fault.key)) for fault in away])
        gone = {**_capture(document, made, name=f"Without {names}"[:80]), "away": [fault.key for fault in away]}
        made.append({**gone, "blend": OVER, "mask": [{"kind": "scene", "area": BESIDE, "feather_mm": 2.0}]})
    return Needed(school=school, reasons=reasons, captures=tuple(made), words=_words(reasons, made, school))


LIFT = "Or take a frame with it lifted away."


def _words(reasons: Sequence[str], made: Sequence[Document], school: str) -> str:
    if school == PER_PART:
        if len(made) == 1:
            return "One capture: one light is on."
        return f"{len(made)} captures, one for each light, through its own part's mask where it has one."
    if not reasons:
        return "One frame will do: levels, focus and polariser agree."
    return f"One frame will not do: {len(made)} captures."


def _capture(document: Document, made: Sequence[Document], *, name: str) -> Document:
    return capture_of({**document, "captures": [*document.get("captures", []), *made]}, name=name)


# ---- levels


@dataclass(frozen=True, slots=True, kw_only=True)
class Conflict:
    """A level that no powers bring about beside the others; powers: those that bring it about alone; zone: where its reading lies;
    still_stops: by how much it stays too bright (above 0) or too dark even then."""

    words: str
    name: str
    powers: dict[str, float]
    zone: str
    still_stops: float = 0.0


def level_conflicts(document: Document, plan: Plan, codec: ShotCodec, pictures: Pictures) -> list[Conflict]:
    """Wishes about levels that cannot be met together, by how much, and the powers that meet each by itself."""
    readings, wishes = codec.readings(document), codec.wishes(document)
    held = document.get("held", [])

    def read(now: Plan) -> dict[str, Value | None]:
        return pictures.named(now, readings)

    answer = balanced(plan, held, wishes, read)
    if answer is None:
        return []
    names = {one.key: one.name for one in readings}
    values = read(plan)
    found = []
    for bound in answer.balance.bounds:
        wish = answer.about[bound.of]
        against = [about(answer.about[k], names) for k in bound.against]
        way = "too bright" if bound.stops > 0 else "too dark"
        other = f" while {listed(against)} is as wished" if against else ""
        words = f"{about(wish, names)} stays {measured_stops(abs(bound.stops))} stops {way}{other}."
        own = balanced(plan, held, [wish], read)
        powers = dict(own.balance.all_powers) if own else {}
        still = own.balance.bounds[0].stops if own and own.balance.bounds else 0.0
        zone = _zone_of(plan, wish, values, pictures)
        found.append(Conflict(words=words, name=about(wish, names), powers=powers, zone=zone, still_stops=still))
    return found


def _zone_of(plan: Plan, wish: NamedWish, values: dict[str, Value | None], pictures: Pictures) -> str:
    """Name of the zone that a wish's reading lies in, '' off the zones."""
    value = values.get(getattr(wish.wish, "reading", ""))
    if value is None or not value.marks:
        return ""
    areas = pictures.areas(plan, long_side=SIDE)
    x, y = np.mean(np.array(value.marks), axis=0)
    width, height = areas.size
    return areas.zones[int(areas.zone[min(int(y * height), height - 1), min(int(x * width), width - 1)])]


def _balanced_alone(document: Document, made: Sequence[Document], conflict: Conflict) -> Document:
    """A capture whose powers meet one wish alone, laid over the others where that lies."""
    capture = _capture(document, made, name=f"For {_lower(conflict.name)}")
    on = capture["lights"]
    capture["lights"] = {key: conflict.powers.get(key, stops) for key, stops in on.items()}
    # What no power reaches the camera does: a smaller aperture where it is too bright, a higher ISO where it is too dark.
    if conflict.still_stops > 0:
        capture["f_number"] *= 2.0 ** (conflict.still_stops / 2)
    elif conflict.still_stops < 0:
        capture["iso"] *= 2.0**-conflict.still_stops
    part = {"kind": "scene", "area": ZONE, "zone": conflict.zone} if conflict.zone else {"kind": "scene", "area": PAPER}
    return {**capture, "blend": OVER, "mask": [{**part, "feather_mm": 2.0}]}


# ---- polariser


def lost_to_polariser(document: Document, plan: Plan, codec: ShotCodec, pictures: Pictures) -> list[str]:
    """Lines that are wished for and that the polariser on the lens takes away, by how much."""
    if plan.before_lens.polariser is None:
        return []
    wanted = {getattr(one.wish, "reading", "") for one in codec.wishes(document) if one.kind in ("place", "cover")}
    readings = tuple(one for one in codec.readings(document) if one.key in wanted)
    if not readings:
        return []
    bare = replace(plan, before_lens=replace(plan.before_lens, polariser=None))
    loss = plan.before_lens.polariser.loss_stops
    with_it, without = pictures.named(plan, readings), pictures.named(bare, readings)
    found = []
    for one in readings:
        there, here = without[one.key], with_it[one.key]
        if there is None or there.level_stops is None:
            continue
        now = here.level_stops if here is not None and here.level_stops is not None else -math.inf
        stops = there.level_stops - loss - now
        if stops > LOST_STOPS:
            gone = "altogether" if math.isinf(stops) else f"by {measured_stops(stops)} stops"
            found.append(f"The polariser takes {_lower(one.name)} away {gone}.")
    return found


# ---- focus


@dataclass(frozen=True, slots=True, kw_only=True)
class Stack:
    """Distances from the lens to focus on, cm, () where one is enough, and why."""

    distances_cm: tuple[float, ...] = ()
    words: tuple[str, ...] = ()


def focus_stack(plan: Plan) -> Stack:
    """How often to focus for a product that is sharp from its front to its edges.

    A round product shows what faces the lens, from its front to its axis: half of its depth; a thing beside it likewise.
    Source: depth of field of the thin lens, see camera.lens; circle of confusion as on the set sheet.
    """
    figures = camera_figures(plan)
    sharp = figures.near_cm + figures.far_cm
    if not math.isfinite(sharp):
        return Stack()
    eye = plan.camera.place.z_m
    near = min((eye - one.z_m - one.reach_m for one in plan.products), default=eye) * 100
    far = max((eye - one.z_m for one in plan.products), default=eye) * 100
    depth = far - near
    if depth <= sharp or depth <= 0:
        return Stack()
    count = min(MOST_FOCUS, math.ceil(depth / sharp))
    distances = tuple(round(near + depth * (k + 0.5) / count, 1) for k in range(count))
    return Stack(
        distances_cm=distances,
        words=(
            f"Front to edge is {depth:.1f} cm deep, sharp are {sharp:.1f} cm at this aperture: {count} focuses, or stop down.",
        ),
    )


def _focused(document: Document, stack: Stack) -> list[Document]:
    """A capture with everything on for each focus, each laid over where what is seen is nearest to it; none where one is enough."""
    found: list[Document] = []
    distances = stack.distances_cm
    for k, distance in enumerate(distances):
        capture = _capture(document, found, name=f"Focus {k + 1} of {len(distances)}")
        near = (distances[k - 1] + distance) / 2 if k else 0.0
        far = (distance + distances[k + 1]) / 2 if k + 1 < len(distances) else None
        mask = {"kind": "depth", "near_cm": round(near, 1), "far_cm": far and round(far, 1), "feather_mm": 2.0}
        found.append({**capture, "focus": "distance", "focus_cm": distance, "blend": OVER, "mask": [mask]})
    return found


# ---- in the way


def to_lift_away(plan: Plan, pictures: Pictures) -> list[Fault]:
    """Cards that the frame shows and should not: their light is wanted, their sight is not."""
    cards = {card.key for card in plan.cards}
    return [fault for fault in pictures.faults(plan) if fault.kind == IN_FRAME and fault.key in cards]


# ---- one per part


def _per_part(document: Document, plan: Plan, pictures: Pictures) -> list[Document]:
    """A capture for each light that is on, in build order; the light that is a part's own goes in through that part's mask."""
    areas = pictures.areas(plan, long_side=SIDE)
    shares = _shares(plan, pictures, areas)
    made: list[Document] = []
    for light in plan.lights:
        if not light.emission.on:
            continue
        capture = _capture(document, made, name=light.name)
        capture["lights"] = {light.key: light.emission.power_stops}
        own = [name for name, share in shares.get(light.key, {}).items() if share > OWN_SHARE]
        capture["blend"] = SUM
        # Paper's own light is mirrored in glass and foil beside it: from its frame only the paper is taken.
        if own == [PAPER]:
            capture["mask"] = [{"kind": "scene", "area": PAPER, "feather_mm": 1.0}]
        made.append(capture)
    return made


def _shares(plan: Plan, pictures: Pictures, areas: SceneAreas) -> dict[str, dict[str, float]]:
    """What share of the light on each part every light makes, by key and area."""
    layers, gains = pictures.draft_layers(plan, long_side=SIDE), layer_gains(plan)
    weights = np.array(REC709_LUMINANCE)
    found: dict[str, dict[str, float]] = {}
    for area in (PAPER, METALLIC):
        there = areas.area(area)
        if not there.any():
            continue
        made = gains * (layers.pictures[:, there].astype(np.float64).mean(axis=1) @ weights)
        whole = float(made.sum())
        for i, light in enumerate(plan.lights, start=1):
            found.setdefault(light.key, {})[area] = float(made[i]) / whole if whole > 0 else 0.0
    return found


def _name(plan: Plan, key: str) -> str:
    return next((thing.name for thing in (*plan.cards, *plan.lights) if thing.key == key), key)


def _lower(words: str) -> str:
    return words[:1].lower() + words[1:]

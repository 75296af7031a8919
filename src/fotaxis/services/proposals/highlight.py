"""Ways to make a line or a highlight that is wished for: what is moved, what the studio owns, what is cut, a sheet, a card."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from functools import cached_property
from typing import Any

from fotaxis.core.errors import DomainError
from fotaxis.core.frames.faults import things_in_frame
from fotaxis.core.frames.readings.area import Area
from fotaxis.core.frames.readings.edge import EdgeLine
from fotaxis.core.frames.readings.frame_area import FrameArea
from fotaxis.core.lights.fixtures import Card, Light
from fotaxis.core.proposals.blurred_line import aimed_ends
from fotaxis.core.proposals.outlook import THE_CAMERA, Outlook, highlight_ways, outlook
from fotaxis.core.proposals.panel import Face, riser_needed_m, stands_clear
from fotaxis.core.proposals.soft_sheet import reads_from
from fotaxis.core.proposals.survey import Ways, looked_over, zone_words
from fotaxis.core.proposals.ways import MirroredWays, area_ways, line_ways
from fotaxis.core.scene.plan import Plan
from fotaxis.core.wishes.place import Place
from fotaxis.services.changes import Change, fresh_key
from fotaxis.services.lighting_setups.setup import EDGE_STOPS
from fotaxis.services.presets import new_thing
from fotaxis.services.proposals.proposal import Asked, Proposal, added_light, place_words, stood

LEAST_RISER_M = 0.002
USUAL_HEIGHT_M = 1.2
"""A strip is 30 by 120 cm. Common practice."""

NOT_OWNED, NOT_CLEAR, SEEN_IN_FRAME, ELSEWHERE, PER_METRE, PER_THING = 4.0, 40.0, 25.0, 15.0, 3.0, 2.0
"""What is taken off the hundredths a proposal covers: for what must be made, stands in the table, is seen in the frame, is mirrored
elsewhere too, per metre and per thing placed."""


@dataclass(frozen=True, kw_only=True)
class Highlight:
    """A wished highlight on a set: its ways on, those of the whole product, and how a face there is judged."""

    asked: Asked
    plan: Plan
    mirrored: MirroredWays

    @cached_property
    def own(self) -> Ways:
        stage = self.asked.stage_of(self.plan)
        return highlight_ways(self.plan, stage.scene, self.mirrored, width=stage.width, height=stage.height)

    @cached_property
    def whole(self) -> Ways:
        stage = self.asked.stage_of(self.plan)
        return looked_over(self.plan, stage.scene, stage.is_product)

    @cached_property
    def zones(self) -> dict[int, str]:
        return zone_words(self.plan, self.asked.stage_of(self.plan).scene, self.whole)

    def outlook(self, face: Face, moved: frozenset[str]) -> Outlook:
        others: list[Light | Card] = [one for one in (*self.plan.lights, *self.plan.cards) if one.key not in moved]
        return outlook(self.plan, face, self.own, self.whole, self.zones, others)


def ways_of_wish(asked: Asked, plan: Plan) -> MirroredWays:
    """What is mirrored where a wish about a line or an area wants a highlight. Raises DomainError for another wish, NoSolution where
    there is none."""
    reading, stage = asked.reading, asked.stage_of(plan)
    at = reading.at if reading else None
    if isinstance(asked.wish.wish, Place) and isinstance(at, EdgeLine):
        wanted = asked.wish.wish
        near, far = aimed_ends(plan, stage.scene, stage.is_product, at, near=wanted.near, far=wanted.far)
        return line_ways(plan, stage.scene, stage.is_product, at, near=near, far=far)
    if isinstance(at, Area | FrameArea):
        return area_ways(plan, stage.scene, stage.is_product, at)
    raise DomainError("this wish is about no line and no highlight.")


def side_of(face: Face) -> str:
    """On which side of the axis a face stands."""
    return "Left" if face.place.x_m < -NEAR_AXIS_M else "Right" if face.place.x_m > NEAR_AXIS_M else "Middle"


NEAR_AXIS_M = 0.02


def new_panel(asked: Asked, face: Face, thing: Mapping[str, Any]) -> list[Change]:
    """One more panel at a face."""
    side = side_of(face)
    key = fresh_key(asked.document, side.lower())
    made = {**new_thing("panel"), "name": f"{side} panel", **thing, **stood(face), "key": key}
    return [Change(kind="add", path=("lights",), value=made)]


def judged(
    highlight: Highlight, title: str, changes: list[Change], face: Face, *, moved: frozenset[str] = frozenset(),
    reasons: tuple[str, ...] = (), owned: bool = False, things: int = 1, less: float = 0.0, camera: bool = True,
) -> Proposal:  # fmt: skip
    """A face with its reasons and its rank."""
    seen = highlight.outlook(face, moved)
    told = [f"{100 * seen.covered:.0f} % of the highlight mirrors it; {place_words(face.place)}."]
    hidden = [(name, share) for name, share in seen.hidden if camera or name != THE_CAMERA]
    if hidden:
        told.append("Hidden by " + ", ".join(f"{name} ({100 * share:.0f} %)" for name, share in hidden) + ".")
    riser = riser_needed_m(highlight.plan, highlight.mirrored, face) if highlight.mirrored.is_line else 0.0
    if riser > LEAST_RISER_M:
        told.append(
            f"The table's edge hides its lower part: a riser {100 * riser:.1f} cm higher lets the line run to its lower end."
        )
    if seen.elsewhere:
        told.append("Mirrored too on " + ", ".join(f"{name} ({100 * share:.0f} %)" for name, share in seen.elsewhere) + ".")
    clear = stands_clear(highlight.plan, face)
    if not clear:
        told.append("It would stand in the table.")
    after = highlight.asked.plan_with(changes)
    new = {change.value["key"] for change in changes if change.kind == "add"} | moved
    seen_in = [one for one in things_in_frame(after, highlight.asked.stage_of(highlight.plan).scene) if one.key in new]
    told += [one.words for one in seen_in]
    rank = (
        100 * seen.covered - (0 if owned else NOT_OWNED) - (0 if clear else NOT_CLEAR) - SEEN_IN_FRAME * bool(seen_in)
        - ELSEWHERE * sum(share for _, share in seen.elsewhere) - PER_METRE * face.distance_m - PER_THING * things - less
    )  # fmt: skip
    stance = stood(face)
    measures = {**stance.pop("place"), **stance}
    return Proposal(
        title=title, reasons=(*told, *reasons), changes=tuple(changes), rank=rank, covered=seen.covered, measures=measures,
        shines=added_light(changes, EDGE_STOPS),
    )  # fmt: skip


READS_OUT = 0.01


def about_glass(highlight: Highlight) -> list[str]:
    """What is told where glass mirrors so much more towards its edge that the inner end of an even line is read further out."""
    wish = highlight.asked.wish.wish
    if not isinstance(wish, Place):
        return []
    at = reads_from(tuple(highlight.mirrored.gloss), wish.near, wish.far)
    if at - wish.near < READS_OUT:
        return []
    return [
        f"The glass mirrors so much more towards its edge that the line reads from about {100 * at:.0f} % on: a light brighter on its "
        "inner side reaches further in."
    ]

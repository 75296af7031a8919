"""One face for a highlight: what makes it moved and sized, one more, a box of the studio, the product on a riser."""

from __future__ import annotations

from collections.abc import Iterator

from fotaxis.core.errors import FotaxisError
from fotaxis.core.proposals.panel import (
    Face,
    distance_for,
    face_at,
    nearest_clear,
    resized,
    riser_needed_m,
    stands_clear,
    taller,
)
from fotaxis.services.changes import Change
from fotaxis.services.kit import placed
from fotaxis.services.presets import BOXES, new_thing
from fotaxis.services.proposals.highlight import (
    LEAST_RISER_M,
    USUAL_HEIGHT_M,
    Highlight,
    judged,
    new_panel,
    side_of,
    ways_of_wish,
)
from fotaxis.services.proposals.maker import maker_of
from fotaxis.services.proposals.proposal import Proposal, size_words

RISER_SLACK = 1.1
RAISED_AT_MOST = 3
OWN_AT_MOST = 3


def one_face(highlight: Highlight) -> Iterator[Proposal]:
    """The nearest panel that is just large enough: the one that makes the highlight moved and sized, or one more."""
    asked = highlight.asked
    maker = maker_of(highlight)
    face = nearest_clear(highlight.plan, highlight.mirrored)
    if highlight.mirrored.is_line:
        face = taller(face, maker.height_m if maker else USUAL_HEIGHT_M)
    if maker is not None:
        title = f"{maker.thing.name}, {size_words(face)}"
        yield judged(highlight, title, maker.moved_to(face), face, moved=maker.keys, owned=True)
    else:
        yield judged(highlight, f"One more panel, {size_words(face)}", new_panel(asked, face, {}), face)


def owned(highlight: Highlight) -> Iterator[Proposal]:
    """Boxes of the studio, or usual ones, where they stand just far enough away."""
    asked, maker = highlight.asked, maker_of(highlight)
    own = [(placed(one.piece), True) for one in asked.kit if one.piece.kind == "box"]
    things = own or [
        ({**new_thing(kind), "name": kind.capitalize()}, False) for kind in ("strip box", "square box") if kind in BOXES
    ]
    found = []
    for thing, is_own in things:
        wide, high = float(thing.get("width_cm", 0)) / 100, float(thing.get("height_cm", 0)) / 100
        for w, h in {(wide, high), (high, wide)}:
            face = _where_it_fits(highlight, w, h)
            if face is not None:
                laid = " on its side" if (w, h) != (wide, high) else ""
                named = thing if is_own else {**thing, "name": f"{side_of(face)} {thing['name'].lower()}"}
                changes = new_panel(asked, face, named)
                if maker is not None:
                    changes = [*maker.taken_away(), *changes]
                title = f"{thing['name']}{laid}" if "×" in thing["name"] else f"{thing['name']}{laid}, {size_words(face)}"
                moved = maker.keys if maker else frozenset()
                found.append(judged(highlight, title, changes, face, moved=moved, owned=is_own))
    yield from sorted(found, key=lambda one: -one.rank)[:OWN_AT_MOST]


def _where_it_fits(highlight: Highlight, width_m: float, height_m: float) -> Face | None:
    """A face of a size where its width is just enough; None where it is too small, or much too large at any distance."""
    distance = distance_for(highlight.mirrored, width_m=width_m, height_m=height_m)
    if distance is None:
        return None
    face = face_at(highlight.mirrored, distance)
    if width_m > 1.15 * face.width_m:
        return None
    fitted = resized(face, width_m=width_m, height_m=height_m)
    if highlight.mirrored.is_line:
        fitted = resized(taller(face, height_m), width_m=width_m, height_m=height_m)
    return fitted if stands_clear(highlight.plan, fitted) else None


def raised(highlight: Highlight) -> Iterator[Proposal]:
    """The product on a riser, where the table hides the lower end of a line."""
    asked, plan = highlight.asked, highlight.plan
    if not highlight.mirrored.is_line:
        return
    face = nearest_clear(plan, highlight.mirrored)
    needed = riser_needed_m(plan, highlight.mirrored, face)
    if needed <= LEAST_RISER_M:
        return
    before = asked.document.get("riser")
    foot = plan.product.profile.radius_at(plan.product.profile.foot_m)
    base = max(before["diameter_cm"] if before else round(200 * foot, 1), 1.0)
    height, higher, first = plan.lift_m, highlight, []
    for _ in range(RAISED_AT_MOST):  # the higher it stands, the more steeply the camera sees its foot
        height += RISER_SLACK * needed
        riser = {**(before or {}), "height_cm": round(100 * height, 1), "diameter_cm": base}
        first = [Change(kind="set", path=("riser",), value=riser)]
        try:
            higher_up = asked.plan_with(first)
            higher = Highlight(asked=asked, plan=higher_up, mirrored=ways_of_wish(asked, higher_up))
            face = taller(nearest_clear(higher_up, higher.mirrored), USUAL_HEIGHT_M)
        except FotaxisError:
            return
        needed = riser_needed_m(higher_up, higher.mirrored, face)
        if needed <= LEAST_RISER_M:
            break
    height = round(100 * height, 1)
    maker = maker_of(highlight)
    if maker is not None:
        changes = [*first, *maker.moved_to(face)]
    else:
        changes = [*first, *new_panel(asked, face, {})]
    moved = maker.keys if maker else frozenset()
    title = f"On a riser {height:g} cm high, panel {size_words(face)}"
    yield judged(higher, title, changes, face, moved=moved, reasons=("The line runs down to the foot.",), owned=True)

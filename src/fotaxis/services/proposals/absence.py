"""Ways to be rid of what must not be in the picture: flags, a window mask, another place for what is mirrored."""

from __future__ import annotations

import math
from collections.abc import Iterator

from fotaxis.core.errors import NoSolution
from fotaxis.core.frames.faults import VEIL, Fault, Flag
from fotaxis.core.keys import TABLE_KEY
from fotaxis.core.lights.fixtures import Lamp
from fotaxis.core.wishes import clean
from fotaxis.core.wishes.clean import Clean
from fotaxis.core.wishes.wish import Seen
from fotaxis.services.changes import Change, fresh_key
from fotaxis.services.lighting_setups.tidy import tidied
from fotaxis.services.ports import Document
from fotaxis.services.presets import new_thing, usual_mask
from fotaxis.services.proposals.proposal import Asked, Proposal, where


def absence_proposals(asked: Asked) -> list[Proposal]:
    """Raises NoSolution, with what can be done by hand, where nothing can be proposed."""
    wish = asked.wish.wish
    assert isinstance(wish, Clean), "an absence"
    if wish.what == clean.VEIL:
        found = [*_flags(asked, asked.faults_of(asked.plan)), *_mask(asked)]
    elif wish.what == clean.MIRRORED:
        found = list(_elsewhere(asked))
    elif wish.what == clean.TABLE:
        found = list(_riser(asked))
    elif wish.what == clean.IN_FRAME:
        found = [*_out_of_frame(asked), *_larger_table(asked)]
    else:
        found = []
    if not found:
        raise NoSolution(ADVICE[wish.what])
    return sorted(found, key=lambda one: -one.rank)


ADVICE = {
    clean.MIRRORED: "what is mirrored must be moved out of the mirror's family of angles, or flagged with a black card.",
    clean.LENS: "the lens shows where something bright is mirrored around it: a smaller hole, a longer lens further away, or take "
    "that part from a frame without the card.",
    clean.TABLE: "a smaller or matte table, or the product on a riser as large as its base.",
    clean.VEIL: "no light shines into the lens that a flag could stop; haze or a bright ground makes it.",
    clean.HOT: "bring the powers down: Balance does it where a level is wished for.",
    clean.ROOM: "a faster shutter up to sync leaves flash as it is and darkens the room; so do curtains, and work lamps off.",
    clean.IN_FRAME: "move it out of the frame, or crop; the list of what is wrong says by how much.",
}


def flag_thing(document: Document, flag: Flag, name: str) -> Document:
    """A black card where a flag stands."""
    x, y, z = (round(100 * float(v), 1) for v in flag.place)
    return {
        **new_thing("black card"), "name": name, "key": fresh_key(document, "flag"),
        "place": {"x_cm": x, "y_cm": y, "z_cm": z}, "turn_deg": round(math.degrees(flag.turn_rad), 1),
        "tilt_deg": round(math.degrees(flag.tilt_rad), 1), "width_cm": round(100 * flag.width_m, 1),
        "height_cm": round(100 * flag.height_m, 1),
    }  # fmt: skip


def _flags(asked: Asked, faults: list[Fault]) -> Iterator[Proposal]:
    names = {one.key: one.name for one in asked.plan.lights}
    for fault in faults:
        if fault.kind != VEIL or fault.flag is None:
            continue
        thing = flag_thing(asked.document, fault.flag, "Lens flag")
        yield Proposal(
            title=f"A flag between {names.get(fault.key, 'the light')} and the lens", reasons=(fault.words,),
            changes=(Change(kind="add", path=("cards",), value=thing),), rank=80,
        )  # fmt: skip


def _mask(asked: Asked) -> Iterator[Proposal]:
    if asked.document["lens"].get("mask"):
        return
    mask = usual_mask(asked.plan)
    changes = (Change(kind="set", path=("lens", "mask"), value=mask),)
    veils = [fault.key for fault in asked.faults_of(asked.plan_with(changes)) if fault.kind == VEIL]
    if len(veils) >= sum(fault.kind == VEIL for fault in asked.faults_of(asked.plan)):
        return
    words = (
        f"A black card {mask['before_cm']:.0f} cm before the lens with an opening {mask['width_cm']:g} × {mask['height_cm']:g} cm, "
        "just outside the frame: it keeps off all light that comes from beside it."
    )
    left = [one.name for one in asked.plan.lights if one.key in veils]
    reasons = (words, f"It does not stop {' and '.join(left)}.") if left else (words,)
    yield Proposal(title="A window mask", reasons=reasons, changes=changes, rank=70 - 30 * len(left))


def _elsewhere(asked: Asked) -> Iterator[Proposal]:
    """Heads whose image shows where it should not: round the product by steps, until it does not."""
    whole = asked.whole()
    wanted = clean.makers(Seen(values=asked.values, names={}))
    others = [one for one in whole.mirrored if one.of not in wanted and one.key not in clean.STILL]
    for image in others[:2]:
        light = next((one for one in asked.plan.lights if one.key == image.key), None)
        if not isinstance(light, Lamp):
            continue
        place = light.stance.place
        for by in (1.15, 1.3, 1.5):
            higher = {**where(place), "y_cm": round(100 * place.y_m * by + 5, 1)}
            middle = round(100 * (asked.plan.lift_m + asked.plan.product.height_m / 2), 1)
            aim = {"at": "place", "x_cm": 0.0, "y_cm": middle, "z_cm": 0.0,
                   "on": asked.plan.product.name, "source": ""}  # fmt: skip
            changes = [
                Change(kind="set", path=("lights", light.key, "place"), value=higher),
                Change(kind="set", path=("lights", light.key, "aim"), value=aim),
            ]
            yield Proposal(
                title=f"{light.name} {higher['y_cm'] - 100 * place.y_m:.0f} cm higher", changes=tuple(changes), rank=60 - 10 * by,
                reasons=(f"It shows on {image.zone} over {100 * image.share:.1f} % of the product now.",),
            )  # fmt: skip


def _riser(asked: Asked) -> Iterator[Proposal]:
    before = asked.document.get("riser")
    higher = round(100 * asked.plan.lift_m + 4, 1)
    profile = asked.plan.product.profile
    base = before["diameter_cm"] if before else round(200 * profile.radius_at(profile.foot_m), 1)
    yield Proposal(
        title=f"A riser {higher:g} cm high", changes=(
            Change(kind="set", path=("riser",), value={**(before or {}), "height_cm": higher, "diameter_cm": max(base, 1.0)}),
        ), reasons=("As large as the base, so that less of the table is mirrored in the lower part. Common practice.",), rank=60,
    )  # fmt: skip


LARGER = (1.25, 1.5, 2.0, 2.5, 3.0)


def _larger_table(asked: Asked) -> Iterator[Proposal]:
    """A table whose edges lie outside the frame."""
    table = asked.document.get("table")
    if table is None or not any(fault.key == TABLE_KEY for fault in asked.faults_of(asked.plan)):
        return
    for by in LARGER:
        size = {name: round(by * table[name]) for name in ("width_cm", "depth_cm")}
        changes = tuple(Change(kind="set", path=("table", name), value=value) for name, value in size.items())
        if not any(fault.key == TABLE_KEY for fault in asked.faults_of(asked.plan_with(changes))):
            reasons = ("Its edges then lie outside the frame; what stands beside the table may have to move.",)
            title = f"A table {size['width_cm']} × {size['depth_cm']} cm"
            yield Proposal(title=title, reasons=reasons, changes=changes, rank=60)
            return


def _out_of_frame(asked: Asked) -> Iterator[Proposal]:
    """Lights and cards moved until none stands in the frame."""
    document = asked.document
    after = tidied(document, asked.codec)
    changes, moved = [], []
    for name in ("lights", "cards"):
        for before, now in zip(document[name], after[name], strict=True):
            for part in ("place", "turn_deg", "tilt_deg", "width_cm", "height_cm"):
                if before.get(part) != now.get(part):
                    changes.append(Change(kind="set", path=(name, before["key"], part), value=now[part]))
                    moved.append(before["name"])
    if changes:
        names = list(dict.fromkeys(moved))
        title = f"{names[0]} out of the frame" if len(names) == 1 else f"{len(names)} things out of the frame"
        yield Proposal(title=title, reasons=(f"Moved or sized: {', '.join(names)}.",), changes=tuple(changes), rank=80)

"""What a lighting set-up builds behind the product, added to a set: for rims of clear glass, and for a glow."""

from __future__ import annotations

from fotaxis.core.errors import NoSolution
from fotaxis.core.frames.readings.area import Area
from fotaxis.core.frames.readings.edge import EdgeLine
from fotaxis.core.frames.readings.spot import ProductSpot
from fotaxis.core.scene.plan import Plan
from fotaxis.core.wishes.level import Level
from fotaxis.services.changes import Change, fresh_key
from fotaxis.services.lighting_setups import SETUPS
from fotaxis.services.lighting_setups.setup import GLOW_STOPS, LightingSetup, sizes_of
from fotaxis.services.lighting_setups.tidy import tidied
from fotaxis.services.ports import Document
from fotaxis.services.presets import fitted, new_thing, usual_mask
from fotaxis.services.proposals.proposal import Asked, Proposal

OVER_CM, BEFORE_CARD_CM = 40.0, 3.0
RIM = 0.7
"""A reading whose middle lies further out is one of the rim."""


def shines_through(plan: Plan) -> bool:
    """Is the product real glass, with or without liquid?"""
    return plan.product.vessel is not None


def behind_proposals(asked: Asked) -> list[Proposal]:
    """Ways to light glass from behind. Raises NoSolution for what no light passes."""
    reading, wish = asked.reading, asked.wish.wish
    if reading is None or not isinstance(wish, Level) or not shines_through(asked.plan):
        raise NoSolution("no light passes the product there: a glow needs real glass.")
    if isinstance(reading.at, EdgeLine) or (
        isinstance(reading.at, Area) and abs(reading.at.begin + reading.at.end) / 2 > RIM
    ):
        bright, dark = _added(asked, SETUPS["dark-field"], 80.0), _added(asked, SETUPS["bright-field"], 60.0)
        return [dark, bright] if wish.side == "at most" else [bright, dark]
    if isinstance(reading.at, ProductSpot | Area):
        return [_cut_card(asked), _added(asked, SETUPS["glow"], 60.0)]
    raise NoSolution("a light behind helps where glass is read, not here.")


def _added(asked: Asked, setup: LightingSetup, rank: float) -> Proposal:
    """The things of a set-up beside what stands already."""
    document = asked.document
    made = {name: [{**one} for one in things] for name, things in setup.make(sizes_of(asked.plan)).items()}
    alone = tidied(asked.codec.check({**document, "lights": [], "cards": [], **made}), asked.codec)
    changes: list[Change] = []
    lights: list[str] = []
    taken = document
    for name in ("lights", "cards"):
        for thing in alone[name]:
            key = fresh_key(taken, thing["key"])
            one = {**thing, "key": key, **({"pair": None} if thing.get("pair") else {})}
            taken = {**taken, name: [*taken.get(name, []), one]}
            changes.append(Change(kind="add", path=(name,), value=one))
            lights += [key] if name == "lights" else []
    if setup.windowed and not document["lens"].get("mask"):
        changes.append(Change(kind="set", path=("lens", "mask"), value=usual_mask(asked.plan)))
    shines = (lights[0], next(iter(setup.targets.values()))) if lights else None
    return Proposal(title=setup.name, reasons=(setup.words,), changes=tuple(changes), rank=rank, shines=shines)


def _cut_card(asked: Asked) -> Proposal:
    """A silver card cut like the bottle right behind it, and a gridded head from above, behind all that faces the camera."""
    document, s = asked.document, sizes_of(asked.plan)
    card_key, key = fresh_key(document, "glow-card"), fresh_key(document, "glow")
    card: Document = {**fitted("card behind the bottle", new_thing("card behind the bottle"), document), "key": card_key}
    place = card["place"]
    head: Document = {
        **new_thing("grid head"), "name": "Glow head", "key": key,
        "place": {"x_cm": place["x_cm"], "y_cm": round(s.top + OVER_CM + 0.5 * s.height, 1), "z_cm": place["z_cm"] + BEFORE_CARD_CM},
    }  # fmt: skip
    aim = {**place, "at": "place", "on": "the card", "source": ""}
    changes = (
        Change(kind="add", path=("cards",), value=card), Change(kind="add", path=("lights",), value=head),
        Change(kind="set", path=("lights", key, "aim"), value=aim),
    )  # fmt: skip
    reasons = (
        "The card is hidden by the product itself; the head, from above with a grid, lights nothing that faces the camera. Common "
        "practice.",
    )
    return Proposal(
        title="A card cut like it, right behind, and a gridded head",
        reasons=reasons,
        changes=changes,
        rank=80,
        shines=(key, GLOW_STOPS),
    )

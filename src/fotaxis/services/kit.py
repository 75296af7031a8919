"""The kit of a studio: kept, searched, put on a set, and told where it is asked too much of."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from typing import Any
from uuid import UUID

from fotaxis.core.errors import FormatError
from fotaxis.core.lights.kit import Piece
from fotaxis.services.addable import ALSO
from fotaxis.services.ports import Database, Document, NotFound, OwnPiece, Refused
from fotaxis.services.presets import new_thing

MOST_PIECES = 2000
CARD_NAMES = {
    "white": "white card", "black": "black card", "silver": "silver card", "satin silver": "satin silver card", "gold": "gold card",
    "mirror": "mirror card",
}  # fmt: skip
ON_SETS = ("head", "box", "sheet", "card")
"""Kinds that stand on a set by themselves."""

USUAL_HEAD = "dish 65°"
KIND_ALSO = {
    "head": "strobe flash monolight light lamp", "box": "softbox bank strip octa", "sheet": "scrim diffusion silk frost butterfly",
    "card": "v-flat bounce flag floppy reflector polyboard", "stand": "boom c-stand grip", "pack": "generator power",
    "grid": "honeycomb",
    "camera": "body", "lens": "objective", "filter": "gel nd pola",
}  # fmt: skip
"""What kinds are called beside their own names."""


class Kit:
    """List, add, take in, change, remove."""

    def __init__(self, database: Database) -> None:
        self._database = database

    def all(self, studio_id: UUID) -> list[OwnPiece]:
        with self._database.transaction() as repo:
            return repo.kit(studio_id)

    def get(self, studio_id: UUID, piece_id: str) -> Piece:
        """Raises NotFound."""
        for own in self.all(studio_id):
            if str(own.id) == piece_id:
                return own.piece
        raise NotFound

    def put(self, studio_id: UUID, piece: Piece) -> None:
        """Add a piece; one of the same kind and name is replaced."""
        self.take_in(studio_id, [piece])

    def take_in(self, studio_id: UUID, pieces: Sequence[Piece]) -> None:
        """Add many in one step; those of the same kind and name are replaced. Raises Refused beyond MOST_PIECES."""
        with self._database.transaction() as repo:
            repo.lock_studio(studio_id)
            before = {(own.piece.kind, own.piece.name) for own in repo.kit(studio_id)}
            if len(before | {(one.kind, one.name) for one in pieces}) > MOST_PIECES:
                raise Refused(f"A kit has at most {MOST_PIECES:,} sorts of pieces; remove some first.")
            for piece in pieces:
                repo.put_piece(studio_id, piece)
            words = (
                f"Took {len(pieces)} sorts of pieces into the kit"
                if len(pieces) > 1
                else f"Put {pieces[0].name} into the kit"
            )
            if pieces:
                repo.add_event(studio_id, kind="kit", words=words)

    def remove(self, studio_id: UUID, piece_id: UUID) -> None:
        with self._database.transaction() as repo:
            name = repo.remove_piece(studio_id, piece_id)
            repo.add_event(studio_id, kind="kit", words=f"Took {name} out of the kit")


def addable(pieces: Sequence[OwnPiece]) -> list[dict[str, str]]:
    """Pieces that stand on a set by themselves, with what they are called, for the search that adds things."""
    return [
        {
            "kind": f"kit:{own.id}",
            "name": own.piece.name,
            "also": f"your {own.piece.kind} · {own.piece.words} · {also(own.piece)}",
        }
        for own in pieces
        if own.piece.kind in ON_SETS
    ]


def also(piece: Piece) -> str:
    """Other words for a piece, as people search for it."""
    own = [words for kind, words in ALSO.items() if kind in piece.name.lower() or piece.name.lower() in kind]
    return " ".join([KIND_ALSO[piece.kind], *own])


def found(pieces: Sequence[OwnPiece], typed: str) -> list[OwnPiece]:
    """Pieces every typed word begins a word of: of their names, kinds, what is known of them, or what they are also called."""
    words = typed.lower().split()

    def text(piece: Piece) -> list[str]:
        return f"{piece.kind} {piece.name} {piece.words} {also(piece)}".lower().replace("-", " ").replace(",", " ").split()

    return [
        own
        for own in pieces
        if all(any(w.startswith(part) for w in text(own.piece)) for word in words for part in word.split("-"))
    ]


def placed(piece: Piece) -> dict[str, Any]:
    """A thing of the kit as it comes on a set: with its own size, range, steps and strength. Raises FormatError for another kind."""
    wide, high = piece.number("width_cm"), piece.number("height_cm")
    size = {name: value for name, value in (("width_cm", wide), ("height_cm", high)) if value}
    if piece.kind == "card":
        usual = new_thing(CARD_NAMES[str(piece.values.get("finish", "white"))])
        thing = _aside(usual, wide) | size
    elif piece.kind == "sheet":
        material = str(piece.values.get("material", "full grid cloth"))
        try:
            thing = new_thing(material) | size
        except FormatError:
            thing = new_thing("full grid cloth") | size
    elif piece.kind == "box":
        thing = new_thing("strip box" if wide and high and max(wide, high) > 2 * min(wide, high) else "square box") | size
    elif piece.kind == "head":
        thing = new_thing(USUAL_HEAD) | of_head(piece)
    else:
        raise FormatError(f"a {piece.kind} does not stand on a set by itself.", place="kind")
    return {**thing, "name": piece.name, "own": piece.name}


def _aside(thing: dict[str, Any], wide: float | None) -> dict[str, Any]:
    """A thing so far out that one so wide ends, towards the product, where the usual one does."""
    x = thing["place"]["x_cm"]
    more = max(0.0, (wide or 0.0) - thing.get("width_cm", 0.0)) / 2
    return {**thing, "place": {**thing["place"], "x_cm": round(x + (more if x >= 0 else -more), 1)}}


def of_head(piece: Piece) -> dict[str, Any]:
    """What a head of the kit gives a light: range, steps, strength."""
    given: dict[str, Any] = {}
    lowest, steps, guide = piece.number("lowest_stops"), piece.values.get("steps_per_stop"), piece.number("guide_number_m")
    f_number, at_cm = piece.number("meter_f"), piece.number("meter_cm")
    if lowest:
        given["lowest_stops"] = round(lowest)
    if steps:
        given["steps_per_stop"] = int(str(steps))
    if f_number and at_cm:
        given["calibration"] = {"kind": "meter", "distance_cm": at_cm, "f_number": f_number, "power_stops": 0}
    elif guide:
        given["calibration"] = {"kind": "guide number", "metres": guide}
    if piece.values.get("continuous") == "yes":
        given["continuous"] = True
    return given


def given(own: Sequence[OwnPiece]) -> dict[str, dict[str, dict[str, Any]]]:
    """What choosing a head, camera or lens of the kit sets, by kind and name."""
    heads = {one.piece.name: of_head(one.piece) for one in own if one.piece.kind == "head"}
    cameras = {
        one.piece.name: {
            name: one.piece.values[name] for name in ("sensor_width_mm", "sensor_height_mm") if name in one.piece.values
        }
        for one in own
        if one.piece.kind == "camera"
    }
    lenses = {
        one.piece.name: {"focal_length_mm": one.piece.values["focal_mm"]}
        for one in own
        if one.piece.kind == "lens" and "focal_mm" in one.piece.values
    }
    return {
        "head": heads,
        "camera": cameras,
        "lens": lenses,
        "stand": {one.piece.name: {} for one in own if one.piece.kind == "stand"},
    }


BOOM_CAUTION = "Counterweight, sandbag, safety line; nobody under it. The maker's figures count."
PACK_CAUTION = "Discharge it before plugging; follow its manual."


def asked_too_much(document: Document, own: Sequence[OwnPiece]) -> dict[str, str]:
    """What is asked of the kit that it has not, by the thing's key: more pieces than are owned, more heads than a pack has sockets,
    more weight or height than a stand is made for."""
    pieces = {(one.piece.kind, one.piece.name): one.piece for one in own}
    things = [*document["lights"], *document["cards"]]
    told: dict[str, str] = {}

    def say(key: str, words: str) -> None:
        told[key] = f"{told[key]} {words}" if key in told else words

    for field, kinds in (("own", ON_SETS), ("own_head", ("head",)), ("stand", ("stand",))):
        used: Counter[tuple[str, str]] = Counter()
        for thing in things:
            piece = next(
                (pieces[kind, thing[field]] for kind in kinds if thing.get(field) and (kind, thing[field]) in pieces), None
            )
            if piece is None:
                continue
            used[piece.kind, piece.name] += 1
            if used[piece.kind, piece.name] > piece.count:
                say(thing["key"], f"{used[piece.kind, piece.name]} × {piece.name}: the kit has {piece.count}.")
    _packs(document, pieces, say)
    table = (document.get("table") or {}).get("above_floor_cm", 0.0)
    for thing in things:
        stand = pieces.get(("stand", thing.get("stand", "")))
        if stand is None:
            continue
        weight = sum(pieces[k].number("weight_kg") or 0.0 for k in _carried(thing, pieces))
        load, reach, top = (stand.number(name) for name in ("load_kg", "reach_cm", "height_cm"))
        if load and weight > load:
            what = f"its boom carries {load:g} kg at full reach" if reach else f"{stand.name} carries {load:g} kg"
            say(
                thing["key"],
                f"{weight:g} kg, but {what}.{' ' + BOOM_CAUTION if reach else ' Sandbag it, or take a stronger stand.'}",
            )
        up = thing["place"]["y_cm"] + table
        if top and up > top:
            say(thing["key"], f"Stands {up:.0f} cm above the floor; {stand.name} goes up to {top:g} cm.")
    return told


def _carried(thing: dict[str, Any], pieces: dict[tuple[str, str], Piece]) -> set[tuple[str, str]]:
    names = {thing.get("own", ""), thing.get("own_head", "")}
    return {(kind, name) for kind, name in pieces if kind in ("head", "box") and name in names}


def _packs(document: Document, pieces: dict[tuple[str, str], Piece], say: Any) -> None:
    """Heads that share a pack's sockets."""
    on_pack: dict[str, list[str]] = {}
    for light in document["lights"]:
        head = next((pieces["head", light[f]] for f in ("own_head", "own") if ("head", light.get(f, "")) in pieces), None)
        if head is not None and head.values.get("pack"):
            on_pack.setdefault(str(head.values["pack"]), []).append(light["key"])
    for name, keys in on_pack.items():
        pack = pieces.get(("pack", name))
        sockets = int((pack.number("sockets") or 0) * pack.count) if pack else 0
        if pack and sockets:
            for key in keys[sockets:]:
                say(key, f"{len(keys)} heads on {name}, which has {sockets} sockets. {PACK_CAUTION}")

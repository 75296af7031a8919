"""Shots of a job: create, change, undo, duplicate, archive, import and export. Every change is kept as a revision."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any
from uuid import UUID

from fotaxis.services.changes import UNKNOWN, Change, applied, contradicted, fresh_key, value_at
from fotaxis.services.jobs import MOST_NAME, checked_name
from fotaxis.services.lighting_setups import SETUPS, apply_setup
from fotaxis.services.mirror_pairs import LISTS, mirrored, other_side_name
from fotaxis.services.ports import (
    Clock,
    Conflict,
    Database,
    Document,
    NotFound,
    Repository,
    Shot,
    ShotCodec,
    ShotState,
    acting,
)
from fotaxis.services.presets import usual_readings
from fotaxis.services.sanitise import keepable
from fotaxis.services.state_labels import state_label

MOST_STATES, LEAST_STATES = 5000, 50
"""A shot keeps so many states at most, and so many however full its studio is; pinned ones count and stay."""

LOOK_EVERY_STATES = 25


@dataclass(frozen=True, slots=True, kw_only=True)
class Opened:
    """A shot with its current document and what undo and redo would do ('' for nothing)."""

    shot: Shot
    document: Document
    undo_label: str
    redo_label: str


class Shots:
    """Every row belongs to a studio; another studio's shots do not exist."""

    def __init__(self, database: Database, codec: ShotCodec, clock: Clock) -> None:
        self._database = database
        self._codec = codec
        self._clock = clock

    def in_job(self, studio_id: UUID, job_id: UUID, *, archived: bool = False) -> list[Shot]:
        with self._database.transaction() as repo:
            return repo.shots(studio_id, job_id, archived=archived)

    def create(self, studio_id: UUID, job_id: UUID, *, name: str, document: Document, label: str = "Created") -> Shot:
        """Add a shot made from a document. Raises FormatError or Refused."""
        name = checked_name(name, what="the shot")
        clean = self._codec.check({**document, "name": name})
        with self._database.transaction() as repo:
            return repo.add_shot(studio_id, job_id, name=name, document=clean, label=label)

    def import_file(self, studio_id: UUID, job_id: UUID, data: bytes) -> Shot:
        """Add a shot from a shot file's bytes. Raises FormatError with the place of a fault."""
        document = self._codec.read(data)
        return self.create(studio_id, job_id, name=document["name"], document=document, label="Imported")

    def export_file(self, studio_id: UUID, shot_id: UUID) -> tuple[str, bytes]:
        """The shot's name and its current document as a shot file."""
        opened = self.open(studio_id, shot_id)
        return opened.shot.name, self._codec.write(opened.document)

    def open(self, studio_id: UUID, shot_id: UUID) -> Opened:
        with self._database.transaction() as repo:
            shot = repo.shot(studio_id, shot_id)
            revision = repo.revision(studio_id, shot_id, shot.revision)
            label, _, after = repo.state_labels(studio_id, shot_id, shot.revision)
        return Opened(
            shot=shot,
            document=self._codec.current(revision.document),
            undo_label=label if revision.state.parent else "",
            redo_label=after,
        )

    def change(
        self, studio_id: UUID, shot_id: UUID, *, changes: list[Change], label: str, seen: int | None = None
    ) -> Opened:
        """Apply edits to the newest state and keep it; what others changed meanwhile at other places stays.

        seen: the number of the state that the maker of the edits saw. Raises FormatError and keeps nothing when the result is
        wrong, Conflict when somebody else has set one of the same places since.
        """
        return self._changing(studio_id, shot_id, lambda _: changes, label=label, seen=seen, telling=True)

    def tried(self, document: Document, changes: list[Change]) -> Document:
        """A document with changes that are not kept. Raises FormatError where the result is wrong."""
        return self._codec.check(applied(document, changes))

    def _changing(
        self,
        studio_id: UUID,
        shot_id: UUID,
        changes_of: Callable[[Document], list[Change]],
        *,
        label: str,
        seen: int | None = None,
        telling: bool = False,
    ) -> Opened:
        """As change, for edits that depend on what stands there when nobody else can change it any more.

        telling: the state's label names things and values where it can, see state_labels.
        """
        with self._database.transaction() as repo:
            shot = repo.shot(studio_id, shot_id, lock=True)
            before = self._codec.current(repo.revision(studio_id, shot_id, shot.revision).document)
            changes = changes_of(before)
            if seen is not None:
                self._find_conflict(repo, shot, before, changes, seen)
            after = self._codec.check(applied(before, changes))
            if after != before:
                self._keep(repo, shot, after, state_label(before, changes, label) if telling else label)
        return self.open(studio_id, shot_id)

    def _keep(self, repo: Repository, shot: Shot, document: Document, label: str) -> None:
        number = repo.add_revision(
            shot.studio_id, shot.id, after=shot.revision, label=keepable(label)[:MOST_NAME], document=document
        )
        if document["name"] != shot.name:
            repo.rename_shot(shot.studio_id, shot.id, name=document["name"])
        if number % LOOK_EVERY_STATES == 0:
            usage = repo.usage(shot.studio_id)
            over = max(0, usage.states - usage.states_limit)
            kept = len(repo.states(shot.studio_id, shot.id))
            most = min(MOST_STATES, max(LEAST_STATES, kept - over))
            if kept > most and repo.thin_states(shot.studio_id, shot.id, keep=most):
                words = f"The oldest states that were not pinned were let go; {most} are kept"
                repo.add_event(shot.studio_id, kind="states", words=words, shot_id=shot.id)

    @staticmethod
    def _find_conflict(repo: Repository, shot: Shot, before: Document, changes: list[Change], seen: int) -> None:
        """Raise Conflict when another window has set a place of these changes since the state that was seen."""
        window = acting().window
        since = [state for state in repo.states_since(shot.studio_id, shot.id, seen) if state.window != window]
        if not since and shot.window == window:
            return
        lost = contradicted(before, changes)
        if lost is None:
            return
        who = next((state.who for state in reversed(since) if state.who), "") or "Another window"
        raise Conflict(
            f"{who} has changed {_place_words(before, lost.path)} meanwhile, to {_value_words(value_at(before, lost.path))}; yours "
            f"({_value_words(lost.value)}) was not kept."
        )

    def add_things(
        self,
        studio_id: UUID,
        shot_id: UUID,
        *,
        things_of: Callable[[Document], list[tuple[str, Document]]],
        stem: str,
        label: str,
    ) -> tuple[Opened, str]:
        """Append things, each to its list, under fresh keys, as one change; returns the first key too. things_of: made when nobody
        else can add any more, so two that add at once never choose one key."""
        first = ""

        def adding(document: Document) -> list[Change]:
            nonlocal first
            changes: list[Change] = []
            for list_name, thing in things_of(document):
                keyed = {**thing, "key": fresh_key(document, stem)}
                document = {**document, list_name: [*document.get(list_name, []), keyed]}
                changes.append(Change(kind="add", path=(list_name,), value=keyed))
            first = changes[0].value["key"]
            return changes

        return self._changing(studio_id, shot_id, adding, label=label), first

    def mirror(self, studio_id: UUID, shot_id: UUID, *, key: str) -> tuple[Opened, str]:
        """Put a light or card's mirror image on the other side, as its pair; returns the new key. Raises NotFound."""
        other_key, label = "", ""

        def mirroring(document: Document) -> list[Change]:
            nonlocal other_key, label
            found = [(name, t) for name in LISTS for t in document[name] if t["key"] == key and "place" in t]
            if not found:
                raise NotFound
            list_name, thing = found[0]
            swapped = other_side_name(key)
            other_key = fresh_key(document, f"{key[:30]}-pair" if "," in swapped else swapped)
            other = {**mirrored(thing), "name": other_side_name(thing["name"]), "pair": key, "key": other_key}
            return [
                Change(kind="add", path=(list_name,), value=other),
                Change(kind="set", path=(list_name, key, "pair"), value=other_key),
            ]

        return self._changing(studio_id, shot_id, mirroring, label="Mirrored to the other side"), other_key

    def add_usual_readings(self, studio_id: UUID, shot_id: UUID) -> Opened:
        """Add the readings most sets want that the shot has not yet."""

        def adding(document: Document) -> list[Change]:
            return [Change(kind="set", path=("readings",), value=[*document.get("readings", []), *usual_readings(document)])]

        return self._changing(studio_id, shot_id, adding, label="Added the usual readings")

    def begin(self, studio_id: UUID, shot_id: UUID, *, school: str) -> Opened:
        """Put the lights and cards of a school in place of the shot's own. Raises FormatError."""
        document = self.open(studio_id, shot_id).document
        made = apply_setup(document, school, self._codec)
        changes = [Change(kind="set", path=(name,), value=made[name]) for name in ("lights", "cards", "lens")]
        return self.change(studio_id, shot_id, changes=changes, label=SETUPS[school].name)

    def undo(self, studio_id: UUID, shot_id: UUID) -> Opened:
        """Back to the state the present one grew from; nothing is lost."""
        with self._database.transaction() as repo:
            shot = repo.shot(studio_id, shot_id, lock=True)
            self._go(repo, shot, repo.revision(studio_id, shot_id, shot.revision).state.parent)
        return self.open(studio_id, shot_id)

    def redo(self, studio_id: UUID, shot_id: UUID) -> Opened:
        """Forth to the newest state that grew from the present one."""
        with self._database.transaction() as repo:
            shot = repo.shot(studio_id, shot_id, lock=True)
            _, after, _ = repo.state_labels(studio_id, shot_id, shot.revision)
            self._go(repo, shot, after)
        return self.open(studio_id, shot_id)

    def go_to(self, studio_id: UUID, shot_id: UUID, *, number: int) -> Opened:
        """To any state the shot has been in. Raises NotFound where it has not."""
        with self._database.transaction() as repo:
            self._go(repo, repo.shot(studio_id, shot_id, lock=True), number)
        return self.open(studio_id, shot_id)

    @staticmethod
    def _go(repo: Repository, shot: Shot, number: int | None) -> None:
        if number is None:
            return
        name = repo.revision(shot.studio_id, shot.id, number).document["name"]
        repo.go_to_revision(shot.studio_id, shot.id, number)
        if name != shot.name:
            repo.rename_shot(shot.studio_id, shot.id, name=name)

    def revision_of(self, studio_id: UUID, shot_id: UUID) -> int:
        """Number of the present state."""
        with self._database.transaction() as repo:
            return repo.shot(studio_id, shot_id).revision

    def states(self, studio_id: UUID, shot_id: UUID) -> list[ShotState]:
        """Every state the shot has been in, oldest first."""
        with self._database.transaction() as repo:
            repo.shot(studio_id, shot_id)
            return repo.states(studio_id, shot_id)

    def document_at(self, studio_id: UUID, shot_id: UUID, *, number: int) -> Document:
        """The document of one state."""
        with self._database.transaction() as repo:
            repo.shot(studio_id, shot_id)
            return self._codec.current(repo.revision(studio_id, shot_id, number).document)

    def pin(self, studio_id: UUID, shot_id: UUID, *, number: int, name: str) -> None:
        """Pin a state under a name, '' takes the pin away."""
        with self._database.transaction() as repo:
            repo.shot(studio_id, shot_id)
            name = keepable(name).strip()[:MOST_NAME]
            repo.pin_revision(studio_id, shot_id, number, name=name)
            words = f"Pinned state {number} as {name}" if name else f"Took the pin off state {number}"
            repo.add_event(studio_id, kind="pin", words=words, shot_id=shot_id)

    def duplicate(self, studio_id: UUID, shot_id: UUID) -> Shot:
        """A copy in the same job, its history starting anew."""
        opened = self.open(studio_id, shot_id)
        name = f"{opened.shot.name[: MOST_NAME - 7]} (copy)"
        return self.create(studio_id, opened.shot.job_id, name=name, document=opened.document, label="Duplicated")

    def rename(self, studio_id: UUID, shot_id: UUID, *, name: str) -> None:
        name = checked_name(name, what="the shot")
        self.change(studio_id, shot_id, changes=[Change(kind="set", path=("name",), value=name)], label="Renamed")

    def archive(self, studio_id: UUID, shot_id: UUID, *, archived: bool) -> None:
        """Put aside, or take out again; links for looking at it end."""
        with self._database.transaction() as repo:
            repo.archive_shot(studio_id, shot_id, archived=archived)
            repo.add_event(studio_id, kind="shot", words="Archived" if archived else "Restored", shot_id=shot_id)

    def remove(self, studio_id: UUID, shot_id: UUID) -> Shot:
        """Out of sight; deleted for good, with its photographs and finals, when the grace period is over."""
        with self._database.transaction() as repo:
            repo.shot(studio_id, shot_id, lock=True)
            repo.add_event(studio_id, kind="shot", words="Removed", shot_id=shot_id)
            shot = repo.delete_shot(studio_id, shot_id, at=self._clock())
            repo.tell(kind="shot", shot=shot_id, revision=-1)
            return shot

    def bring_back(self, studio_id: UUID, shot_id: UUID) -> Shot:
        """Undo a removal. Raises NotFound when it is gone for good."""
        with self._database.transaction() as repo:
            shot = repo.delete_shot(studio_id, shot_id, at=None)
            repo.add_event(studio_id, kind="shot", words="Brought back", shot_id=shot_id)
            return shot

    def removed(self, studio_id: UUID) -> list[Shot]:
        with self._database.transaction() as repo:
            return repo.deleted_shots(studio_id)

    def last_picture(self, studio_id: UUID, shot_id: UUID) -> tuple[str, bytes] | None:
        """The picture that stood last on the bench, JPEG, and the key of what is in it."""
        with self._database.transaction() as repo:
            repo.shot(studio_id, shot_id)
            return repo.last_picture(studio_id, shot_id)

    def keep_last_picture(self, studio_id: UUID, shot_id: UUID, *, key: str, picture: bytes) -> None:
        with self._database.transaction() as repo:
            repo.keep_last_picture(studio_id, shot_id, key=key, data=picture)

    def thumbnail(self, studio_id: UUID, shot_id: UUID) -> tuple[int, bytes] | None:
        """Revision and PNG of the kept small picture."""
        with self._database.transaction() as repo:
            return repo.thumbnail(studio_id, shot_id)

    def keep_thumbnail(self, studio_id: UUID, shot_id: UUID, *, revision: int, picture: bytes) -> None:
        with self._database.transaction() as repo:
            repo.keep_thumbnail(studio_id, shot_id, revision=revision, picture=picture)


def _place_words(document: Document, path: tuple[str, ...]) -> str:
    """A place of a document as a photographer would say it: 'x of Left panel'."""
    field = path[-1].removesuffix("_cm").removesuffix("_deg").removesuffix("_stops").replace("_", " ")
    if len(path) >= 2 and path[0] in (*LISTS, "others", "readings"):
        thing = value_at(document, path[:2])
        name = thing.get("name") if isinstance(thing, dict) else None
        return f"{field} of {name or path[1]}" if len(path) > 2 else str(name or path[1])
    return f"{field} of the {path[0].replace('_', ' ')}" if len(path) > 1 else f"the {field}"


def _value_words(value: Any) -> str:
    if value is UNKNOWN or isinstance(value, dict | list):
        return "something else"
    if isinstance(value, bool):
        return "on" if value else "off"
    return f"{value:g}" if isinstance(value, int | float) else str(value)[:40] or "nothing"

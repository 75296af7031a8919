"""Shots of a job: create, change, undo, duplicate, archive, import and export. Every change is kept as a revision."""

from __future__ import annotations

from dataclasses import dataclass
from uuid import UUID

from fotaxis.services.changes import Change, applied, fresh_key
from fotaxis.services.jobs import MOST_NAME, checked_name
from fotaxis.services.pairs import LISTS, mirrored, other_side_name
from fotaxis.services.ports import Database, Document, NotFound, Repository, Shot, ShotCodec, ShotState
from fotaxis.services.schools import SCHOOL, begun
from fotaxis.services.starts import usual_readings
from fotaxis.services.text import keepable


@dataclass(frozen=True, slots=True, kw_only=True)
class Opened:
    """A shot with its current document and what undo and redo would do ('' for nothing)."""

    shot: Shot
    document: Document
    undo_label: str
    redo_label: str


class Shots:
    """Every row belongs to a studio; another studio's shots do not exist."""

    def __init__(self, database: Database, codec: ShotCodec) -> None:
        self._database = database
        self._codec = codec

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

    def change(self, studio_id: UUID, shot_id: UUID, *, changes: list[Change], label: str) -> Opened:
        """Apply edits to the newest state and keep it. Raises FormatError and keeps nothing when the result is wrong."""
        with self._database.transaction() as repo:
            shot = repo.shot(studio_id, shot_id, lock=True)
            before = self._codec.current(repo.revision(studio_id, shot_id, shot.revision).document)
            after = self._codec.check(applied(before, changes))
            if after != before:
                repo.add_revision(studio_id, shot_id, after=shot.revision, label=keepable(label)[:MOST_NAME], document=after)
                if after["name"] != shot.name:
                    repo.rename_shot(studio_id, shot_id, name=after["name"])
        return self.open(studio_id, shot_id)

    def add_things(
        self, studio_id: UUID, shot_id: UUID, *, things: list[tuple[str, Document]], stem: str, label: str
    ) -> tuple[Opened, str]:
        """Append things, each to its list, under fresh keys, as one change; returns the first key too."""
        with self._database.transaction() as repo:
            shot = repo.shot(studio_id, shot_id)
            document = repo.revision(studio_id, shot_id, shot.revision).document
        changes: list[Change] = []
        for list_name, thing in things:
            keyed = {**thing, "key": fresh_key(document, stem)}
            document = {**document, list_name: [*document.get(list_name, []), keyed]}
            changes.append(Change(kind="add", path=(list_name,), value=keyed))
        return self.change(studio_id, shot_id, changes=changes, label=label), changes[0].value["key"]

    def mirror(self, studio_id: UUID, shot_id: UUID, *, key: str) -> tuple[Opened, str]:
        """Put a light or card's mirror image on the other side, as its pair; returns the new key. Raises NotFound."""
        document = self.open(studio_id, shot_id).document
        found = [(name, t) for name in LISTS for t in document[name] if t["key"] == key and "place" in t]
        if not found:
            raise NotFound
        list_name, thing = found[0]
        other = {**mirrored(thing), "name": other_side_name(thing["name"]), "pair": key}
        swapped = other_side_name(key)
        other["key"] = fresh_key(document, f"{key[:30]}-pair" if "," in swapped else swapped)
        changes = [
            Change(kind="add", path=(list_name,), value=other), Change(kind="set", path=(list_name, key, "pair"), value=other["key"]),
        ]  # fmt: skip
        return self.change(studio_id, shot_id, changes=changes, label=f"Mirrored {thing['name']}"), other["key"]

    def add_usual_readings(self, studio_id: UUID, shot_id: UUID) -> Opened:
        """Add the readings most sets want that the shot has not yet."""
        document = self.open(studio_id, shot_id).document
        changes = [Change(kind="set", path=("readings",), value=[*document.get("readings", []), *usual_readings(document)])]
        return self.change(studio_id, shot_id, changes=changes, label="Added the usual readings")

    def begin(self, studio_id: UUID, shot_id: UUID, *, school: str) -> Opened:
        """Put the lights and cards of a school in place of the shot's own. Raises FormatError."""
        document = self.open(studio_id, shot_id).document
        made = begun(document, school, self._codec)
        changes = [Change(kind="set", path=(name,), value=made[name]) for name in ("lights", "cards", "lens")]
        return self.change(studio_id, shot_id, changes=changes, label=SCHOOL[school].name)

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
            repo.pin_revision(studio_id, shot_id, number, name=keepable(name).strip()[:MOST_NAME])

    def duplicate(self, studio_id: UUID, shot_id: UUID) -> Shot:
        """A copy in the same job, its history starting anew."""
        opened = self.open(studio_id, shot_id)
        name = f"{opened.shot.name[: MOST_NAME - 7]} (copy)"
        return self.create(studio_id, opened.shot.job_id, name=name, document=opened.document, label="Duplicated")

    def rename(self, studio_id: UUID, shot_id: UUID, *, name: str) -> None:
        name = checked_name(name, what="the shot")
        self.change(studio_id, shot_id, changes=[Change(kind="set", path=("name",), value=name)], label="Renamed")

    def archive(self, studio_id: UUID, shot_id: UUID, *, archived: bool) -> None:
        with self._database.transaction() as repo:
            repo.archive_shot(studio_id, shot_id, archived=archived)

    def thumbnail(self, studio_id: UUID, shot_id: UUID) -> tuple[int, bytes] | None:
        """Revision and PNG of the kept small picture."""
        with self._database.transaction() as repo:
            return repo.thumbnail(studio_id, shot_id)

    def keep_thumbnail(self, studio_id: UUID, shot_id: UUID, *, revision: int, picture: bytes) -> None:
        with self._database.transaction() as repo:
            repo.keep_thumbnail(studio_id, shot_id, revision=revision, picture=picture)

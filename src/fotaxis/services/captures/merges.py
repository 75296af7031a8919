"""The real frames of a shot's captures, merged by a worker: checked, brought onto one another, joined, written."""

from __future__ import annotations

import itertools
import math
import statistics
import tempfile
from collections import Counter
from collections.abc import Callable, Iterator, Mapping, Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from pathlib import Path
from typing import Protocol
from uuid import UUID

import numpy as np
from numpy.typing import NDArray

from fotaxis.core.camera.exposure import encode_srgb
from fotaxis.core.captures.merge import (
    MergeCancelled,
    Merged,
    RealFrame,
    as_laid,
    code_levels,
    mask_on,
    merged,
)
from fotaxis.core.errors import DomainError, FotaxisError
from fotaxis.core.frames.photograph import PhotoExposure
from fotaxis.core.stops import measured_stops
from fotaxis.services.captures.capture import captured
from fotaxis.services.captures.composite import base_plan, mask_for, shown_captures, white_gain
from fotaxis.services.pictures import Pictures
from fotaxis.services.ports import (
    Blobs,
    Database,
    Document,
    FinalState,
    Frame,
    Lane,
    Merge,
    NotFound,
    Refused,
    ShotCodec,
    Unavailable,
    Work,
)

KIND = "merge"
ALWAYS = ("tif", "jpg")
ALSO = {
    "ora": "OpenRaster, a layer per capture with its mask",
    "layers.tif": "TIFF, a page per capture",
    "exr": "OpenEXR, linear",
}
MEDIA = {
    "tif": "image/tiff", "jpg": "image/jpeg", "png": "image/png", "ora": "image/openraster", "layers.tif": "image/tiff",
    "exr": "image/x-exr",
}  # fmt: skip
MOST_OPEN, READ_AT_ONCE = 4, 2
OFF_STOPS = 0.4
"""A frame whose file tells another exposure than its capture by more than this is another frame."""

PREDICTED_SIDE, MASK_SIDE = 800, 1200
"""Sizes at which a frame is compared with what is predicted of it, and at which masks are made."""

WORKER_DIED = (
    "This merge ended its worker three times and was set aside; the frames are unharmed. Merge fewer or smaller ones."
)
FAULT = "Something in our program failed while this was merged; it is in the worker's log as fault {number}. The frames are unharmed."
MOST_EXR_PIXELS = 12_000_000


class MergeFiles(Protocol):
    """Pixels of a frame's file, and files of a merged picture."""

    def pixels(self, data: bytes, folder: Path, crop_ratio: float) -> NDArray:
        """All of a frame's pixels, cropped about its middle. Raises FormatError."""
        ...

    def tiff(self, pages: Sequence[tuple[str, NDArray[np.uint16]]]) -> bytes: ...
    def jpeg(self, picture: NDArray[np.uint16]) -> bytes: ...
    def png(self, picture: NDArray[np.uint16]) -> bytes: ...
    def openraster(self, layers: Iterator[Laid], picture: NDArray[np.uint16]) -> bytes: ...
    def exr(self, names: Sequence[str], pictures: NDArray[np.float32]) -> bytes: ...


@dataclass(frozen=True, kw_only=True)
class Laid:
    """A layer as it is written: codes (height, width, 3) uint16, mask or None, how it is joined."""

    name: str
    pixels: NDArray[np.uint16]
    mask: NDArray[np.float32] | None
    blend: str


# ---- which frames belong


@dataclass(frozen=True, slots=True, kw_only=True)
class Candidate:
    """A frame for a capture, before its pixels are read: size as in its file, and its exposure where the file tells it."""

    capture: Document
    name: str
    width: int
    height: int
    exposure: PhotoExposure


def belonging(candidates: Sequence[Candidate]) -> tuple[list[Candidate], list[str]]:
    """Those that can be merged, and for each other why not, in words: another size or camera than most, another exposure than its
    capture's."""
    sizes = Counter((one.width, one.height) for one in candidates)
    size = sizes.most_common(1)[0][0] if sizes else (0, 0)
    cameras = Counter(one.exposure.camera for one in candidates if one.exposure.camera)
    camera = cameras.most_common(1)[0][0] if cameras else None
    lengths = [one.exposure.focal_length_mm for one in candidates if one.exposure.focal_length_mm]
    length = statistics.median(lengths) if lengths else None
    kept, words = [], []
    for one in candidates:
        e = one.exposure
        if (one.width, one.height) != size:
            why = f"has {one.width} x {one.height} pixels, the others {size[0]} x {size[1]}"
        elif camera and e.camera and e.camera != camera:
            why = f"was taken with another camera ({e.camera}) than the others"
        elif length and e.focal_length_mm and abs(e.focal_length_mm / length - 1) > 0.02:
            why = f"was taken at {e.focal_length_mm:g} mm, the others at {length:g} mm"
        elif (gap := _exposure_gap(one)) is not None and abs(gap) > OFF_STOPS:
            way = "more" if gap > 0 else "less"
            why = f"got {measured_stops(abs(gap))} stops {way} than its capture asks for, by ISO, shutter and aperture"
        else:
            kept.append(one)
            continue
        words.append(f"{one.name} is left out of {one.capture['name']}: it {why}.")
    return kept, words


def _exposure_gap(one: Candidate) -> float | None:
    """Stops by which a frame's file tells more exposure than its capture; None where it does not tell all three."""
    e, c = one.exposure, one.capture
    if not (e.iso and e.shutter_s and e.f_number):
        return None
    return math.log2(e.iso / c["iso"]) + math.log2(e.shutter_s / c["shutter_s"]) - 2 * math.log2(e.f_number / c["f_number"])


# ---- merging


def merge_frames(
    document: Document, pixels: Mapping[str, NDArray], codec: ShotCodec, pictures: Pictures, *,
    told: Callable[[float], bool] = lambda _: True,
) -> tuple[Merged, list[RealFrame]]:  # fmt: skip
    """The composite of real frames, by the capture's key, in the shot's order. Raises DomainError as core.captures.merge.merged."""
    base = base_plan(document, codec)
    frames = []
    for capture in shown_captures(document):
        if capture["key"] not in pixels:
            continue
        plan = codec.plan(captured(document, capture))
        levels = pictures.levels(plan, long_side=PREDICTED_SIDE)
        areas = pictures.areas(base, long_side=PREDICTED_SIDE)
        width, height = areas.size
        frames.append(
            RealFrame(
                key=capture["key"], name=capture["name"], codes=pixels[capture["key"]], predicted=encode_srgb(levels),
                mask=mask_for(base, capture, codec, pictures, long_side=MASK_SIDE), blend=capture.get("blend", "sum"),
                gain=2.0 ** capture.get("strength_stops", 0.0), sided=capture.get("good_half", ""),
                flipped=capture.get("flipped", False), axis_x=areas.axis_x / width, foot_y=areas.foot_y / height,
            )
        )  # fmt: skip
    tone = codec.tone(document.get("finish", {}))
    made = merged(frames, white=white_gain(document, base), tone=tone, told=told)
    return made, frames


def written(
    kind: str, made: Merged, frames: Sequence[RealFrame], files: MergeFiles, *, retouch: Sequence[Document] = ()
) -> bytes:  # fmt: skip
    """One file of a merge; retouch: places that an OpenRaster file marks in a layer of their own."""
    if kind == "jpg":
        return files.jpeg(made.picture)
    if kind == "png":
        return files.png(made.picture)
    if kind == "tif":
        return files.tiff([("Composite", made.picture)])
    if kind == "ora":
        height, width = made.picture.shape[:2]
        marks = marks_layer(retouch, width, height)
        return files.openraster(itertools.chain(_laid(made, frames), [marks] if marks else []), made.picture)
    if kind == "layers.tif":
        pages = [(one.name, one.pixels) for one in _laid(made, frames)]
        return files.tiff([("Composite", made.picture), *pages])
    if kind == "exr":
        return _linear(made, frames, files)
    raise DomainError(f"{kind[:20]!r} is no kind of file here; use one of {', '.join(MEDIA)}.")


MARK, MARK_RADIUS, MARK_WIDTH = (65535, 46003, 16705), 0.012, 0.0025
"""Rings about places to retouch: their colour, radius and width in parts of the picture's width."""


def marks_layer(retouch: Sequence[Document], width: int, height: int) -> Laid | None:
    """Places still to retouch as a layer of rings over all others; None without one."""
    places = [one for one in retouch if not one["done"]]
    if not places:
        return None
    mask = np.zeros((height, width), np.float32)
    y, x = np.mgrid[0:height, 0:width].astype(np.float32) + 0.5
    for one in places:
        away = np.hypot(x - one["x"] * width, y - one["y"] * height)
        mask = np.maximum(mask, (np.abs(away - MARK_RADIUS * width) < MARK_WIDTH * width / 2 + 0.5).astype(np.float32))
    pixels = np.broadcast_to(np.array(MARK, np.uint16), (height, width, 3)).copy()
    return Laid(name=f"Retouch: {len(places)} places", pixels=pixels, mask=mask, blend="over")


def _laid(made: Merged, frames: Sequence[RealFrame]) -> Iterator[Laid]:
    for frame, where in zip(frames, made.aligned, strict=True):
        yield Laid(name=frame.name, pixels=as_laid(frame, where), mask=mask_on(frame, made.lies), blend=frame.blend)


def _linear(made: Merged, frames: Sequence[RealFrame], files: MergeFiles) -> bytes:
    """Linear layers as they are laid, within their masks; halved until a layer has at most twelve million pixels."""
    step = 1
    while made.picture[::step, ::step, 0].size > MOST_EXR_PIXELS:
        step += 1
    pictures = []
    for one in _laid(made, frames):
        levels = _levels_of(one.pixels, step)
        if one.mask is not None:
            levels *= one.mask[::step, ::step][: levels.shape[0], : levels.shape[1], None]
        pictures.append(levels)
    return files.exr([frame.key for frame in frames], np.stack(pictures))


def _levels_of(codes: NDArray[np.uint16], step: int) -> NDArray[np.float32]:
    return code_levels(np.dtype(np.uint16))[codes[::step, ::step]]


class Merges:
    """Ask for, list, call off and fetch merges of a shot's real frames."""

    def __init__(self, database: Database, blobs: Blobs) -> None:
        self._database, self._blobs = database, blobs

    def ask(self, studio_id: UUID, shot_id: UUID, *, also: Sequence[str] = ()) -> Merge:
        """Queue a merge of the newest frame of each capture. Raises Refused where there is none, or too much."""
        with self._database.transaction() as repo:
            shot = repo.shot(studio_id, shot_id, lock=True)
            document = repo.revision(studio_id, shot_id, shot.revision).document
            frames = newest_frames(document, repo.frames(studio_id, shot_id))
            if not frames:
                raise Refused("No frame is given to a capture yet: attach one to each capture that is to be merged.")
            if sum(one.open for one in repo.merges(studio_id, shot_id)) >= MOST_OPEN:
                raise Refused(f"{MOST_OPEN} merges of this shot are being made; wait for one, or cancel one.")
            usage = repo.usage(studio_id)
            if usage.final_bytes >= usage.final_limit:
                raise Refused(
                    f"The studio keeps {usage.final_bytes / 1e9:.1f} GB of finals and merges, all it may. Remove some, or ask an "
                    "owner for room."
                )
            merge = repo.add_merge(
                studio_id, shot_id, revision=shot.revision, frames={key: str(frame.id) for key, frame in frames.items()}
            )
            kinds = [*ALWAYS, *(kind for kind in also if kind in ALSO)]
            repo.add_work(studio_id, lane=Lane.FINAL, kind=KIND, ref=str(merge.id), payload={"kinds": kinds})
            repo.add_event(studio_id, kind="merge", words=f"Asked for a merge of {len(frames)} frames", shot_id=shot_id)
            return merge

    def of_shot(self, studio_id: UUID, shot_id: UUID) -> list[Merge]:
        with self._database.transaction() as repo:
            return repo.merges(studio_id, shot_id)

    def get(self, studio_id: UUID, merge_id: UUID) -> Merge:
        with self._database.transaction() as repo:
            return repo.merge(studio_id, merge_id)

    def cancel(self, studio_id: UUID, merge_id: UUID) -> Merge:
        """Call a merge off; one that is made stays."""
        with self._database.transaction() as repo:
            merge = repo.merge(studio_id, merge_id, lock=True)
            if merge.open:
                repo.mark_merge(studio_id, merge_id, state=FinalState.CANCELLED, done=merge.done)
                repo.drop_work(studio_id, kind=KIND, ref=str(merge_id))
            return merge

    def remove(self, studio_id: UUID, merge_id: UUID) -> Merge:
        """Take a merge off the list, its files too; the frames stay."""
        with self._database.transaction() as repo:
            merge = repo.merge(studio_id, merge_id, lock=True)
            repo.drop_work(studio_id, kind=KIND, ref=str(merge_id))
            repo.remove_merge(studio_id, merge_id)
            repo.add_event(studio_id, kind="merge", words="Removed a merge", shot_id=merge.shot_id)
        for kind in merge.files:
            self._blobs.remove(blob_key(merge_id, kind))
        return merge

    def file(self, studio_id: UUID, merge_id: UUID, kind: str) -> tuple[Merge, bytes]:
        """A merge's file. Raises NotFound while there is none."""
        merge = self.get(studio_id, merge_id)
        if merge.state is not FinalState.DONE or kind not in merge.files:
            raise NotFound
        return merge, self._blobs.get(blob_key(merge_id, kind))


def newest_frames(document: Document, frames: Sequence[Frame]) -> dict[str, Frame]:
    """The newest frame of each capture that has one, by the capture's key."""
    keys = [one["key"] for one in document.get("captures", [])]
    found: dict[str, Frame] = {}
    for frame in sorted(frames, key=lambda one: one.created_at):
        if frame.capture in keys:
            found[frame.capture] = frame
    return {key: found[key] for key in keys if key in found}


def blob_key(merge_id: UUID, kind: str) -> str:
    """Where a merge's file lies."""
    return f"merges/{merge_id}/{kind}"


class MergeMaker:
    """What a worker does with a merge. Doing one twice gives the same files: a worker that died is followed by another from the
    start, and the frames are untouched."""

    def __init__(self, database: Database, blobs: Blobs, codec: ShotCodec, pictures: Pictures, files: MergeFiles) -> None:
        self._database, self._blobs, self._codec = database, blobs, codec
        self._pictures, self._files = pictures, files

    def make(self, work: Work, wanted: Callable[[], bool]) -> None:
        """Merge unless it is made, called off or gone."""
        try:
            with self._database.transaction() as repo:
                merge = repo.merge(work.studio_id, UUID(work.ref), lock=True)
                if not merge.open:
                    return
                repo.mark_merge(work.studio_id, merge.id, state=FinalState.WORKING, done=0.0)
                document = repo.revision(work.studio_id, merge.shot_id, merge.revision).document
                frames = {key: repo.frame(work.studio_id, UUID(one)) for key, one in merge.frames.items()}
            with tempfile.TemporaryDirectory(prefix="fotaxis-merge-") as folder:
                self._merge(merge, self._codec.current(document), frames, work.payload["kinds"], Path(folder), wanted)
        except (MergeCancelled, NotFound):
            return
        except FotaxisError as error:
            self._fail(work, str(error))

    def _merge(
        self, merge: Merge, document: Document, frames: Mapping[str, Frame], kinds: Sequence[str], folder: Path,
        wanted: Callable[[], bool],
    ) -> None:  # fmt: skip
        captures = {one["key"]: one for one in document["captures"]}
        kept, words = belonging([
            Candidate(capture=captures[key], name=frame.file_name, width=frame.width, height=frame.height, exposure=frame.exposure)
            for key, frame in frames.items() if key in captures
        ])  # fmt: skip
        ratio = base_plan(document, self._codec).camera.crop_ratio

        def read(key: str) -> NDArray:
            return self._files.pixels(self._blobs.get(f"frames/{frames[key].id}/file"), folder, ratio)

        pixels: dict[str, NDArray] = {}
        with ThreadPoolExecutor(READ_AT_ONCE) as readers:  # each frame is read by a process of its own
            for key, found in [(one.capture["key"], readers.submit(read, one.capture["key"])) for one in kept]:
                pixels[key] = found.result()
                if not wanted() or not self._tell(merge, 0.25 * len(pixels) / len(kept)):
                    readers.shutdown(cancel_futures=True)
                    raise MergeCancelled
        made, real = merge_frames(
            document,
            pixels,
            self._codec,
            self._pictures,
            told=lambda done: wanted() and self._tell(merge, 0.25 + 0.55 * done),
        )
        files = {}
        for i, kind in enumerate(kinds):
            data = written(kind, made, real, self._files, retouch=document.get("retouch", []))
            self._blobs.put(blob_key(merge.id, kind), data)
            files[kind] = len(data)
            if not wanted() or not self._tell(merge, 0.8 + 0.2 * (i + 1) / len(kinds)):
                raise MergeCancelled
        with self._database.transaction() as repo:
            if repo.merge(merge.studio_id, merge.id, lock=True).open:
                told = [*words, *made.words]
                repo.mark_merge(merge.studio_id, merge.id, state=FinalState.DONE, done=1.0, words=told, files=files)

    def _tell(self, merge: Merge, done: float) -> bool:
        """Write how far it is, unless it was called off; is it still wanted?"""
        try:
            with self._database.transaction() as repo:
                if not repo.merge(merge.studio_id, merge.id, lock=True).open:
                    return False
                repo.mark_merge(merge.studio_id, merge.id, state=FinalState.WORKING, done=max(done, 1e-6))
        except NotFound:
            return False
        except Unavailable:
            return True  # the database comes back; the merge goes on meanwhile
        return True

    def _fail(self, work: Work, problem: str) -> None:
        try:
            with self._database.transaction() as repo:
                merge = repo.merge(work.studio_id, UUID(work.ref), lock=True)
                if merge.open:
                    repo.mark_merge(work.studio_id, merge.id, state=FinalState.FAILED, done=0.0, problem=problem)
        except NotFound:
            return

    def set_aside(self, work: Work) -> None:
        """It ended its workers too often."""
        self._fail(work, WORKER_DIED)

    def fault(self, work: Work, number: str) -> None:
        """Something failed that should not; number: what the log calls it."""
        self._fail(work, FAULT.format(number=number))

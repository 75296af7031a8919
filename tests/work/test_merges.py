"""Merges made by workers: real files in, files out; frames that do not belong are named; a worker that dies loses nothing."""

import io
import json
from uuid import UUID

import numpy as np
import pytest
from PIL import ExifTags, Image
from scipy import ndimage

from fotaxis.core.camera.exposure import encode_srgb
from fotaxis.core.frames.photograph import PhotoExposure
from fotaxis.formats import photo
from fotaxis.formats.deep_pictures import first_page
from fotaxis.formats.merge_files import JoinedFiles
from fotaxis.formats.shot_archive import WholeShotFiles
from fotaxis.formats.shot_codec import JsonShots
from fotaxis.main import clock
from fotaxis.services.captures.capture import captured
from fotaxis.services.captures.composite import joined
from fotaxis.services.captures.exports import WholeShots, predicted_file
from fotaxis.services.captures.merges import KIND, Candidate, MergeMaker, Merges, belonging
from fotaxis.services.captures.needed import PER_PART, needed
from fotaxis.services.photographs import TestFrames
from fotaxis.services.pictures import MERGING, Pictures
from fotaxis.services.ports import FinalState, Lane, NotFound, Refused
from fotaxis.services.shots import Shots
from fotaxis.services.work import Worker
from fotaxis.storage.blobs import SqlBlobs
from fotaxis.storage.database import SqlDatabase, migrate
from fotaxis.storage.news import SqlNews
from tests.formats import samples

CODEC = JsonShots()
SIDE = 480


def jpeg(picture, *, shutter_s=2**-7, f_number=8.0, camera="Body 24"):
    image = Image.fromarray(picture.astype(np.uint8))
    exif = image.getexif()
    exif[ExifTags.Base.Model] = camera
    sub = exif.get_ifd(ExifTags.IFD.Exif)
    sub[ExifTags.Base.ExposureTime], sub[ExifTags.Base.FNumber], sub[ExifTags.Base.ISOSpeedRatings] = (
        shutter_s,
        f_number,
        100,
    )
    out = io.BytesIO()
    image.save(out, "JPEG", quality=97, subsampling=0, exif=exif)
    return out.getvalue()


@pytest.fixture(scope="module")
def database(database_url):
    migrate(database_url)
    with_rows = SqlDatabase(database_url, pool_size=4)
    yield with_rows
    with_rows.close()


@pytest.fixture
def news(database_url):
    listening = SqlNews(database_url)
    yield listening
    listening.close()


@pytest.fixture(scope="module")
def document():
    made = CODEC.check(json.loads((samples.DEMO / "elder-cordial.json").read_text()))
    return CODEC.check({**made, "captures": list(needed(made, CODEC, Pictures(), school=PER_PART).captures)})


class Desk:
    """A studio's shot with a real frame of each capture."""

    def __init__(self, database, document, name):
        self.blobs = SqlBlobs(database)
        self.shots = Shots(database, CODEC, clock)
        self.frames = TestFrames(database, self.blobs, photo.read, photo.WorkingPictures())
        self.merges = Merges(database, self.blobs)
        with database.transaction() as repo:
            owner = repo.add_owner(studio_name=name, login=f"{name}@test.example", name=name, password_hash="x")
            self.job = repo.add_job(owner.studio_id, name="Range")
        self.studio = owner.studio_id
        self.shot = self.shots.create(self.studio, self.job.id, name="Elder", document=document)
        self.whole = WholeShots(self.shots, self.frames, self.merges, CODEC, Pictures(), WholeShotFiles())

    def attach(self, data, capture, name="frame.jpg"):
        return self.frames.attach(self.studio, self.shot.id, file_name=name, data=data, note="", capture=capture)

    def attach_all(self, document, *, nudged=()):
        pictures = Pictures()
        for capture in document["captures"]:
            levels = pictures.levels(CODEC.plan(captured(document, capture)), long_side=SIDE)
            if capture["key"] in nudged:
                levels = ndimage.shift(levels, (-2, 3, 0), order=3, mode="nearest")
            self.attach(jpeg(encode_srgb(np.clip(levels, 0, 1).astype(np.float32))), capture["key"], f"{capture['key']}.jpg")

    def work(self, database, news, maker=None):
        maker = maker or MergeMaker(database, self.blobs, CODEC, Pictures(MERGING), JoinedFiles())
        Worker(database, news, {KIND: maker}, lane=Lane.FINAL, name="w", clock=clock).run(until_empty=True)


def test_real_frames_become_the_predicted_composite(database, news, document):
    desk = Desk(database, document, "merging")
    desk.attach_all(document, nudged=("capture-2",))
    desk.merges.ask(desk.studio, desk.shot.id, also=["ora", "layers.tif", "exr", "nonsense"])
    desk.work(database, news)
    merge = desk.merges.of_shot(desk.studio, desk.shot.id)[0]
    assert merge.state is FinalState.DONE, merge.problem
    assert sorted(merge.files) == ["exr", "jpg", "layers.tif", "ora", "tif"]
    assert any("Right panel" in words and "nudged" in words for words in merge.words)
    found = first_page(desk.merges.file(desk.studio, merge.id, "tif")[1])
    wanted = joined(document, CODEC, Pictures(), long_side=SIDE).developed()
    # Independent: what the set predicts of the whole, never nudged nor written to files. JPEG and the moved frame cost a little.
    off = np.abs(found / 257 - wanted)
    assert off.mean() < 1.0
    assert np.quantile(off, 0.99) < 14
    desk.merges.remove(desk.studio, merge.id)
    with pytest.raises(NotFound):
        desk.merges.get(desk.studio, merge.id)


def test_frames_that_do_not_belong_are_named_and_left_out(database, news, document):
    desk = Desk(database, document, "strangers")
    desk.attach_all(document)
    size = joined(document, CODEC, Pictures(), long_side=SIDE).levels.shape[:2]
    grey = np.full((*size, 3), 90)
    desk.attach(jpeg(grey[:-40]), "capture-1", "smaller.jpg")
    desk.attach(jpeg(grey, shutter_s=1 / 15), "capture-2", "longer.jpg")
    desk.merges.ask(desk.studio, desk.shot.id)
    desk.work(database, news)
    merge = desk.merges.of_shot(desk.studio, desk.shot.id)[0]
    assert merge.state is FinalState.DONE, merge.problem
    assert any("smaller.jpg is left out" in words and "pixels" in words for words in merge.words)
    assert any("longer.jpg is left out" in words and "stops more" in words for words in merge.words)
    assert len(desk.frames.of_shot(desk.studio, desk.shot.id)) == 5  # none of them lost


def candidate(key, **more):
    exposure = {"iso": 100, "shutter_s": 2**-7, "f_number": 8.0, "focal_length_mm": 100, "camera": "Body 24"}
    width = more.pop("width", 600)
    capture = {"name": key, "iso": 100, "shutter_s": 2**-7, "f_number": 8.0}
    return Candidate(
        capture=capture, name=f"{key}.jpg", width=width, height=800, exposure=PhotoExposure(**(exposure | more))
    )


@pytest.mark.parametrize(
    ("wrong", "why"),
    [
        ({"width": 601}, "pixels"), ({"camera": "Other body"}, "another camera"), ({"focal_length_mm": 85}, "85 mm"),
        ({"shutter_s": 1 / 30}, "2.1 stops more"), ({"iso": 50}, "1.0 stops less"),
    ],
)  # fmt: skip
def test_what_does_not_belong_is_said(wrong, why):
    kept, words = belonging([candidate("a"), candidate("b"), candidate("c", **wrong)])
    assert [one.name for one in kept] == ["a.jpg", "b.jpg"]
    assert why in words[0]
    assert words[0].startswith("c.jpg is left out of c")


def test_a_file_that_tells_nothing_is_taken_at_its_word():
    nothing = dict.fromkeys(("iso", "shutter_s", "f_number", "focal_length_mm", "camera"))
    kept, words = belonging([candidate("a"), candidate("b", **nothing)])
    assert (len(kept), words) == (2, [])
    assert belonging([]) == ([], [])


def test_a_merge_without_frames_or_of_another_studio_is_refused(database, document):
    desk, other = Desk(database, document, "none"), Desk(database, document, "other")
    with pytest.raises(Refused, match="attach one to each capture"):
        desk.merges.ask(desk.studio, desk.shot.id)
    other.attach_all(document)
    merge = other.merges.ask(other.studio, other.shot.id)
    for act in (desk.merges.get, desk.merges.cancel, desk.merges.remove):
        with pytest.raises(NotFound):
            act(desk.studio, merge.id)
    assert other.merges.cancel(other.studio, merge.id).open
    assert other.merges.get(other.studio, merge.id).state is FinalState.CANCELLED


class Dying(MergeMaker):
    """Its worker is gone in the middle of it: nothing is finished, nothing is told."""

    def make(self, work, wanted):
        with self._database.transaction() as repo:
            repo.mark_merge(work.studio_id, UUID(work.ref), state=FinalState.WORKING, done=0.4)
        raise SystemExit


def test_a_worker_that_dies_in_a_merge_loses_nothing(database, news, document):
    from datetime import timedelta

    desk = Desk(database, document, "dying")
    desk.attach_all(document)
    merge = desk.merges.ask(desk.studio, desk.shot.id)
    maker = Dying(database, desk.blobs, CODEC, Pictures(MERGING), JoinedFiles())
    with pytest.raises(SystemExit):
        desk.work(database, news, maker)
    assert desk.merges.get(desk.studio, merge.id).open
    # Its claim runs out after some seconds; another worker takes the merge from the start.
    later = MergeMaker(database, desk.blobs, CODEC, Pictures(MERGING), JoinedFiles())
    Worker(
        database, news, {KIND: later}, lane=Lane.FINAL, name="next", clock=lambda: clock() + timedelta(minutes=1)
    ).run(until_empty=True)  # fmt: skip
    done = desk.merges.get(desk.studio, merge.id)
    assert done.state is FinalState.DONE
    assert len(desk.frames.of_shot(desk.studio, desk.shot.id)) == 3


def test_a_broken_frame_is_told_and_the_others_stay(database, news, document):
    desk = Desk(database, document, "broken")
    desk.attach_all(document)
    frame = desk.frames.of_shot(desk.studio, desk.shot.id)[0]
    desk.blobs.put(f"frames/{frame.id}/file", b"\xff\xd8 no picture any more")
    desk.merges.ask(desk.studio, desk.shot.id)
    desk.work(database, news)
    merge = desk.merges.of_shot(desk.studio, desk.shot.id)[0]
    assert merge.state is FinalState.FAILED
    assert "picture" in merge.problem


# ---- out, and back


def test_a_whole_shot_goes_out_and_comes_back_the_same(database, document):
    desk = Desk(database, document, "whole")
    desk.attach_all(document)
    _, data = desk.whole.pack(desk.studio, desk.shot.id, sheet=b"%PDF-1.7 sheet")
    entries = WholeShotFiles().unpack(data)
    assert {"README.txt", "shot.json", "composite.jpg", "captures/capture-1.jpg", "masks/capture-3.png", "sheet.pdf"} <= set(
        entries
    )
    again = desk.whole.take_in(desk.studio, desk.job.id, data)
    before, after = (desk.shots.export_file(desk.studio, one.id)[1] for one in (desk.shot, again))
    assert after == before
    mine, theirs = (desk.frames.of_shot(desk.studio, one.id) for one in (desk.shot, again))
    assert [(f.file_name, f.capture, f.note, f.exposure) for f in theirs] == [
        (f.file_name, f.capture, f.note, f.exposure) for f in mine
    ]
    for a, b in zip(mine, theirs, strict=True):
        assert desk.frames.original(desk.studio, a.id)[1] == desk.frames.original(desk.studio, b.id)[1]
    # Packed again it is the same file, byte by byte.
    assert desk.whole.pack(desk.studio, again.id, sheet=b"%PDF-1.7 sheet")[1] == data


def test_a_whole_shot_that_was_changed_is_refused_and_nothing_is_kept(database, document):
    from fotaxis.core.errors import FormatError

    desk = Desk(database, document, "changed")
    desk.attach_all(document)
    entries = WholeShotFiles().unpack(desk.whole.pack(desk.studio, desk.shot.id)[1])
    frame = next(name for name in entries if name.startswith("frames/"))
    count = len(desk.shots.in_job(desk.studio, desk.job.id))
    for wrong, why in (
        (entries | {frame: b"another picture"}, "was changed"),
        ({name: data for name, data in entries.items() if name != frame}, "is missing"),
        ({name: data for name, data in entries.items() if name != "manifest.json"}, "not a whole shot"),
        (entries | {"frames.json": b"{}"}, "not a whole shot"),
    ):
        with pytest.raises(FormatError, match=why):
            desk.whole.take_in(desk.studio, desk.job.id, WholeShotFiles().pack(wrong))
    assert len(desk.shots.in_job(desk.studio, desk.job.id)) == count


@pytest.mark.parametrize("kind", ["png", "jpg", "tif", "ora", "layers.tif", "exr"])
def test_the_predicted_composite_is_written_in_every_kind(document, kind):
    data = predicted_file(kind, document, CODEC, Pictures(), JoinedFiles(), long_side=200, fine=False)
    wanted = joined(document, CODEC, Pictures(), long_side=200)
    if kind in ("png", "jpg"):
        with Image.open(io.BytesIO(data)) as image:
            seen = np.asarray(image.convert("RGB"), int)
        assert np.abs(seen - wanted.developed()).mean() < (0.6 if kind == "png" else 2)
    elif kind in ("tif", "layers.tif"):
        assert np.abs(first_page(data) / 257 - wanted.developed()).max() <= 1
    else:
        assert data[:4] in (b"PK\x03\x04", b"\x76\x2f\x31\x01")


def test_places_to_retouch_are_a_layer_of_their_own(document):
    import zipfile
    from xml.etree import ElementTree

    marks = [
        {"key": "a", "what": "dust", "x": 0.25, "y": 0.5},
        {"key": "b", "what": "seam", "x": 0.8, "y": 0.2, "done": True},
    ]
    marked = CODEC.check({**document, "retouch": marks})
    data = predicted_file("ora", marked, CODEC, Pictures(), JoinedFiles(), long_side=300, fine=False)
    with zipfile.ZipFile(io.BytesIO(data)) as packed:
        layers = ElementTree.fromstring(packed.read("stack.xml")).find("stack")
        assert layers[0].get("name") == "Retouch: 1 places"  # on top of all; what is done is not marked
        with Image.open(io.BytesIO(packed.read(layers[0].get("src")))) as image:
            alpha = np.asarray(image.convert("RGBA"))[..., 3]
    rows, columns = np.nonzero(alpha > 128)
    assert columns.mean() / alpha.shape[1] == pytest.approx(0.25, abs=0.01)
    assert rows.mean() / alpha.shape[0] == pytest.approx(0.5, abs=0.01)
    plain = predicted_file("ora", document, CODEC, Pictures(), JoinedFiles(), long_side=300, fine=False)
    with zipfile.ZipFile(io.BytesIO(plain)) as packed:
        assert len(ElementTree.fromstring(packed.read("stack.xml")).find("stack")) == 3

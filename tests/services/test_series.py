"""A range in one look: three sizes from a pattern, read in their pictures; the job book."""

import json

import pytest

from fotaxis.core.captures.likeness import differences
from fotaxis.core.errors import DomainError
from fotaxis.formats.shot_codec import JsonShots
from fotaxis.main import clock
from fotaxis.services.book import Book, alike, traits_of
from fotaxis.services.captures.capture import capture_of
from fotaxis.services.pictures import Pictures
from fotaxis.services.series import NewProduct, Series, look_of, next_of, resized, sizes_of
from fotaxis.services.shots import Shots
from tests.formats import samples
from tests.studios import add_studio

CODEC = JsonShots()


def shot(name):
    return CODEC.check(json.loads((samples.DEMO / f"{name}.json").read_text()))


def test_a_product_grows_in_height_and_width_and_keeps_its_walls():
    subject = shot("gooseberry-with-glass")["subject"]
    made = resized(subject, taller=0.5, wider=0.8)
    height, width = sizes_of(subject)
    assert sizes_of(made) == (pytest.approx(height / 2, abs=0.01), pytest.approx(width * 0.8, abs=0.01))
    assert made["glass"]["wall_mm"] == subject["glass"]["wall_mm"]
    assert made["liquid"]["level_cm"] == pytest.approx(subject["liquid"]["level_cm"] / 2, abs=0.01)
    assert made["bands"][0]["high_cm"] == pytest.approx(subject["bands"][0]["high_cm"] / 2, abs=0.01)


@pytest.mark.slow
def test_three_sizes_of_a_range_look_alike():
    pattern, pictures = shot("elder-cordial"), Pictures()
    look, _ = look_of(pattern, CODEC, pictures)
    height, width = sizes_of(pattern["subject"])
    for name, tall, wide in (
        ("Half", 0.75 * height, 0.8 * width),
        ("Magnum", 1.2 * height, 1.25 * width),
        ("Slim", height, 0.8 * width),
    ):
        made, words = next_of(pattern, NewProduct(name=name, height_cm=tall, width_cm=wide), CODEC, pictures)
        assert made["name"] == name
        assert made["wishes"] == pattern["wishes"]
        other, _ = look_of(made, CODEC, pictures)
        found = differences(look, other)
        lines = [one for one in found if one.what in ("place", "width")]
        assert lines, words
        assert not [one for one in lines if one.seen], (name, [(one.of, one.words) for one in lines])
        levels = [one for one in found if one.what == "level" and one.of in ("left-line", "right-line", "label-centre")]
        assert not [one for one in levels if one.seen], (name, [(one.of, one.words) for one in levels], words)


def test_a_size_that_cannot_be_is_refused():
    with pytest.raises(DomainError, match="height"):
        next_of(shot("elder-cordial"), NewProduct(name="Flea", height_cm=0.1), CODEC, Pictures())


@pytest.fixture(scope="module")
def kept(database, studio):
    """Shots of the demo in one job, by file."""
    shots = Shots(database, CODEC, clock)
    with database.transaction() as repo:
        job = repo.add_job(studio, name="Winter range")
    names = ("elder-cordial", "elder-cordial-first-try", "sparkling-can", "gift-carton", "gooseberry-glow")
    return shots, job, {name: shots.create(studio, job.id, name=name, document=shot(name)) for name in names}


def test_a_departure_from_the_pattern_is_told(database, studio, kept):
    shots, job, made = kept
    series = Series(database, shots, CODEC, Pictures())
    darker = shot("elder-cordial")
    darker["lights"][2]["power_stops"] -= 2
    same, other = (
        shots.create(studio, job.id, name=name, document=one)
        for name, one in (("Same", shot("elder-cordial")), ("Dark", darker))
    )
    for one in (same, other):
        series.join(studio, one.id, pattern_id=made["elder-cordial"].id)
    members = {one.shot.name: one for one in series.members(studio, made["elder-cordial"].id)}
    assert members["Same"].departs == []
    assert any("2.0 stops darker" in one.words for one in members["Dark"].departs)
    series.join(studio, other.id, pattern_id=None)
    assert series.pattern_of(studio, other.id) is None
    assert len(series.members(studio, made["elder-cordial"].id)) == 1


def test_shots_are_found_by_anything(database, studio, kept):
    shots, _, made = kept
    book = Book(database, CODEC)

    def names(text):
        return {one.shot.name for one in book.search(studio, text)}

    assert "gooseberry-glow" in names("opal acrylic")
    assert names("can sparkling") == {"sparkling-can"}
    assert "gift-carton" in names("foil")
    assert names("winter range") >= {*made}
    assert names("zeppelin") == set()
    document = shots.open(studio, made["gift-carton"].id).document
    assert "foil" in json.dumps(document).lower()
    renamed = {**document, "note": "Zeppelin in the window"}
    from fotaxis.services.changes import Change

    shots.change(
        studio, made["gift-carton"].id, changes=[Change(kind="set", path=("note",), value=renamed["note"])], label="Note"
    )
    assert names("zeppelin") == {"gift-carton"}  # what changed is found at once


def test_sets_like_one_come_first(database, studio, kept):
    _, _, made = kept
    found = Book(database, CODEC).like(studio, made["elder-cordial"].id)
    order = [one.shot.name for one in found]
    assert order.index("elder-cordial-first-try") < order.index("sparkling-can")
    assert order.index("elder-cordial-first-try") < order.index("gift-carton")
    assert all(0 <= one.alike <= 1 for one in found)
    traits = traits_of(shot("elder-cordial"))
    assert alike(traits, traits) == pytest.approx(1)


def test_another_studio_finds_nothing(database, kept):
    with database.transaction() as repo:
        other = add_studio(repo, "Elsewhere")
    assert Book(database, CODEC).search(other, "") == []


def test_captures_are_words_of_the_book_too(database, studio, kept):
    shots, job, _ = kept
    document = shot("elder-cordial")
    document["captures"] = [{**capture_of(document), "name": "Moonlit plate"}]
    shots.create(studio, job.id, name="With captures", document=document)
    assert {one.shot.name for one in Book(database, CODEC).search(studio, "moonlit")} == {"With captures"}

"""Jobs and shots as the pages use them: create, change, undo, duplicate, archive, export and import."""

import json
import re

import numpy as np
import pytest

from fotaxis.formats import shot_file
from tests.formats import samples
from tests.web.people import made
from tests.web.test_bad_input import change, upload


@pytest.fixture
def shot(alder):
    return alder.new_shot()


def step(person, shot, what):
    return person.post(f"/shots/{shot}/{what}", content="{}", headers={"content-type": "application/json"}).json()


def test_every_change_can_be_taken_back_and_done_again_without_limit(alder, shot):
    states = [alder.document(shot)]
    for i in range(30):
        assert change(alder, shot, ["exposure", "iso"], 100 + i + 1).status_code == 200
        states.append(alder.document(shot))
    for state in reversed(states[:-1]):
        step(alder, shot, "undo")
        assert alder.document(shot) == state
    assert step(alder, shot, "undo")["undo"] == ""  # nothing before the beginning
    for state in states[1:]:
        step(alder, shot, "redo")
        assert alder.document(shot) == state
    assert step(alder, shot, "redo")["redo"] == ""


def test_a_change_after_undo_forgets_what_was_undone(alder, shot):
    change(alder, shot, ["exposure", "iso"], 200)
    step(alder, shot, "undo")
    change(alder, shot, ["exposure", "iso"], 400)
    assert step(alder, shot, "redo")["redo"] == ""
    assert alder.document(shot)["exposure"]["iso"] == 400


def test_a_change_that_changes_nothing_is_no_step(alder, shot):
    iso = alder.document(shot)["exposure"]["iso"]
    assert change(alder, shot, ["exposure", "iso"], iso).json()["undo"] == ""


def test_export_and_import_give_the_same_shot(alder, shot):
    data = alder.get(f"/shots/{shot}/export").content
    again = made(upload(alder, f"/jobs/{alder.new_job()}/import", "shot.json", data))
    assert alder.get(f"/shots/{again}/export").content == data
    assert shot_file.write(shot_file.read(data)) == data


def test_things_are_added_moved_in_order_and_removed(alder, shot):
    for kind in ("panel", "grid head", "white card", "black card"):
        answer = alder.post(
            f"/shots/{shot}/things", content=json.dumps({"kind": kind}), headers={"content-type": "application/json"}
        )
        assert answer.json()["selected"]
    assert [light["key"] for light in alder.document(shot)["lights"]] == ["left", "right", "panel", "grid-head"]
    change(alder, shot, ["lights", "grid-head"], 0, kind="move")
    assert [light["key"] for light in alder.document(shot)["lights"]] == ["grid-head", "left", "right", "panel"]
    change(alder, shot, ["lights", "left"], None, kind="remove")
    assert [light["key"] for light in alder.document(shot)["lights"]] == ["grid-head", "right", "panel"]
    assert len(alder.document(shot)["cards"]) == 2


def test_a_duplicate_goes_its_own_way(alder):
    job = alder.new_job()
    shot = alder.new_shot(job)
    assert made(alder.post(f"/shots/{shot}/duplicate")) == job
    found = set(re.findall(r'/shots/([0-9a-f-]{36})"', alder.get(f"/jobs/{job}", json=False).text))
    assert shot in found
    (copy,) = found - {shot}
    assert change(alder, shot, ["exposure", "iso"], 800).status_code == 200
    assert alder.document(shot)["exposure"]["iso"] == 800
    assert alder.document(copy)["exposure"]["iso"] == 100


def test_rename_archive_and_restore(alder):
    job = alder.new_job("Spring range")
    shot = alder.new_shot(job)
    alder.post(f"/shots/{shot}/rename", data={"name": "  Tall   bottle "})
    assert "Tall bottle" in alder.get(f"/jobs/{job}", json=False).text
    assert alder.document(shot)["name"] == "Tall bottle"
    alder.post(f"/shots/{shot}/archive")
    assert "Tall bottle" not in alder.get(f"/jobs/{job}", json=False).text
    assert "Tall bottle" in alder.get(f"/jobs/{job}?archived=true", json=False).text
    alder.post(f"/shots/{shot}/restore")
    assert "Tall bottle" in alder.get(f"/jobs/{job}", json=False).text
    alder.post(f"/jobs/{job}/archive")
    assert "Spring range" not in alder.get("/jobs", json=False).text
    assert "Spring range" in alder.get("/jobs?archived=true", json=False).text


def test_outline_from_text_csv_and_svg(alder, shot):
    def heights():
        return [(p["height_cm"], p["diameter_cm"]) for p in alder.document(shot)["subject"]["profile"]]

    assert alder.post(f"/shots/{shot}/profile", data={"text": "0, 6\n14, 6"}).status_code == 200
    assert heights() == [(0, 6), (14, 6)]
    assert upload(alder, f"/shots/{shot}/profile", "o.csv", b"h;d\n0;6,5\n15;6,5").status_code == 200
    assert heights() == [(0, 6.5), (15, 6.5)]
    svg = b'<svg xmlns="http://www.w3.org/2000/svg"><path d="M0 100 H30 V0"/></svg>'
    assert upload(alder, f"/shots/{shot}/profile", "o.svg", svg, height_cm="20").status_code == 200
    assert heights() == [(0, 0), (0, 12), (20, 12)]


def test_the_thumbnail_follows_the_shot(alder, shot):
    first = alder.get(f"/shots/{shot}/thumbnail.png").content
    assert alder.get(f"/shots/{shot}/thumbnail.png").content == first
    change(alder, shot, ["exposure", "iso"], 400)
    assert alder.get(f"/shots/{shot}/thumbnail.png").content != first


def test_layers_are_linear_and_add_up_to_the_picture(alder, shot):
    packed = alder.get(f"/shots/{shot}/layers?side=100").content
    length = int.from_bytes(packed[:4], "little")
    header = json.loads(packed[4 : 4 + length])
    halves = np.frombuffer(packed[4 + length :], np.float16).astype(np.float64)
    layers = halves.reshape(len(header["keys"]), header["height"], header["width"], 3)
    assert header["keys"] == ["room", "left", "right"]
    assert layers.max(axis=(1, 2, 3)) == pytest.approx(1, rel=1e-3)
    state = alder.get(f"/shots/{shot}/state").json()
    gains = [0.0] + [light["gain"] * 2.0 ** light["power"] for light in state["lights"]]
    level = sum(g * s * layer for g, s, layer in zip(gains, header["scales"], layers, strict=True))
    assert 0.5 < level.max() < 20  # edge lights are planned around white


def test_health_and_schema_are_open(nobody):
    health = nobody.get("/health").json()
    assert health["state"] == health["server"] == health["database"] == "up"
    assert health["workers"] == {"screen": 1}
    assert health["waiting"] == {}
    assert nobody.get("/schema/shot.json").json() == shot_file.json_schema()


def test_frames_are_read_beside_the_prediction(alder, shot):
    frame = alder.new_frame(shot)
    page = alder.get(f"/frames/{frame}", json=False).text
    assert "1/125" in page
    assert "f/8" in page
    assert "ISO 100" in page
    assert alder.get(f"/frames/{frame}/file").content == samples.encoded("PNG")
    assert alder.get(f"/frames/{frame}/picture.png").headers["content-type"] == "image/png"
    alder.post(f"/frames/{frame}/remove")
    assert alder.get(f"/frames/{frame}").status_code == 404

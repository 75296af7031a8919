"""The pages of captures, shooting list, series, book and sheet over HTTP: what they answer, refuse and hand out."""

import io
import json
import zipfile

import pypdfium2 as pdfium
import pytest
from PIL import Image

from fotaxis.demo.scenario import printed
from tests.formats import samples
from tests.web.people import made

JSON = {"content-type": "application/json"}


@pytest.fixture(scope="module")
def job(alder):
    return alder.new_job("Captures")


@pytest.fixture
def shot(alder, job):
    """The carton in three captures."""
    file = {"file": ("shot.json", printed(samples.DEMO, "carton-three-captures.json"), "application/json")}
    return made(alder.post(f"/jobs/{job}/import", files=file))


def post(person, address, body):
    return person.post(address, content=json.dumps(body), headers=JSON)


def test_the_bench_keeps_its_state_as_a_capture_and_gets_it_back(alder, job):
    shot = alder.new_shot(job)
    answer = post(alder, f"/shots/{shot}/captures", {"name": ""})
    assert answer.json()["count"] == 1
    assert answer.json()["words"]
    key = answer.json()["key"]
    post(alder, f"/shots/{shot}/changes", {"changes": [{"path": ["exposure", "iso"], "value": 400}]})
    state = post(alder, f"/shots/{shot}/captures/{key}/from-bench", {}).json()
    assert state["captures"][0]["iso"] == 400
    post(alder, f"/shots/{shot}/changes", {"changes": [{"path": ["exposure", "iso"], "value": 100}]})
    assert post(alder, f"/shots/{shot}/captures/{key}/set-up", {}).json() == {"location": f"/shots/{shot}"}
    assert alder.document(shot)["exposure"]["iso"] == 400
    assert post(alder, f"/shots/{shot}/captures/gone/set-up", {}).status_code == 422


def test_only_captures_are_changed_here(alder, shot):
    wrong = post(
        alder, f"/shots/{shot}/captures/changes", {"changes": [{"path": ["lights", "rake", "power_stops"], "value": 0}]}
    )
    assert wrong.status_code == 422
    assert "on the bench" in wrong.json()["problem"]
    right = post(
        alder,
        f"/shots/{shot}/captures/changes",
        {"changes": [{"path": ["captures", "linen", "strength_stops"], "value": -1}]},
    )
    assert right.json()["captures"][0]["joined"].endswith("−1 stops")
    assert post(alder, f"/shots/{shot}/captures/undo", {}).json()["captures"][0]["strength_stops"] == 0
    assert post(alder, f"/shots/{shot}/captures/redo", {}).json()["captures"][0]["strength_stops"] == -1


def test_a_preview_shows_what_is_tried_and_keeps_nothing(alder, shot):
    before = alder.document(shot)
    tried = {"changes": [{"path": ["captures", "crest", "shown"], "value": False}]}
    seen = post(alder, f"/shots/{shot}/composite/preview", tried)
    kept = alder.get(f"/shots/{shot}/composite.jpg", json=False)
    a, b = (Image.open(io.BytesIO(one.content)).convert("L") for one in (seen, kept))
    assert a.size == b.size
    assert a.tobytes() != b.tobytes()
    assert alder.document(shot) == before
    wrong = post(
        alder, f"/shots/{shot}/composite/preview", {"changes": [{"path": ["captures", "crest", "blend"], "value": "burn"}]}
    )
    assert wrong.status_code == 422


def test_a_mask_of_a_zone_that_is_not_there_is_said(alder, shot):
    mask = [{"kind": "scene", "area": "zone", "zone": "Ribbon"}]
    post(alder, f"/shots/{shot}/captures/changes", {"changes": [{"path": ["captures", "crest", "mask"], "value": mask}]})
    answer = alder.get(f"/shots/{shot}/composite.jpg")
    assert answer.status_code == 422
    assert "no zone named 'Ribbon'" in answer.json()["problem"]


def test_captures_that_the_set_asks_for_are_told_then_taken(alder, shot):
    told = alder.get(f"/shots/{shot}/captures/needed?school=one per part").json()
    assert told["captures"]
    assert alder.document(shot)["finish"]["school"] == "one per part"
    state = post(alder, f"/shots/{shot}/captures/needed", {"school": "one frame", "instead": True}).json()
    assert alder.document(shot)["finish"]["school"] == "one frame"
    assert len(state["captures"]) == len(alder.get(f"/shots/{shot}/captures/needed?school=one frame").json()["captures"])


def test_the_composite_reads_in_words(alder, shot):
    reads = alder.get(f"/shots/{shot}/composite/readings").json()
    assert set(reads) == {"readings", "wishes", "line"}


@pytest.mark.parametrize("kind", ["png", "jpg", "tif", "ora", "layers.tif", "exr"])
def test_every_kind_of_file_is_handed_out(alder, shot, kind):
    answer = alder.get(f"/shots/{shot}/composite/file.{kind}?side=200", json=False)
    assert answer.status_code == 200
    assert f'three-captures-composite.{kind}"' in answer.headers["content-disposition"]
    assert alder.get(f"/shots/{shot}/composite/file.gif?side=200").status_code == 422


def test_a_whole_shot_goes_out_and_comes_in(alder, job, shot):
    frame = {"file": ("crest.png", samples.encoded("PNG"), "image/png")}
    assert (
        alder.post(f"/shots/{shot}/captures/crest/frame", files=frame).json()["captures"][1]["frame"]["name"] == "crest.png"
    )
    data = alder.get(f"/shots/{shot}/whole.zip", json=False).content
    with zipfile.ZipFile(io.BytesIO(data)) as packed:
        assert packed.testzip() is None
        assert packed.read("sheet.pdf")[:5] == b"%PDF-"
        assert any(name.endswith("crest.png") for name in packed.namelist())
    came = alder.post(f"/jobs/{job}/import-whole", files={"file": ("shot.zip", data, "application/zip")})
    other = came.headers["hx-redirect"].split("/")[2]
    assert alder.document(other) == alder.document(shot)
    state = alder.get(f"/shots/{other}/captures/state").json()
    assert [bool(one["frame"]) for one in state["captures"]] == [False, True, False]
    wrong = alder.post(f"/jobs/{job}/import-whole", files={"file": ("shot.zip", b"PK no zip", "application/zip")})
    assert wrong.status_code == 422


def test_the_sheet_is_one_vector_page_with_its_font_and_code(alder, shot):
    answer = alder.get(f"/shots/{shot}/sheet.pdf", json=False)
    assert answer.headers["content-type"] == "application/pdf"
    document = pdfium.PdfDocument(answer.content)
    assert len(document) == 1
    page = document[0]
    text = page.get_textpage().get_text_range()
    for words in (
        "Gift carton, three captures",
        "Linen, raking light",
        "Foil crest, card in",
        "Black frame",
        "Raking light",
        "adds its light",
    ):
        assert words in text, words
    assert b"/FontFile" in answer.content or b"FontFile" in b"".join(objects(answer.content))
    # Rendered, by another library: drawings and pictures are there, not one grey page.
    picture = page.render(scale=1).to_pil().convert("L")
    dark = sum(1 for value in picture.getdata() if value < 128) / (picture.width * picture.height)
    assert 0.02 < dark < 0.5
    paths = sum(1 for one in page.get_objects() if one.type == pdfium.raw.FPDF_PAGEOBJ_PATH)
    images = sum(1 for one in page.get_objects() if one.type == pdfium.raw.FPDF_PAGEOBJ_IMAGE)
    assert paths > 40  # lines of plan and elevation, drawn
    assert images <= 3  # pictures alone are pictures


def objects(data):
    """What a PDF's compressed streams hold."""
    import re
    import zlib

    for found in re.finditer(rb"stream\r?\n(.*?)endstream", data, re.S):
        try:
            yield zlib.decompress(found[1])
        except zlib.error:
            continue


def test_a_set_without_captures_has_its_sheet_too(alder, job):
    shot = alder.new_shot(job, start="jar")
    document = pdfium.PdfDocument(alder.get(f"/shots/{shot}/sheet.pdf", json=False).content)
    assert len(document) == 1
    assert "Captures in the order" not in document[0].get_textpage().get_text_range()


def test_steps_are_ticked_and_the_list_says_so(alder, shot):
    text = alder.get(f"/shots/{shot}/shooting?now=13:00", json=False).text
    assert "Black frame" in text
    assert "13:00" in text
    ticked = alder.post(f"/shots/{shot}/shooting/tick", data={"step": "black-frame"}, json=False).text
    assert 'data-step="black-frame"' in ticked
    assert 'aria-pressed="true"' in ticked
    assert alder.post(f"/shots/{shot}/shooting/tick", data={"step": "nothing"}).status_code == 422
    assert alder.get(f"/shots/{shot}/shooting/list?now=99:99").status_code == 422


def test_captures_that_contradict_each_other_leave_a_list_that_says_so(alder, shot):
    after = [
        {"path": ["captures", "linen", "after"], "value": ["crest"]}, {"path": ["captures", "crest", "after"], "value": ["linen"]}
    ]  # fmt: skip
    post(alder, f"/shots/{shot}/captures/changes", {"changes": after})
    answer = alder.get(f"/shots/{shot}/shooting", json=False)
    assert answer.status_code == 200
    assert "must each be shot before the other" in answer.text
    assert alder.get(f"/shots/{shot}/sheet", json=False).status_code == 200


def test_the_book_finds_and_compares(alder, birch, shot):
    assert "Gift carton, three captures" in alder.get("/book?q=carton three foil", json=False).text
    assert "Nothing holds all of these words" in alder.get("/book?q=zeppelin", json=False).text
    assert "% alike" in alder.get(f"/book?like={shot}", json=False).text
    assert "Gift carton" not in birch.get("/book?q=carton", json=False).text
    assert birch.get(f"/book?like={shot}").status_code == 404


def test_the_next_of_a_range_is_made_and_told_apart(alder, job):
    file = {"file": ("shot.json", (samples.DEMO / "elder-cordial.json").read_bytes(), "application/json")}
    pattern = made(alder.post(f"/jobs/{job}/import", files=file))
    refused = alder.post(f"/shots/{pattern}/series", data={"name": "Half", "height_cm": "tall"})
    assert refused.status_code == 422
    assert "in centimetres" in refused.text
    answer = alder.post(f"/shots/{pattern}/series", data={"name": "Half bottle", "height_cm": "23", "width_cm": "6.1"})
    assert answer.status_code == 204, answer.text
    text = alder.get(f"/shots/{pattern}/series", json=False).text
    assert "Half bottle" in text
    assert "the pattern" in text


def test_the_next_of_a_range_gets_its_own_label(alder, job):
    file = {"file": ("shot.json", (samples.DEMO / "elder-cordial.json").read_bytes(), "application/json")}
    pattern = made(alder.post(f"/jobs/{job}/import", files=file))
    label = {"label": ("label.png", samples.encoded("PNG"), "image/png")}
    answer = alder.post(f"/shots/{pattern}/series", data={"name": "Sloe cordial", "height_cm": "31"}, files=label)
    assert answer.status_code == 204, answer.text
    found = alder.get("/book?q=sloe", json=False).text
    shot = found.split("/shots/")[1].split('"')[0]
    band = next(one for one in alder.document(shot)["subject"]["bands"] if one["name"] == "Label")
    assert band["artwork"]["picture"]
    assert not next(one for one in alder.document(pattern)["subject"]["bands"] if one["name"] == "Label").get("artwork")


def test_a_capture_reads_by_itself(alder, shot):
    reading = {"kind": "spot", "key": "front", "name": "Front", "across": 0, "height": 0.5}
    post(alder, f"/shots/{shot}/changes", {"changes": [{"kind": "add", "path": ["readings"], "value": reading}]})
    linen = alder.get(f"/shots/{shot}/captures/linen/readings").json()["readings"]
    fill = alder.get(f"/shots/{shot}/captures/fill/readings").json()["readings"]
    assert linen[0]["name"] == "Front"
    assert linen[0]["words"] != fill[0]["words"]
    assert alder.get(f"/shots/{shot}/captures/gone/readings").status_code == 422

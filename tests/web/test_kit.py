"""The kit and the brief as pages: taken in, shown, used on a set, and nobody else's."""

import json
import re

from tests.formats.samples import DEMO


def as_json(body):
    return {"content": json.dumps(body), "headers": {"content-type": "application/json"}}


def take_in(person, data):
    return person.ask("POST", "/kit/import", json=False, files={"file": ("kit.csv", data, "text/csv")})


def test_a_kit_is_taken_in_shown_found_and_given_out_again(alder):
    table = (DEMO / "kit.csv").read_bytes()
    answer = take_in(alder, table.replace(b"stand,Low stand,4", b"stand,Low stand,many"))
    assert answer.status_code == 200
    assert "40 sorts of pieces taken in" in answer.text
    assert re.search(r"Row \d+: count is &#39;many&#39;", answer.text)
    shown = alder.ask("GET", "/kit", json=False).text
    assert "Mono 500" in shown
    assert "Low stand" not in shown
    found = alder.ask("GET", "/kit?find=floppy", json=False).text
    assert "Black 100 × 200" in found
    assert "Mono 500" not in found
    assert take_in(alder, table).status_code == 200
    given = alder.ask("GET", "/kit.csv", json=False)
    assert given.headers["content-type"].startswith("text/csv")
    assert len(given.text.splitlines()) == len(table.decode().splitlines())


def test_a_piece_added_by_hand_replaces_its_namesake_and_goes_again(alder):
    assert alder.post("/kit", data={"kind": "head", "name": "Own head", "count": "2", "energy_ws": "300"}).status_code == 204
    assert alder.post("/kit", data={"kind": "head", "name": "Own head", "count": "5", "energy_ws": "300"}).status_code == 204
    page = alder.ask("GET", "/kit?find=own", json=False).text
    assert "5 ×" in page
    assert "2 ×" not in page
    bad = alder.post("/kit", data={"kind": "head", "name": "Own head", "energy_ws": "a lot"})
    assert bad.status_code == 422
    assert "no number" in bad.json()["problem"]
    piece = re.search(r"/kit/([0-9a-f-]{36})/remove", page).group(1)
    assert alder.post(f"/kit/{piece}/remove").status_code == 204
    assert "Own head" not in alder.ask("GET", "/kit", json=False).text


def test_no_studio_sees_or_takes_anothers_kit(alder, birch):
    assert alder.post("/kit", data={"kind": "head", "name": "Only mine", "count": "1"}).status_code == 204
    page = alder.ask("GET", "/kit", json=False).text
    piece = re.search(r"Only mine.*?/kit/([0-9a-f-]{36})/remove", page, re.S).group(1)
    assert "Only mine" not in birch.ask("GET", "/kit", json=False).text
    assert "Only mine" not in birch.ask("GET", "/kit.csv", json=False).text
    assert birch.post(f"/kit/{piece}/remove").status_code == 404
    shot = birch.new_shot(birch.new_job("Theirs"))
    assert birch.post(f"/shots/{shot}/things", **as_json({"kind": f"kit:{piece}"})).status_code == 404
    assert "Only mine" in alder.ask("GET", "/kit", json=False).text


def test_a_piece_of_the_kit_stands_on_the_set_and_a_third_of_two_is_told(alder):
    alder.post(
        "/kit",
        data={
            "kind": "head",
            "name": "Twin",
            "count": "2",
            "lowest_stops": "5",
            "steps_per_stop": "2",
            "guide_number_m": "40",
        },
    )
    piece = re.search(r"Twin.*?/kit/([0-9a-f-]{36})/remove", alder.ask("GET", "/kit", json=False).text, re.S).group(1)
    shot = alder.new_shot(alder.new_job("Kit on the set"))
    for _ in range(3):
        state = alder.post(f"/shots/{shot}/things", **as_json({"kind": f"kit:{piece}"})).json()
    lights = [light for light in state["document"]["lights"] if light.get("own") == "Twin"]
    assert len(lights) == 3
    assert {light["lowest_stops"] for light in lights} == {5}
    assert [light["fault"] for light in state["lights"] if light["fault"]] == ["3 × Twin: the kit has 2."]
    judged = alder.ask("GET", f"/shots/{shot}/judged").json()
    assert any("the kit has 2" in fault["words"] for fault in judged["faults"])


def test_a_brief_is_kept_shown_and_printed(alder):
    job = alder.new_job("Briefed")
    shot = alder.new_shot(job)
    given = {
        "purpose": "Catalogue <script>", "looks": "Two lines", "rehearsal": "2027-01-12", "visit": "", "name": ["Shop", ""],
        "ratio": ["1:1", ""], "long_side": ["2400", ""], "count": ["8", ""],
    }  # fmt: skip
    assert alder.post(f"/jobs/{job}/brief", data=given).status_code == 204
    for address in (f"/jobs/{job}", f"/shots/{shot}/sheet"):
        page = alder.ask("GET", address, json=False).text
        assert "Catalogue &lt;script&gt;" in page
        assert "8 × Shop, 1:1, 2,400 px long" in page
    assert "2027-01-12" in alder.ask("GET", "/jobs", json=False).text
    bad = alder.post(f"/jobs/{job}/brief", data=given | {"rehearsal": "soon"})
    assert bad.status_code in (409, 422)
    assert "2027-03-14" in bad.json()["problem"]
    assert "Two lines" in alder.ask("GET", f"/jobs/{job}", json=False).text  # nothing is lost

"""States, pins, pairs, schools, readings and links for looking, asked as the page asks."""

from __future__ import annotations

import io
import json
import math
from datetime import UTC, datetime, timedelta

import numpy as np
import pytest
from PIL import Image
from pytest import approx

from fotaxis.services.lighting_setups import SETUPS
from tests.web.people import Person

JSON = {"content-type": "application/json"}


def change(person, shot, *changes, label="Changed"):
    answer = person.post(f"/shots/{shot}/changes", content=json.dumps({"changes": [*changes], "label": label}), headers=JSON)
    assert answer.status_code == 200, answer.text
    return answer.json()


def send(person, address, body):
    answer = person.post(address, content=json.dumps(body), headers=JSON)
    assert answer.status_code == 200, answer.text
    return answer.json()


def states(person, shot):
    return person.get(f"/shots/{shot}/states").json()


def test_nothing_that_was_is_lost_by_going_back_and_on_another_way(alder):
    shot = alder.new_shot()
    for iso in (200, 400):
        change(alder, shot, {"path": ["exposure", "iso"], "value": iso}, label=f"ISO {iso}")
    undone = send(alder, f"/shots/{shot}/undo", {})
    assert undone["document"]["exposure"]["iso"] == 200
    assert (undone["undo"], undone["redo"]) == ("ISO 200", "ISO 400")
    other = change(alder, shot, {"path": ["exposure", "iso"], "value": 800}, label="ISO 800")
    assert other["redo"] == ""
    kept = states(alder, shot)
    assert [(s["number"], s["parent"], s["label"]) for s in kept["states"]][1:] == [
        (2, 1, "ISO 200"), (3, 2, "ISO 400"), (4, 2, "ISO 800"),
    ]  # fmt: skip
    assert kept["current"] == 4
    back = send(alder, f"/shots/{shot}/go", {"number": 3})
    assert back["document"]["exposure"]["iso"] == 400
    assert send(alder, f"/shots/{shot}/undo", {})["document"]["exposure"]["iso"] == 200
    # From there redo leads to the newest way that was gone.
    assert send(alder, f"/shots/{shot}/redo", {})["document"]["exposure"]["iso"] == 800
    assert alder.post(f"/shots/{shot}/go", content=json.dumps({"number": 99}), headers=JSON).status_code == 404


def test_a_state_is_pinned_under_a_name_and_let_go_again(alder):
    shot = alder.new_shot()
    change(alder, shot, {"path": ["exposure", "iso"], "value": 200})
    assert send(alder, f"/shots/{shot}/pin", {"number": 1, "name": "first light"})["states"][0]["pin"] == "first light"
    assert states(alder, shot)["states"][0]["pin"] == "first light"
    assert send(alder, f"/shots/{shot}/pin", {"number": 1, "name": ""})["states"][0]["pin"] == ""


def test_pictures_of_states_and_their_difference(alder):
    shot = alder.new_shot()
    before = alder.get(f"/shots/{shot}/export").json()["lights"][0]["power_stops"]
    change(alder, shot, {"path": ["lights", "left", "power_stops"], "value": before + 1})
    small = Image.open(io.BytesIO(alder.get(f"/shots/{shot}/states/1/small.png").content))
    assert max(small.size) == 130
    pictures = [
        np.asarray(Image.open(io.BytesIO(alder.get(f"/shots/{shot}/states/{n}/picture.png?side=100").content)))
        for n in (1, 2)
    ]
    assert pictures[0].shape == pictures[1].shape
    answer = alder.get(f"/shots/{shot}/states/1/difference.png?side=100")
    grey = np.asarray(Image.open(io.BytesIO(answer.content)))[:, :, 0].astype(float)
    # By hand: where only the left panel is seen it is one stop brighter, a third of the way from grey to white.
    assert grey.max() == approx(127.5 + 127.5 / 3, abs=2)
    assert grey.min() >= 127
    # By hand: most of the frame is lit by both panels alike; one of them doubled makes half as much again.
    assert np.median(grey) == approx(127.5 + 127.5 * math.log2(1.5) / 3, abs=2)


def test_a_mirrored_panel_stays_symmetric_until_it_is_unlinked(alder):
    shot = alder.new_shot(start="jar")
    made = send(alder, f"/shots/{shot}/mirror", {"key": "left"})
    key = made["selected"]
    left, right = made["document"]["lights"]
    assert (left["pair"], right["pair"], right["key"]) == (key, "left", key)
    assert right["name"] == "Right panel"
    values = {"turn_deg": 66, "height_cm": 77, "power_stops": -2}
    changes = [{"path": ["lights", "left", name], "value": value} for name, value in values.items()]
    moved = change(alder, shot, {"path": ["lights", "left", "place", "x_cm"], "value": -55}, *changes)
    left, right = moved["document"]["lights"]
    assert (right["place"]["x_cm"], right["turn_deg"], right["height_cm"]) == (55, -66, 77)
    assert right["power_stops"] != left["power_stops"], "powers stay each light's own"
    back = change(alder, shot, {"path": ["lights", key, "place", "z_cm"], "value": -20})
    assert back["document"]["lights"][0]["place"]["z_cm"] == -20
    change(
        alder, shot, {"path": ["lights", "left", "pair"], "value": None}, {"path": ["lights", key, "pair"], "value": None}
    )
    free = change(alder, shot, {"path": ["lights", "left", "place", "x_cm"], "value": -70})
    assert free["document"]["lights"][1]["place"]["x_cm"] == 55


def test_when_one_of_a_pair_goes_the_other_is_free(alder):
    shot = alder.new_shot(start="jar")
    key = send(alder, f"/shots/{shot}/mirror", {"key": "left"})["selected"]
    left = change(alder, shot, {"kind": "remove", "path": ["lights", key]})["document"]["lights"][0]
    assert left["pair"] is None


@pytest.mark.parametrize("school", [*SETUPS])
def test_every_school_is_built_fitted_to_the_product(alder, school):
    shot = alder.new_shot(start="jar")
    before = alder.get(f"/shots/{shot}/export").json()
    built = send(alder, f"/shots/{shot}/school", {"key": school})
    document = built["document"]
    assert document["lights"]
    assert document["subject"] == before["subject"]
    assert document["camera"] == before["camera"]
    for thing in built["things"]:
        assert not thing["fault"], thing["fault"]
    undone = send(alder, f"/shots/{shot}/undo", {})
    assert undone["document"]["lights"] == before["lights"]


def test_the_strips_of_a_school_make_the_line_they_promise(alder):
    # Source: the closed form; lines at 0.85 to 0.95 of the half width, 1.5 stops over grey at their brightest.
    shot = alder.new_shot()
    send(alder, f"/shots/{shot}/school", {"key": "acrylic"})
    for side in ("left", "right"):
        value = {"kind": "edge", "key": side, "name": side, "side": side, "low": 0.45, "high": 0.6}
        change(alder, shot, {"kind": "add", "path": ["readings"], "value": value})
    judged = alder.get(f"/shots/{shot}/judged").json()
    for reading in judged["readings"]:
        place = float(reading["words"].split("at ")[1].split(" %")[0]) / 100
        assert 0.8 < place < 0.99, reading["words"]
        stops = float(reading["short"].split(" stops")[0].replace("−", "-"))
        assert 0.3 < stops < 2.3, reading["words"]
    assert judged["between"].startswith("Sides equal")


def test_an_unknown_school_is_refused_with_what_to_do(alder):
    shot = alder.new_shot()
    answer = alder.post(f"/shots/{shot}/school", content=json.dumps({"key": "moonlight"}), headers=JSON)
    assert answer.status_code == 422
    assert "choose one from the list" in answer.json()["problem"]


def test_a_lights_way_names_what_it_passes_and_the_weakest_light(alder):
    shot = alder.new_shot(start="empty")
    answer = alder.post(f"/shots/{shot}/things", content=json.dumps({"kind": "scrim and head"}), headers=JSON)
    assert answer.status_code == 200, answer.text
    alder.post(f"/shots/{shot}/things", content=json.dumps({"kind": "strip box"}), headers=JSON)
    judged = alder.get(f"/shots/{shot}/judged").json()
    key = next(light["key"] for light in answer.json()["document"]["lights"])
    assert [part["name"] for part in judged["chains"][key]["parts"]] == ["full grid cloth"]
    # By the table two stops of an even light; what else it takes here is told apart.
    assert judged["chains"][key]["parts"][0]["stops"].startswith("−2.0")
    assert judged["weakestKey"] in judged["chains"]


def test_the_tape_and_the_words_in_centimetres_and_inches(alder):
    shot = alder.new_shot()
    asked = f"/shots/{shot}/state?selected=left&tape=left&tape=right"
    state = alder.get(asked).json()
    assert "84.0 cm straight, 84.0 cm on the floor" in state["tape"]  # 42 cm left to 42 cm right
    words = next(thing["words"] for thing in state["things"] if thing["key"] == "left")
    # By hand: the table is 60 cm wide, its top 75 cm over the floor; the panel's middle stands 42 cm left, 22 cm up.
    assert "12.0 cm outside the table's left edge" in words
    assert "centre 22.0 cm above the table, 97.0 above the floor" in words
    state = alder.get(asked + "&unit=in").json()
    assert "33.00 in straight" in state["tape"]  # 33.07 in, to a quarter
    assert "4.75 in outside the table's left edge" in next(t["words"] for t in state["things"] if t["key"] == "left")
    assert any("16.50" in piece for piece in state["floor"])  # 42 cm on the drawing
    assert alder.get(f"/shots/{shot}/state?tape=left&tape=nothing").json()["tape"] == ""


def test_what_no_stand_can_hold_is_said_but_not_forbidden(alder):
    shot = alder.new_shot()
    for height, words in ((250, "higher than usual stands"), (-60, "below the floor")):
        state = change(alder, shot, {"path": ["lights", "left", "place", "y_cm"], "value": height})
        assert words in next(thing["fault"] for thing in state["things"] if thing["key"] == "left")


def test_a_link_for_looking_shows_one_frame_and_ends_when_it_is_ended(alder, nobody):
    shot = alder.new_shot()
    address = send(alder, f"/shots/{shot}/view-links", {"days": 7})["address"].split("://", 1)[1].split("/", 1)[1]
    change(alder, shot, {"path": ["lights", "left", "place", "x_cm"], "value": -41.7})  # no other shot has had this made
    page = nobody.get(f"/{address}")
    assert page.status_code == 200
    assert "/shots/" not in page.text
    before = nobody.get(f"/{address}/state").json()
    picture = Image.open(io.BytesIO(nobody.get(f"/{address}/picture.png").content))
    assert max(picture.size) == 800  # a draft: nothing has asked for the fine one
    assert not before["fine"]
    alder.get(f"/shots/{shot}/layers?side=420")
    assert nobody.get(f"/{address}/state").json()["fine"]
    fine = Image.open(io.BytesIO(nobody.get(f"/{address}/picture.png").content))
    assert max(fine.size) == 440  # sizes are 40 apart
    change(alder, shot, {"path": ["exposure", "iso"], "value": 400})
    assert nobody.get(f"/{address}/state").json()["state"] == before["state"] + 1
    assert nobody.post(f"/{address}").status_code in (404, 405)
    # The token is kept nowhere as it is, and leads to nothing else.
    assert nobody.get(f"/shots/{shot}").status_code == 303
    assert "opened 1 times" in alder.get(f"/shots/{shot}/view-links").json()["links"][0]["words"]
    assert send(alder, f"/shots/{shot}/view-links/end", {}) == {"links": []}
    for part in ("", "/state", "/picture.png"):
        assert nobody.get(f"/{address}{part}").status_code == 404


def test_links_end_one_by_one_by_themselves_and_with_their_shot(app, alder, nobody):
    shot = alder.new_shot()
    links = app.state.services.view_links
    made = [send(alder, f"/shots/{shot}/view-links", {"days": days}) for days in (1, 30)]
    tokens = [one["address"].rsplit("/", 1)[1] for one in made]
    first = alder.get(f"/shots/{shot}/view-links").json()["links"][0]["id"]
    assert len(send(alder, f"/shots/{shot}/view-links/end", {"link": first})["links"]) == 1
    assert [nobody.get(f"/view/{token}").status_code for token in tokens] == [404, 200]
    kept, links._clock = links._clock, lambda: datetime.now(UTC) + timedelta(days=31)
    try:
        assert nobody.get(f"/view/{tokens[1]}").status_code == 404
    finally:
        links._clock = kept
    assert nobody.get(f"/view/{tokens[1]}").status_code == 200
    alder.post(f"/shots/{shot}/archive")
    assert nobody.get(f"/view/{tokens[1]}").status_code == 404
    alder.post(f"/shots/{shot}/restore")
    assert nobody.get(f"/view/{tokens[1]}").status_code == 404  # it does not come back by itself
    refused = alder.post(f"/shots/{shot}/view-links", content='{"days": 3}', headers=JSON)
    assert "1, 7, 30 or 90 days" in refused.json()["problem"]


def test_a_guessed_link_and_too_many_links_are_refused(alder, nobody):
    assert nobody.get("/view/guessed-token/state").status_code == 404
    shot = alder.new_shot()
    answers = [alder.post(f"/shots/{shot}/view-links", content='{"days": 1}', headers=JSON).status_code for _ in range(21)]
    assert answers[:20] == [200] * 20
    assert answers[20] == 422


def test_pointing_names_what_is_mirrored_and_attaches_spots(alder):
    shot = alder.new_shot()
    outlines = alder.get(f"/shots/{shot}/images").json()
    assert {"left", "right"} <= set(outlines)
    longest = max(outlines["left"].split("M"), key=len).strip("Z")
    corners = [tuple(float(v) / 1000 for v in place.split()) for place in longest.split("L")]
    seen = [
        alder.get(f"/shots/{shot}/spot?x={x + dx:.4f}&y={y:.4f}").json()
        for x, y in corners[:: max(1, len(corners) // 12)]
        for dx in (-0.004, 0.004)
    ]
    parts = [part for one in seen for part in one["parts"]]
    assert any(part["key"] == "left" and "mirrored in Bottle" in part["words"] for part in parts)
    way = next(part["way"] for part in parts if part["key"] == "left")
    assert math.dist(way[0], [0, 19.4, 150]) < 1  # begins at the lens
    on = alder.get(f"/shots/{shot}/spot?x=0.5&y=0.6&attach=true").json()["on"]
    assert on is not None
    assert abs(on["across"]) < 0.05
    assert alder.get(f"/shots/{shot}/spot?x=0.02&y=0.02&attach=true").json()["on"] is None
    assert alder.get(f"/shots/{shot}/spot?x=2&y=0").status_code == 422


def test_readings_of_one_key_are_refused(alder):
    shot = alder.new_shot()
    value = {"kind": "spot", "key": "a", "name": "A"}
    body = {"changes": [{"path": ["readings"], "value": [value, value]}]}
    answer = alder.post(f"/shots/{shot}/changes", content=json.dumps(body), headers=JSON)
    assert answer.status_code == 422
    assert "keys must be distinct" in answer.json()["problem"]


def test_readings_added_at_once_under_one_key_are_both_kept(alder):
    shot = alder.new_shot()
    value = {"kind": "spot", "key": "a", "name": "A"}
    body = {"changes": [{"kind": "add", "path": ["readings"], "value": value}] * 2}
    answer = alder.post(f"/shots/{shot}/changes", content=json.dumps(body), headers=JSON)
    assert [reading["key"] for reading in answer.json()["document"]["readings"]] == ["a", "a-2"]


def test_a_window_hears_of_changes_made_elsewhere(app, alder):
    shot = alder.new_shot()
    second = Person.signing_in(app, "alder@test.example", "a long enough password")
    with alder.client.websocket_connect(
        f"ws://fotaxis.test/shots/{shot}/live", headers={"origin": "http://fotaxis.test"}
    ) as socket:
        change(second, shot, {"path": ["exposure", "iso"], "value": 400})
        assert b'"state": 2' in socket.receive_bytes()


def test_pictures_that_follow_a_hand_bring_what_changed_in_the_drawings(alder):
    shot = alder.new_shot()
    key = alder.document(shot)["lights"][0]["key"]
    view = {"width": 380, "height": 288, "selected": key}

    def header(socket, seq, x):
        change = {"path": ["lights", key, "place", "x_cm"], "value": x}
        socket.send_text(json.dumps({"seq": seq, "revision": 1, "changes": [change], "view": view}))
        answer = socket.receive_bytes()
        return json.loads(answer[4 : 4 + int.from_bytes(answer[:4], "little")])

    def opened():
        return alder.client.websocket_connect(
            f"ws://fotaxis.test/shots/{shot}/live", headers={"origin": "http://fotaxis.test"}
        )

    with opened() as socket:
        first, second, same = (header(socket, n, x) for n, x in ((1, -40), (2, -44), (3, -44)))
    with opened() as socket:
        whole = header(socket, 4, -44)
    for name in ("floor", "side"):
        assert all(first[name])
        merged = [new or old for new, old in zip(second[name], first[name], strict=True)]
        assert merged == whole[name]
        assert set(same[name]) == {None}
    assert 0 < sum(piece is not None for piece in second["floor"]) < len(first["floor"]) / 2


def test_the_usual_readings_are_added_once_and_fit_the_product(alder):
    shot = alder.new_shot()
    state = send(alder, f"/shots/{shot}/usual-readings", {})
    readings = {reading["key"]: reading for reading in state["document"]["readings"]}
    assert set(readings) == {"left-line", "right-line", "label-centre", "background"}
    assert state["usualReadings"] == 0
    # By hand: the label runs from 4 to 13 cm of 30.8 cm.
    assert readings["label-centre"]["height"] == approx(8.5 / 30.8, abs=0.001)
    assert send(alder, f"/shots/{shot}/usual-readings", {})["document"] == state["document"]

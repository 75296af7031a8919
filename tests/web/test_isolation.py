"""One studio can neither read nor change another's: every route there is, tried with a stranger's session.

A route added later is tried too; if it takes a body that `bodies` does not know, its owner's own request fails here.
"""

import hashlib
import json
import re
from uuid import uuid4

import pytest
from fastapi.routing import APIRoute, APIWebSocketRoute
from starlette.routing import Mount
from starlette.websockets import WebSocketDisconnect

from fotaxis.formats.shot_archive import WholeShotFiles
from tests.formats import samples
from tests.formats.test_lamps import ies

OPEN = {
    "/", "/health", "/metrics", "/sign-in", "/sign-in/code", "/sign-in/passkey", "/set-up", "/schema/shot.json",
    "/join/{token}",
    "/new-password/{token}", "/reckoner/compute.js", "/reckoner/offline.js",
}  # fmt: skip
"""Addresses that hold nothing of any studio."""

OWN = {
    "/jobs", "/sign-out", "/materials", "/materials/picture.png", "/lights", "/lights/picture.png",
    "/beginnings/picture.png",
    "/beginnings/outline", "/reckoner", "/reckoner/answer", "/reckoner/calculations", "/reckoner/core.zip", "/kit",
    "/kit.csv", "/kit/import", "/book",
    "/session", "/account",
    "/account/password", "/account/sessions/others/end", "/account/codes", "/account/codes/on", "/account/codes/off",
    "/account/passkeys", "/account/passkeys/remove", "/studio", "/studio/invitations", "/studio/rename", "/studio/limits",
    "/studio/remove", "/studio/removed", "/studio/bring-back", "/history", "/history.csv", "/removed",
}  # fmt: skip
"""Addresses without an id: they show or change the asker's own studio, or show what every studio has."""

PEOPLE = {"session_id", "user_id", "invitation_id", "piece_id"}
"""What stands in addresses of people and of the kit; whose they are is tried in test_people.py, test_accounts.py, "
"test_kit.py."""

OWNED = {"job_id", "shot_id", "frame_id", "final_id", "merge_id"}
KEY = "acrylic"
"""Names a lighting set-up where one is asked for, and here a capture."""

LOOKING = {"/view/{token}", "/view/{token}/state", "/view/{token}/picture.png"}
"""Addresses whose own token says what may be looked at, with or without a session; see test_states.py."""


def every_route(app):
    """(method, path) of every route, SOCKET for a WebSocket; fails on anything it cannot look into."""
    found, waiting = [], list(app.routes)
    while waiting:
        route = waiting.pop(0)
        if isinstance(route, APIRoute):
            found += [(method, route.path) for method in sorted(route.methods)]
        elif isinstance(route, APIWebSocketRoute):
            found.append(("SOCKET", route.path))
        elif isinstance(route, Mount):
            assert route.path == "/static", "only files that belong to nobody may be mounted"
        elif hasattr(route, "original_router"):  # a router that the application includes
            assert route.include_context.prefix == ""
            waiting += route.original_router.routes
        else:
            raise AssertionError(f"{route!r} is of a kind this test does not know")
    assert len(found) > 30
    return found


def bodies(path):
    """What the page sends to an address."""
    png = {"file": ("frame.png", samples.encoded("PNG"), "image/png")}
    shot = {"file": ("shot.json", (samples.DEMO / "elder-cordial.json").read_bytes(), "application/json")}
    return {
        "/jobs/{job_id}/rename": {"data": {"name": "Taken over"}},
        "/jobs/{job_id}/shots": {"data": {"name": "Smuggled in", "start": "jar"}},
        "/jobs/{job_id}/import": {"files": shot},
        "/shots/{shot_id}/rename": {"data": {"name": "Taken over"}},
        "/shots/{shot_id}/changes": {"json_body": {"changes": [{"path": ["exposure", "iso"], "value": 200}]}},
        "/shots/{shot_id}/things": {"json_body": {"kind": "panel"}},
        "/shots/{shot_id}/mirror": {"json_body": {"key": "left"}},
        "/shots/{shot_id}/reckoner": {
            "json_body": {"key": "stops", "texts": {"new_f_number": "11"}, "unknown": "new_power"}
        },
        "/shots/{shot_id}/reframe": {"json_body": {"fills": 0.6}},
        "/jobs/{job_id}/brief": {"data": {"purpose": "Not mine"}},
        "/jobs/{job_id}/begin": {"data": {"shape": "jar", "look": "none"}},
        "/shots/{shot_id}/sheet-loss": {
            "json_body": {"key": "full-white", "without_f": 11, "with_f": 5.6, "head_cm": 40, "meter_cm": 150}
        },
        "/shots/{shot_id}/school": {"json_body": {"key": "acrylic"}},
        "/shots/{shot_id}/go": {"json_body": {"number": 1}},
        "/shots/{shot_id}/pin": {"json_body": {"number": 1, "name": "not mine"}},
        "/shots/{shot_id}/usual-readings": {"json_body": {}},
        "/shots/{shot_id}/wish-set": {"json_body": {}},
        "/shots/{shot_id}/mark": {"json_body": {"x": 0.4, "y": 0.4, "to_x": 0.5, "to_y": 0.5}},
        "/shots/{shot_id}/balance": {"json_body": {}},
        "/shots/{shot_id}/proposals": {"json_body": {"wish": "left-place"}},
        "/shots/{shot_id}/delicate": {"json_body": {}},
        "/shots/{shot_id}/sweep": {"json_body": {"key": "left", "variants": 3}},
        "/shots/{shot_id}/undo": {"json_body": {}},
        "/shots/{shot_id}/redo": {"json_body": {}},
        "/shots/{shot_id}/profile": {"data": {"text": "0, 6\n10, 7"}},
        "/shots/{shot_id}/shape": {"data": {"kind": "can"}},
        "/shots/{shot_id}/model": {
            "files": {"file": ("model.obj", samples.TETRAHEDRON, "text/plain")},
            "data": {"unit": "cm"},
        },
        "/shots/{shot_id}/artwork": {"files": png},
        "/shots/{shot_id}/outline": {
            "files": {"file": ("side.png", samples.bottle_from_the_side(), "image/png")},
            "data": {"height_cm": 30},
        },
        "/shots/{shot_id}/lamp": {"files": {"file": ("lamp.ies", ies(), "text/plain")}},
        "/shots/{shot_id}/frames": {"files": png, "data": {"note": "not mine"}},
        "/shots/{shot_id}/finals": {"data": {"side": 300}},
        "/shots/{shot_id}/view-links": {"json_body": {"days": 7}},
        "/shots/{shot_id}/view-links/end": {"json_body": {}},
        "/frames/{frame_id}/note": {"data": {"note": "not mine"}},
        "/frames/{frame_id}/capture": {"data": {"capture": KEY}},
        "/jobs/{job_id}/import-whole": {"files": {"file": ("shot.zip", whole_shot(), "application/zip")}},
        "/shots/{shot_id}/captures": {"json_body": {"name": "Not mine"}},
        "/shots/{shot_id}/captures/changes": {
            "json_body": {"changes": [{"path": ["captures", KEY, "name"], "value": "Mine"}]}
        },
        "/shots/{shot_id}/captures/{key}/frame": {"files": png},
        "/shots/{shot_id}/captures/needed": {"json_body": {"school": "one per part"}},
        "/shots/{shot_id}/composite/preview": {
            "json_body": {"changes": [{"path": ["captures", KEY, "strength_stops"], "value": -1}]}
        },
        "/shots/{shot_id}/shooting/tick": {"data": {"step": KEY}},
        "/shots/{shot_id}/shooting/untick": {"data": {"step": KEY}},
        "/shots/{shot_id}/series": {"data": {"name": "Half size", "height_cm": "20"}},
    }.get(path, {})


def whole_shot():
    """A whole shot as one zip, as small as it may be."""
    shot = (samples.DEMO / "elder-cordial.json").read_bytes()
    marks = {"shot.json": hashlib.sha256(shot).hexdigest()}
    manifest = json.dumps({"format": "fotaxis-whole-shot", "version": 1, "sha256": marks}).encode()
    return WholeShotFiles().pack({"shot.json": shot, "frames.json": b"[]", "manifest.json": manifest})


def send(person, method, path, address, **headers):
    """Ask as the page would; headers by their names with _ for -."""
    content = dict(bodies(path)) if method == "POST" else {}
    given = {name.replace("_", "-"): value for name, value in headers.items()}
    if "json_body" in content:
        content = {"content": json.dumps(content["json_body"])}
        given["content-type"] = "application/json"
    return person.ask(method, address, headers=given, **content)


def socket_to(client, address, *, origin="http://fotaxis.test"):
    headers = {"origin": origin} if origin else {}
    return client.websocket_connect(f"ws://fotaxis.test{address}", headers=headers)


def filled(path, **ids):
    """An address with its names filled in, and what its question needs."""
    address = path.format(
        **{name: uuid4() for name in PEOPLE} | ids, number=1, key=KEY, token="x", wish="left-place", kind="jpg"
    )
    asks = {
        "spot": "x=0.5&y=0.5",
        "on-body": "x=0.5&y=0.5",
        "proposals": "wish=left-place",
        "sweep": "key=left",
        "artwork.png": "band=0",
        "alone.jpg": "light=left",
        "mask.png": f"key={KEY}",
        "variants.png": "what=grids&key=left",
    }
    asked = asks.get(path.rsplit("/", 1)[-1])
    return f"{address}?{asked}" if asked else address


def of_people(path):
    return any(f"{{{name}}}" in path for name in PEOPLE)


class Belongings:
    """A job with a shot and a frame, and everything that can be read of them."""

    def __init__(self, person):
        self.person = person
        self.job = person.new_job("Secret range")
        self.shot = person.new_shot(self.job)
        sheet = json.dumps({"kind": "full white"})
        headers = {"content-type": "application/json"}
        assert person.post(f"/shots/{self.shot}/things", content=sheet, headers=headers).status_code == 200
        assert person.post(f"/shots/{self.shot}/wish-set", content="{}", headers=headers).status_code == 200
        self.frame = person.new_frame(self.shot)
        self.final = person.new_final(self.shot)
        alone = {"key": KEY, "name": "All", "lights": {"left": -4}, "shutter_s": 2**-7, "f_number": 8}
        kept = json.dumps({"changes": [{"kind": "add", "path": ["captures"], "value": alone}]})
        assert person.post(f"/shots/{self.shot}/changes", content=kept, headers=headers).status_code == 200
        assert person.post(f"/frames/{self.frame}/capture", data={"capture": KEY}).status_code == 204
        self.merge = person.new_merge(self.shot)

    def address(self, path):
        return filled(
            path, job_id=self.job, shot_id=self.shot, frame_id=self.frame, final_id=self.final, merge_id=self.merge
        )

    def everything(self):
        ask = self.person.get
        pages = [f"/jobs/{self.job}", f"/jobs/{self.job}?archived=true", "/jobs", "/jobs?archived=true"]
        pages += [f"/shots/{self.shot}/{part}" for part in ("export", "frames", "finals", "state", "states")]
        pages += [f"/frames/{self.frame}", f"/frames/{self.frame}/file", f"/finals/{self.final}/picture.png"]
        return [(page, ask(page, json=False).status_code, ask(page, json=False).content) for page in pages]


@pytest.fixture(scope="module")
def theirs(alder):
    return Belongings(alder)


def test_every_address_with_a_name_in_it_is_known_here(app):
    for _, path in every_route(app):
        names = set(re.findall(r"{(\w+)}", path))
        assert names <= OWNED | {"number", "key", "token", "wish", "kind"} | PEOPLE, path
        assert names & (OWNED | PEOPLE) or path in OPEN | OWN | LOOKING, (
            f"{path}: says neither whose it is nor that it is nobody's"
        )


@pytest.mark.slow
def test_the_owner_reaches_every_route(app, alder):
    # Without this, a stranger's failure could be everybody's.
    for method, path in every_route(app):
        if path in OPEN | OWN | LOOKING or of_people(path):
            continue
        mine = Belongings(alder)
        if method == "SOCKET":
            with socket_to(alder.client, mine.address(path)) as socket:
                socket.send_text('{"seq": 1, "revision": 1}')
                assert b'"seq": 1' in socket.receive_bytes()
            continue
        if path.endswith("/bring-back"):
            send(alder, method, path.replace("bring-back", "remove"), mine.address(path).replace("bring-back", "remove"))
        answer = send(alder, method, path, mine.address(path))
        assert answer.status_code in (200, 204), f"{method} {path}: {answer.status_code} {answer.text[:300]}"


def test_a_stranger_reads_nothing_and_changes_nothing(app, alder, birch, theirs):
    before = theirs.everything()
    assert all(status == 200 for _, status, _ in before)
    tried = 0
    for method, path in every_route(app):
        if path in OPEN | OWN | LOOKING or of_people(path):
            continue
        tried += 1
        if method == "SOCKET":
            with (
                pytest.raises(WebSocketDisconnect, check=lambda closed: closed.code == 4404),
                socket_to(birch.client, theirs.address(path)),
            ):
                pass
            continue
        answer = send(birch, method, path, theirs.address(path))
        nowhere = send(birch, method, path, filled(path, **{name: uuid4() for name in OWNED}))
        assert answer.status_code == 404, f"{method} {path}: {answer.status_code}"
        # Nothing tells a stranger's thing from one that does not exist.
        assert answer.content == nowhere.content, f"{method} {path}"
    assert tried >= 30
    assert theirs.everything() == before


def test_lists_show_only_the_askers_own(birch, theirs):
    for page in ("/jobs", "/jobs?archived=true"):
        text = birch.get(page, json=False).text
        assert "Secret range" not in text
        assert theirs.job not in text


def test_without_signing_in_nothing_is_reached(app, nobody, theirs):
    for method, path in every_route(app):
        if path in OPEN | LOOKING:
            continue
        if method == "SOCKET":
            with (
                pytest.raises(WebSocketDisconnect, check=lambda closed: closed.code == 4401),
                socket_to(nobody, theirs.address(path)),
            ):
                pass
            continue
        answer = nobody.request(method, theirs.address(path))
        assert answer.status_code == (303 if method == "GET" else 401), f"{method} {path}"
        if method == "GET":
            assert answer.headers["location"] == "/sign-in"


def test_every_change_needs_the_pages_token(app, alder, theirs):
    before = theirs.everything()
    for method, path in every_route(app):
        if method in ("GET", "HEAD", "SOCKET") or path in OPEN:
            continue
        for headers in (
            {"x_csrf_token": ""},
            {"x_csrf_token": "guessed"},
            {"sec_fetch_site": "cross-site"},
            {"origin": "http://elsewhere.test"},
        ):
            answer = send(alder, method, path, theirs.address(path), **headers)
            assert answer.status_code == 403, f"{method} {path} {headers}"
    assert theirs.everything() == before


def test_a_socket_from_another_sites_page_is_refused(alder, theirs):
    for origin in ("http://elsewhere.test", None):
        with (
            pytest.raises(WebSocketDisconnect, check=lambda closed: closed.code == 4401),
            socket_to(alder.client, f"/shots/{theirs.shot}/live", origin=origin),
        ):
            pass

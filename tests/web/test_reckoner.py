"""The reckoner over HTTP: its page, its answers, what a browser takes along, and a shot that takes an answer."""

import io
import json
import subprocess
import sys
import zipfile

import pytest

from fotaxis.core.reckoner.asked import asked
from fotaxis.core.reckoner.calculations import CALCULATIONS
from fotaxis.web import reckoner_bundle

PAGES = ["/reckoner", "/reckoner/calculations", "/reckoner/core.zip", "/reckoner/answer?question={}"]


def question(**more):
    return {"question": json.dumps({"key": "guide-number", "texts": {}, "unknown": "f_number", **more})}


def test_the_page_holds_every_calculation_and_nothing_of_anybody(alder):
    page = alder.ask("GET", "/reckoner", json=False).text
    assert all(json.dumps(one.key) in page for one in CALCULATIONS)
    # A browser keeps this page: no name, no studio, no token may stand in it.
    assert alder.token not in page
    assert "Studio alder" not in page
    assert "data-user" not in page


@pytest.mark.parametrize("path", PAGES)
def test_who_is_not_signed_in_gets_none_of_it(nobody, path):
    answer = nobody.get(path, headers={"accept": "application/json"})
    assert answer.status_code == 401


def test_an_answer_is_what_the_core_says(alder):
    told = alder.get("/reckoner/answer", params=question(texts={"guide": "56 m", "distance": "7 m", "power": "1/1"})).json()
    assert told["gives"][0]["text"] == "f/8"
    assert told == asked(
        {"key": "guide-number", "texts": {"guide": "56 m", "distance": "7 m", "power": "1/1"}, "unknown": "f_number"}
    )


@pytest.mark.parametrize(
    ("bad", "words"),
    [
        ({"key": "alchemy"}, "there is no calculation"),
        ({"texts": {"gold": "1"}}, "has no"),
        ({"unknown": "heads"}, "cannot be solved"),
        ({"texts": {"iso": "1" * 300}}, "200"),
        ({"step": ["iso", 10**9]}, "100"),
        ({"more": 1}, "name is not known"),
        ({"inches": "perhaps"}, ""),
    ],
)
def test_a_question_that_is_none_is_refused(alder, bad, words):
    answer = alder.get("/reckoner/answer", params=question(**bad))
    assert answer.status_code == 422
    assert words in answer.json()["problem"]
    assert alder.get("/reckoner/answer", params={"question": "{"}).status_code == 422


def test_python_may_be_compiled_by_the_computing_script_alone(alder):
    compute = alder.ask("GET", "/reckoner/compute.js", json=False)
    assert "'wasm-unsafe-eval'" in compute.headers["content-security-policy"]
    for path in ("/reckoner", "/reckoner/offline.js", "/jobs", "/static/js/reckoner/page.js"):
        assert "unsafe" not in alder.ask("GET", path, json=False).headers["content-security-policy"]


def test_the_script_that_keeps_the_page_names_all_its_parts(alder):
    answer = alder.ask("GET", "/reckoner/offline.js", json=False)
    assert answer.headers["service-worker-allowed"] == "/reckoner"
    kept = json.loads(answer.text.splitlines()[0].removeprefix("self.RECKONER = ").rstrip(";"))
    for part in kept["parts"]:
        assert alder.ask("GET", part, json=False).status_code == 200, part
    page = alder.ask("GET", "/reckoner", json=False).text
    assert all(address in kept["parts"] for address in _addresses(page))


def _addresses(page):
    """Scripts, styles and fonts that the page asks for."""
    found = [word.split('"')[1] for word in page.split() if word.startswith(('src="', 'href="/static'))]
    assert len(found) >= 4
    return found


def test_the_archive_answers_without_any_package_beside_it(alder, tmp_path):
    """What the browser takes along, run by a bare Python that has no numpy: every calculation, as usual."""
    data = alder.ask("GET", reckoner_bundle.archive_address(), json=False).content
    zipfile.ZipFile(io.BytesIO(data)).extractall(tmp_path)
    script = (
        "import json, sys; sys.path[:0] = [sys.argv[1]]\n"
        "from fotaxis.core.reckoner.asked import asked, described\n"
        "print(json.dumps([asked({'key': one['key'], 'unknown': name}) for one in described() for name in "
        "one['unknowns']]))\n"
    )
    ran = subprocess.run(
        [sys.executable, "-I", "-S", "-c", script, str(tmp_path)], capture_output=True, check=True, cwd=tmp_path
    )
    here = [asked({"key": one.key, "unknown": name}) for one in _in_order() for name in one.unknowns]
    assert json.loads(ran.stdout) == json.loads(json.dumps(here))
    assert len(data) < 200_000


def _in_order():
    from fotaxis.core.reckoner.calculation import GROUPS

    return [one for group in GROUPS for one in CALCULATIONS if one.group == group]


def test_a_shot_fills_the_fields_and_takes_an_answer(alder):
    shot = alder.new_shot()
    about = alder.get(f"/shots/{shot}/reckoner").json()
    assert about["numbers"]["exposure.f_number"] == 8
    assert about["reckoned"] == []
    body = {"key": "stops", "texts": {"new_f_number": "11"}, "unknown": "new_iso", "into": "set"}
    state = alder.post(
        f"/shots/{shot}/reckoner", content=json.dumps(body), headers={"content-type": "application/json"}
    ).json()
    assert "Taken: aperture f/11, ISO 200" in state["note"]
    assert alder.document(shot)["exposure"]["iso"] == 200
    (kept,) = alder.get(f"/shots/{shot}/reckoner").json()["reckoned"]
    assert kept["gives"].startswith("ISO now 200")
    sheet = alder.ask("GET", f"/shots/{shot}/sheet", json=False).text
    assert "Reckoned." in sheet
    assert "ISO now 200" in sheet
    off = {"changes": [{"kind": "remove", "path": ["reckoned", kept["key"]]}], "label": "Off"}
    assert (
        alder.post(
            f"/shots/{shot}/changes", content=json.dumps(off), headers={"content-type": "application/json"}
        ).status_code
        == 200
    )
    assert "Reckoned." not in alder.ask("GET", f"/shots/{shot}/sheet", json=False).text


def test_a_client_looks_and_takes_nothing(app, alder):
    shot = alder.new_shot()
    client = alder.colleague(app, "reckoning-client", "client")
    body = {"key": "stops", "texts": {"new_f_number": "11"}, "unknown": "new_iso"}
    answer = client.post(f"/shots/{shot}/reckoner", content=json.dumps(body), headers={"content-type": "application/json"})
    assert answer.status_code == 403
    assert client.get(f"/shots/{shot}/reckoner").status_code == 200


def test_an_answer_that_cannot_be_set_says_why(alder):
    shot = alder.new_shot()
    body = {"key": "depth-of-field", "texts": {"f_number": "0"}, "unknown": "depth"}
    answer = alder.post(f"/shots/{shot}/reckoner", content=json.dumps(body), headers={"content-type": "application/json"})
    assert answer.status_code == 422
    assert "must be from f/0.5" in answer.json()["problem"]

"""What ships: styles built from their source, nothing from other hosts, licences beside what is not ours."""

import hashlib
import json
import re
import subprocess
from pathlib import Path

import pytest

import fotaxis.web

WEB = Path(fotaxis.web.__file__).parent
ROOT = WEB.parents[2]
OURS = [*WEB.glob("templates/**/*.html"), *WEB.glob("static/js/**/*.js"), *WEB.glob("styles/*.css")]


def test_the_built_styles_are_those_of_the_source(tmp_path):
    out = tmp_path / "app.css"
    command = [str(ROOT / "node_modules/.bin/tailwindcss"), "-i", str(WEB / "styles/app.css"), "-o", str(out), "--minify"]
    subprocess.run(command, check=True, capture_output=True, cwd=ROOT)
    assert out.read_text() == (WEB / "static/app.css").read_text(), "run ./run build-css and commit the result"


@pytest.mark.parametrize("path", OURS, ids=lambda p: p.name)
def test_nothing_points_to_another_host(path):
    found = re.findall(r"(?:https?:)?//[a-z0-9.-]+\.[a-z]{2,}[^\s\"')]*", path.read_text())
    assert [address for address in found if not address.startswith("http://www.w3.org/")] == []


@pytest.mark.parametrize("path", WEB.glob("templates/**/*.html"), ids=lambda p: p.name)
def test_templates_carry_no_inline_script_or_style(path):
    text = path.read_text()
    assert not re.search(r"<script(?![^>]*(src=|application/json))", text)
    assert not re.search(r"\s(style|on\w+)=", text)


def test_what_is_vendored_is_what_the_list_says():
    listed = json.loads((WEB / "static/vendor/vendored.json").read_text())
    for one in listed:
        assert hashlib.sha256((WEB / "static" / one["file"]).read_bytes()).hexdigest() == one["sha256"], one["file"]
    there = {p.relative_to(WEB / "static").as_posix() for p in (WEB / "static/vendor").rglob("*") if p.is_file()}
    there = {name for name in there if "/licenses/" not in name and not name.endswith("vendored.json")}
    assert there <= {one["file"] for one in listed}


def test_what_is_not_ours_has_its_licence_beside_it():
    licences = " ".join(p.name.lower() for p in (WEB / "static/vendor/licenses").iterdir())
    for name in ("htmx", "alpine", "inter", "pyodide", "python"):
        assert name in licences

"""Captures and merges on the command line: what a shot asks for, in which order it is shot, real frames joined."""

import json

import numpy as np
import pytest
from PIL import Image

from fotaxis.cli import main
from fotaxis.demo.scenario import printed
from fotaxis.formats.deep_pictures import first_page
from tests.formats import samples


@pytest.fixture
def carton(tmp_path):
    """The demo's carton in three captures as a file, and its simulated frames."""
    file = tmp_path / "carton.json"
    file.write_bytes(printed(samples.DEMO, "carton-three-captures.json"))
    frames = [str(samples.DEMO / "frames" / f"carton-three-captures-{key}.jpg") for key in ("linen", "crest", "fill")]
    return str(file), frames


def test_captures_are_told_in_order_with_what_to_touch(carton, capsys):
    assert main(["captures", carton[0]]) == 0
    said = capsys.readouterr().out
    assert "linen: Linen, raking light. Raking light alone" in said
    assert said.index("Black frame") < said.index("Guide frame")
    assert "On: Raking light" in said
    assert main(["captures", carton[0], "--json"]) == 0
    told = json.loads(capsys.readouterr().out)
    assert [one["key"] for one in told["captures"]] == ["linen", "crest", "fill"]
    assert {row["step"] for row in told["list"]} == {"linen", "crest", "fill", "black-frame", "guide-frame"}


def test_captures_that_a_set_asks_for_are_written(tmp_path, capsys):
    out = tmp_path / "with.json"
    shot = str(samples.DEMO / "elder-cordial.json")
    assert main(["captures", shot, "--school", "one per part", "--out", str(out)]) == 0
    assert [one["name"] for one in json.loads(out.read_text())["captures"]] == ["Left panel", "Right panel", "Label light"]
    assert "would be: Label light" in capsys.readouterr().out


def test_real_frames_are_merged_into_any_kind(carton, tmp_path, capsys):
    shot, frames = carton
    out = tmp_path / "merged.tif"
    assert main(["merge", shot, *frames, "--out", str(out)]) == 0
    said = capsys.readouterr().out
    assert "960 x 1200 pixels of 3 frames" in said
    assert "Foil crest, card in: the camera was nudged" in said
    merged = first_page(out.read_bytes())
    by_key = [f"fill={frames[2]}", f"linen={frames[0]}", f"crest={frames[1]}"]
    png = tmp_path / "merged.png"
    assert main(["merge", shot, *by_key, "--out", str(png)]) == 0
    assert np.abs(np.asarray(Image.open(png).convert("RGB"), int) - merged / 257).max() <= 1


@pytest.mark.parametrize(
    ("arguments", "why"),
    [
        (["--out", "x.gif"], "must end in one of"), (["other=FRAME", "--out", "x.tif"], "there are 3 captures"),
        (["missing.jpg", "--out", "x.tif"], "No such file"), (["SHOT", "--out", "x.tif"], "not a JPEG, PNG or TIFF"),
    ],
)  # fmt: skip
def test_what_cannot_be_merged_is_said(carton, tmp_path, capsys, monkeypatch, arguments, why):
    monkeypatch.chdir(tmp_path)
    shot, frames = carton
    given = [one.replace("FRAME", frames[0]).replace("SHOT", shot) for one in arguments]
    given = given if not given[0].startswith("--") else [frames[0], *given]
    assert main(["merge", shot, *given]) == 2
    assert why in capsys.readouterr().err


def test_a_shot_without_captures_says_how_to_make_them(capsys, tmp_path):
    shot = str(samples.DEMO / "elder-cordial.json")
    assert main(["merge", shot, shot, "--out", str(tmp_path / "x.tif")]) == 2
    assert "it holds no captures" in capsys.readouterr().err

"""The command line: files in, files out, exit codes."""

import json
import subprocess
import sys

import numpy as np
import OpenEXR
import pytest
from PIL import Image

from fotaxis.cli import main
from fotaxis.core.camera.exposure import encode_srgb
from tests.formats import samples

SHOT = str(samples.DEMO / "elder-cordial.json")


def channels(path):
    with OpenEXR.File(str(path), separate_channels=True) as file:
        return {name: channel.pixels for name, channel in file.channels().items()}


def test_exr_has_one_layer_per_light_and_their_sum(tmp_path):
    out = tmp_path / "picture.exr"
    assert main(["render", SHOT, "--out", str(out), "--size", "64x80"]) == 0
    found = channels(out)
    lights = [light["key"] for light in samples.raw()["lights"]]
    names = {name.split(".")[0] for name in found if "." in name}
    assert names == {"room", *(key.replace("-", "_") for key in lights)}
    for c in "RGB":
        parts = sum(found[f"{name}.{c}"] for name in names)
        assert found[c].shape == (80, 64)
        assert found[c].dtype == np.float32
        assert parts == pytest.approx(found[c], rel=1e-5, abs=1e-7)
    assert found["G"].max() > 0.1


def test_png_is_the_sum_through_the_output_curve(tmp_path):
    for name in ("p.exr", "p.png"):
        assert main(["render", SHOT, "--out", str(tmp_path / name), "--size", "64x80"]) == 0
    total = np.stack([channels(tmp_path / "p.exr")[c] for c in "RGB"], axis=-1)
    shown = np.asarray(Image.open(tmp_path / "p.png")).astype(int)
    assert np.abs(shown - encode_srgb(total).astype(int)).max() <= 1


def test_size_keeps_the_crop_inside_the_given_frame(tmp_path):
    out = tmp_path / "p.png"
    assert main(["render", SHOT, "--out", str(out), "--size", "50x400"]) == 0
    with Image.open(out) as picture:
        assert picture.size == (50, 62)


def test_check_says_what_the_file_holds(capsys):
    assert main(["check", SHOT]) == 0
    said = capsys.readouterr().out
    assert "good, shot file version 2" in said
    assert "30.8 cm high" in said
    assert "reading line" not in said  # nothing is drawn for it
    assert main(["check", SHOT, "--readings"]) == 0
    said = capsys.readouterr().out
    assert "stops" in said
    assert "reading line" in said


def test_help_and_checks_import_only_what_they_need():
    # Drawing is not imported to check a file, and nothing that reads or draws to say how the command is used.
    code = """import sys
from fotaxis.cli import main
try:
    main(sys.argv[1:])
except SystemExit:
    pass
print(*sys.modules)"""

    def modules(*arguments):
        done = subprocess.run([sys.executable, "-c", code, *arguments], capture_output=True, text=True, check=True)
        return set(done.stdout.splitlines()[-1].split())

    checked = modules("check", SHOT)
    assert "fotaxis.formats.shot_file" in checked
    assert "fotaxis.core.render.final.final_render" not in checked
    assert not modules("--version") & {"numpy", "numba", "pydantic"}


@pytest.mark.parametrize("command", [["check"], ["render", "--out", "x.png"]])
def test_a_wrong_file_gives_place_reason_and_exit_code_2(command, tmp_path, capsys):
    wrong = tmp_path / "wrong.json"
    wrong.write_text(json.dumps(samples.changed(["camera", "focal_length_mm"], -50)))
    assert main([command[0], str(wrong), *command[1:]]) == 2
    said = capsys.readouterr()
    assert said.out == ""
    assert "wrong.json: camera.focal_length_mm: this must be more than 0 (it is -50)" in said.err


@pytest.mark.parametrize(
    ("arguments", "words"),
    [
        (["check", "nowhere.json"], "No such file"),
        (["check", "."], "Is a directory"),
        (["render", SHOT, "--out", "picture.bmp"], "must end in .exr or .png"),
        (["render", SHOT, "--out", "p.png", "--size", "big"], "WIDTHxHEIGHT"),
        (["render", SHOT, "--out", "p.png", "--size", "0x10"], "16 to 4000"),
        (["render", SHOT, "--out", "p.png", "--size", "99999x99999"], "16 to 4000"),
        (["render", SHOT, "--out", "nowhere/p.png", "--size", "16x20"], "No such file"),
    ],
)
def test_wishes_that_cannot_be_met(arguments, words, tmp_path, monkeypatch, capsys):
    monkeypatch.chdir(tmp_path)
    assert main(arguments) == 2
    assert words in capsys.readouterr().err
    assert list(tmp_path.iterdir()) == []


def test_check_tells_what_named_readings_read(capsys):
    assert main(["check", str(samples.DEMO / "gooseberry-glow.json"), "--readings"]) == 0
    told = capsys.readouterr().out
    assert "Glow above the label: +" in told
    assert "Background: " in told

"""Every refusal of a file or field is a sentence a photographer understands: what is wrong, where, and what would be right.

The first list is of readers of files, with what each says; below it, wrong values are put into every field there is.
"""

import copy
import io
import json
import re

import numpy as np
import pytest
from PIL import Image

from fotaxis.core.errors import FormatError
from fotaxis.formats import lamp_file, mesh_file, photo, profile_csv, profile_svg, shot_file
from tests.formats import samples

FORBIDDEN = re.compile(
    r"\^\[|\\d|\{0,|Exception|pydantic|NoneType|[Ii]nput should|object at 0x|Traceback|\(\d\)\.?$|type=|__|<class|valid dictionary"
    r"|\b[A-Z]\w+(Part|Form|Document|Error)\b"
)


def check(message):
    """A sentence: it ends, says something, and holds nothing of the program's own."""
    assert len(message) > 15, message
    assert message.endswith((".", "?", ")")), message
    assert not FORBIDDEN.search(message), message


def png(width, height, mode="RGB"):
    out = io.BytesIO()
    Image.new(mode, (width, height)).save(out, "PNG")
    return out.getvalue()


def shot(**changes):
    raw = samples.raw()
    raw.update(changes)
    return json.dumps(raw).encode()


MANY = "M0 0 " + " ".join(f"L{10 + i % 7} {i}" for i in range(30_000))
READERS = {
    "photograph, empty": (photo.read, b"", "the file is empty"),
    "photograph, something else": (photo.read, b"GIF89a" + b"x" * 100, "export the frame as one of these"),
    "photograph, cut off": (photo.read, png(900, 900)[:300], "export it anew"),
    "photograph, too many pixels": (photo.read, png(15_000, 11_000, "1"), "155 million pixels; export a smaller one"),
    "photograph, too large a file": (photo.read, b"x" * 80_000_001, "at most 80 MB"),
    "photograph, odd TIFF": (photo.read, b"II*\0" + b"\0" * 60, "save it"),
    "shot file, a picture": (shot_file.read, b"\x89PNG\r\n\x1a\n", "choose a .json file"),
    "shot file, cut off": (shot_file.read, shot()[:200], "is missing or too many"),
    "shot file, a list": (shot_file.read, b"[1]", "top"),
    "shot file, nested": (shot_file.read, b"[" * 100_000, "nested too deeply"),
    "shot file, another version": (shot_file.read, shot(version=9), "this program reads versions"),
    "shot file, not a number": (shot_file.read, b'{"a": NaN}', "write a number"),
    "shot file, too large": (shot_file.read, b"x" * 12_000_001, "Is it a picture"),
    "outline, no numbers": (profile_csv.parse, "1, 2\nfoot, wide", "line 2"),
    "outline, three numbers": (profile_csv.parse, "1, 2, 3", "write two"),
    "outline, too long": (profile_csv.parse, "1, 2\n" * 60_000, "longer than"),
    "SVG, no path": (svg := lambda data: profile_svg.parse(data, height_cm=20), b"<svg/>", "draw the outline as one path"),
    "SVG, broken": (svg, b"<svg><path", "line 1"),
    "SVG, an arc": (svg, b"M0 0 A5 5 0 0 1 10 10", "convert arcs to curves"),
    "SVG, many points": (svg, MANY.encode(), "simplify it"),
    "SVG, entities": (svg, b"<!DOCTYPE svg [<!ENTITY a 'b'>]><svg/>".replace(b"<!D", b"<svg/><!D"), "plain SVG"),
    "SVG, not text": (svg, b"\xff\xfe\x00<", "not an SVG file"),
    "lamp, another file": (lamp_file.parse, b"hello", "no LM-63 lamp file"),
    "lamp, ends early": (lamp_file.parse, b"TILT=NONE\n1 1000 1 5", "too early"),
    "lamp, words for numbers": (lamp_file.parse, b"TILT=NONE\nx y z", "is not a number"),
    "model, another kind": (mesh := lambda data: mesh_file.parse(data, name="a.obj"), b"", "empty"),
    "model, of what kind": (lambda data: mesh_file.parse(data, name="a.exe"), b"x", "choose a .glb"),
    "model, damaged": (mesh, b"v 1 2\nf 1 2 3", ""),
    "model, nothing in it": (mesh, b"# nothing", "no triangles"),
    "model, with umlauts": (mesh, "# Fläschchen Größe".encode("latin-1"), ""),
}  # fmt: skip


@pytest.mark.parametrize("case", READERS)
def test_readers_refuse_in_a_sentence(case):
    read, data, words = READERS[case]
    with pytest.raises(FormatError) as refused:
        read(data)
    check(str(refused.value))
    assert words in str(refused.value)


def test_a_model_with_umlauts_is_read():
    # Once it was said that a module was missing.
    text = samples.TETRAHEDRON.decode() if isinstance(samples.TETRAHEDRON, bytes) else samples.TETRAHEDRON
    data = ("# Fläschchen für Öl\no Größe\n" + text).encode("latin-1")
    assert mesh_file.parse(data, name="a.obj", unit="cm").triangles == 4


WRONG = [None, "x", "", -1, 1e9, 0, True, [], {}, [1, 2, 3, 4, 5, 6, 7], {"a": 1}, "\u0000", "\ud800", 1.5, "NaN"]


def places(at, path=()):
    """Every place of a document, its lists by their first thing."""
    if path:
        yield path
    if isinstance(at, dict):
        for name, below in at.items():
            yield from places(below, (*path, name))
    elif isinstance(at, list) and at and len(path) < 5:
        yield from places(at[0], (*path, 0))


def documents():
    for file in sorted(samples.DEMO.glob("*.json")):
        yield json.loads(file.read_text())


def test_every_wrong_value_in_every_field_is_refused_in_a_sentence():
    seen, refused = set(), 0
    for document in documents():
        for path in places(document):
            if path in seen or "mesh" in path:
                continue
            seen.add(path)
            for value in WRONG:
                changed = copy.deepcopy(document)
                at = changed
                for step in path[:-1]:
                    at = at[step]
                at[path[-1]] = value
                try:
                    shot_file.from_raw(changed)
                except FormatError as error:
                    refused += 1
                    check(str(error))
            changed = copy.deepcopy(document)
            at = changed
            for step in path[:-1]:
                at = at[step]
            if isinstance(at, dict):
                at["no such name"] = 1
                with pytest.raises(FormatError) as unknown:
                    shot_file.from_raw(changed)
                check(str(unknown.value))
    assert len(seen) > 150
    assert refused > 1500


def test_large_photographs_of_the_stated_sizes_are_read_within_memory():
    # 11648 x 8736 and 14204 x 10652 pixels; a page of one grey is a small file and a large picture.
    for width, height in ((11648, 8736), (14204, 10652)):
        out = io.BytesIO()
        Image.new("L", (width, height), 128).save(out, "JPEG", quality=60)
        read = photo.read(out.getvalue())
        assert (read.width, read.height) == (width, height)
        assert max(read.picture.shape) <= 1600
        assert abs(int(np.median(read.picture)) - 128) <= 2

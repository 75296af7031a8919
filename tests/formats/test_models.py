"""Model files: what is read, what is refused and why; the mesh inside a shot file."""

import base64
import json
import struct
import zlib

import numpy as np
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from pytest import approx

from fotaxis.core.errors import DomainError, FormatError
from fotaxis.core.geometry.mesh import MAX_TRIANGLES
from fotaxis.formats import mesh_file, mesh_text, shot_file
from tests.formats import samples


def ball(cuts=3, radius=3.0):
    from tests.core.render.test_materials_against_mitsuba import icosphere

    return icosphere(radius, cuts)


def as_obj(vertices, faces):
    lines = [f"v {x} {y} {z}" for x, y, z in vertices] + [f"f {a + 1} {b + 1} {c + 1}" for a, b, c in faces]
    return "\n".join(lines).encode()


def as_stl(vertices, faces):
    data = b" " * 80 + struct.pack("<I", len(faces))
    for face in faces:
        data += struct.pack("<12fH", 0, 0, 0, *vertices[face].ravel(), 0)
    return data


def as_gltf(vertices, faces, **buffer):
    """A glTF 2.0 document with its numbers inside; positions float32, indices uint32."""
    v, f = np.asarray(vertices, "<f4").tobytes(), np.asarray(faces, "<u4").tobytes()
    uri = "data:application/octet-stream;base64," + base64.b64encode(v + f).decode()
    document = {
        "asset": {"version": "2.0"}, "scene": 0, "scenes": [{"nodes": [0]}], "nodes": [{"mesh": 0}],
        "meshes": [{"primitives": [{"attributes": {"POSITION": 0}, "indices": 1}]}],
        "buffers": [{"byteLength": len(v) + len(f), "uri": uri} | buffer],
        "bufferViews": [{"buffer": 0, "byteOffset": 0, "byteLength": len(v)},
                        {"buffer": 0, "byteOffset": len(v), "byteLength": len(f)}],
        "accessors": [{"bufferView": 0, "componentType": 5126, "count": len(vertices), "type": "VEC3"},
                      {"bufferView": 1, "componentType": 5125, "count": 3 * len(faces), "type": "SCALAR"}],
    }  # fmt: skip
    return json.dumps(document).encode()


def as_glb(vertices, faces):
    document = json.loads(as_gltf(vertices, faces))
    v, f = np.asarray(vertices, "<f4").tobytes(), np.asarray(faces, "<u4").tobytes()
    del document["buffers"][0]["uri"]
    text = json.dumps(document).encode()
    text += b" " * (-len(text) % 4)
    chunks = struct.pack("<II", len(text), 0x4E4F534A) + text + struct.pack("<II", len(v + f), 0x004E4942) + v + f
    return struct.pack("<III", 0x46546C67, 2, 12 + len(chunks)) + chunks


WRITERS = {"obj": as_obj, "stl": as_stl, "gltf": as_gltf, "glb": as_glb}


@pytest.mark.parametrize("kind", WRITERS)
def test_a_ball_comes_in_from_every_kind(kind):
    vertices, faces = ball()
    model = mesh_file.parse(WRITERS[kind](vertices, faces), name=f"ball.{kind}", unit="cm")
    assert model.size_cm == approx((6, 6, 6), rel=0.01)
    assert model.triangles == model.triangles_in_file == len(faces)
    mesh = mesh_text.decode(model.text, model.unit_m)
    # Blended normals point away from the middle: a ball.
    outward = mesh.vertices / np.linalg.norm(mesh.vertices, axis=1, keepdims=True)
    assert (mesh.normals * outward).sum(axis=1).min() > 0.999


@pytest.mark.slow
def test_a_large_model_is_thinned_to_the_limit():
    vertices, faces = ball(cuts=6)
    assert len(faces) > MAX_TRIANGLES
    model = mesh_file.parse(as_stl(vertices, faces), name="ball.stl", unit="cm")
    assert MAX_TRIANGLES / 2 < model.triangles <= MAX_TRIANGLES
    assert model.triangles_in_file == len(faces)
    assert model.size_cm == approx((6, 6, 6), rel=0.01)


@pytest.mark.parametrize(
    ("size", "unit", "expected_cm"), [(60.0, "mm", 6), (60.0, "", 60), (0.06, "", 6), (6.0, "cm", 6), (100.0, "", 10)]
)
def test_units_are_taken_or_guessed_by_size(size, unit, expected_cm):
    vertices, faces = ball(cuts=1, radius=size / 2)
    model = mesh_file.parse(as_obj(vertices, faces), name="ball.obj", unit=unit)
    assert max(model.size_cm) == approx(expected_cm, rel=0.05)


WRONG = {
    "another kind": (b"x", "photo.png", "", "choose a .glb"),
    "no ending": (b"x", "model", "", "choose a .glb"),
    "empty": (b"", "a.obj", "", "empty"),
    "not what it says": (b"PNG nonsense", "a.glb", "", "cannot be read"),
    "cut short": (as_stl(*ball(1))[:200], "a.stl", "", "cannot be read"),
    "no triangles": (b"v 0 0 0\nv 1 0 0\n", "a.obj", "", "no triangles"),
    "a corner that is not there": (b"v 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 9\n", "a.obj", "", "cannot be read"),
    "not a number": (
        b"v nan 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 3\n",
        "a.obj",
        "",
        "vertex 1 has a coordinate that is not a number",
    ),
    "without area": (b"v 0 0 0\nv 1 0 0\nv 2 0 0\nf 1 2 3\n", "a.obj", "", "cannot be read|no surface"),
    "another file": (as_gltf(*ball(1), uri="secret.bin"), "a.gltf", "", "refers to another file"),
    "a path": (as_gltf(*ball(1), uri="file:///etc/passwd"), "a.gltf", "", "refers to another file"),
    "impossible size": (as_obj(*ball(1, 3000.0)), "a.obj", "m", "Check its unit"),
    "unknown unit": (as_obj(*ball(1)), "a.obj", "furlong", "use one of mm"),
    "too many bytes": (b"v" * (mesh_file.MAX_BYTES + 1), "a.obj", "", "20 MB"),
}


@pytest.mark.parametrize("case", WRONG)
def test_a_wrong_model_is_refused_with_the_reason(case):
    data, name, unit, words = WRONG[case]
    with pytest.raises(FormatError, match=words):
        mesh_file.parse(data, name=name, unit=unit)


@settings(max_examples=12, deadline=None, suppress_health_check=[HealthCheck.too_slow])
@given(st.sampled_from(sorted(WRITERS)), st.integers(0, 2**32), st.binary(min_size=1, max_size=40))
@pytest.mark.slow
def test_damaged_models_are_read_or_refused_never_more(kind, seed, junk):
    data = bytearray(WRITERS[kind](*ball(0)))
    at = seed % len(data)
    data[at : at + len(junk)] = junk
    try:
        model = mesh_file.parse(bytes(data), name=f"a.{kind}", unit="cm")
    except FormatError as error:
        assert len(str(error)) > 20
    else:
        assert model.triangles > 0


def model_document(mesh, **changes):
    document = samples.raw()
    subject = {"kind": "model", "name": "Model", "mesh": mesh, "unit_m": 0.01, "body": {"material": "chrome"}, "bands": []}
    document["subject"] = subject | changes
    return document


def test_a_model_lives_in_the_shot_file_and_comes_out_the_same():
    text = mesh_text.encode(*ball(2))
    document = shot_file.from_raw(model_document(text))
    assert shot_file.read(shot_file.write(document)) == document
    assert document.plan().product.shape.imported.vertices.max() == approx(0.03, rel=1e-3)


BOMB = base64.b64encode(zlib.compress(b"\0" * 50_000_000, 9)).decode()


@pytest.mark.parametrize(
    ("mesh", "words"),
    [("not base64!", "damaged"), (base64.b64encode(b"not zlib").decode(), "damaged"), (BOMB, "larger than"),
     (base64.b64encode(zlib.compress(struct.pack("<II", 9, 9))).decode(), "other numbers"), ("", "empty"),
     (mesh_text.encode(np.array([[0, 0, 0], [np.inf, 0, 0], [0, 1, 0]]), np.array([[0, 1, 2]])), "not a number"),
     (mesh_text.encode(np.eye(3), np.array([[0, 1, 7]])), "does not exist")],
    ids=["not text", "not packed", "bomb", "too short", "empty", "infinite", "corner"],
)  # fmt: skip
def test_a_hostile_mesh_in_a_shot_file_is_refused(mesh, words):
    with pytest.raises((FormatError, DomainError), match=words):
        shot_file.from_raw(model_document(mesh))


def test_files_of_version_1_are_still_read():
    old = samples.raw()
    old["version"] = 1
    del old["subject"]["kind"]
    document = shot_file.from_raw(old)
    assert document.version == 2
    assert document.subject.kind == "turned"


@pytest.mark.parametrize(
    ("subject", "words"),
    [({"glass": {"glass": "jade"}}, "'jade' is no glass known here"),
     ({"liquid": {"level_cm": 3}}, "no glass to hold it"),
     ({"glass": {"glass": "green glass", "wall_mm": 60}}, "glass wall"),
     ({"body": {"material": "unobtainium"}}, "no material known here")],
)  # fmt: skip
def test_wrong_glass_and_materials_are_refused_with_what_is_allowed(subject, words):
    document = samples.raw()
    document["subject"] |= subject
    with pytest.raises(FormatError, match=words):
        shot_file.from_raw(document)


def two_balls(form):
    """A file of a ball and a smaller one above it, as two objects, two materials, or one mesh of two shells."""
    v, f = ball(2)
    text = ["o Flask"] if form == "objects" else ["usemtl glazed"] if form == "materials" else []
    text += [as_obj(v, f).decode()]
    text += ["o Stopper"] if form == "objects" else ["usemtl silvered"] if form == "materials" else []
    text += [as_obj(0.5 * v + np.array([0, 4.5, 0]), f + len(v)).decode()]
    return "\n".join(text).encode()


@pytest.mark.parametrize(("form", "names"), [
    ("objects", ["Flask", "Stopper"]), ("materials", ["glazed", "silvered"]), ("shells", ["Part 1", "Part 2"]),
])  # fmt: skip
def test_parts_of_a_model_come_in_under_their_names(form, names):
    model = mesh_file.parse(two_balls(form), name="flask.obj", unit="cm")
    assert [name for name, _ in model.parts] == names
    assert sum(count for _, count in model.parts) == model.triangles
    mesh = mesh_text.decode(model.text, model.unit_m, tuple(count for _, count in model.parts))
    low, high = (mesh.parts([k]).vertices[:, 1] * 100 for k in (0, 1))
    assert (low.min(), low.max()) == approx((-3, 3), abs=0.1)
    assert (high.min(), high.max()) == approx((3, 6), abs=0.1)


def test_nodes_of_a_gltf_are_parts_where_they_stand():
    v, f = ball(2)
    document = json.loads(as_gltf(v, f))
    document["meshes"][0]["name"] = "Bead"
    document["scenes"], document["nodes"] = [{"nodes": [0, 1]}], [
        {"mesh": 0}, {"mesh": 0, "translation": [0, 5, 0], "scale": [-1, 1, 1]},
    ]  # fmt: skip
    model = mesh_file.parse(json.dumps(document).encode(), name="beads.gltf", unit="cm")
    assert [name for name, _ in model.parts] == ["Bead", "Bead 2"]
    mesh = mesh_text.decode(model.text, model.unit_m, tuple(count for _, count in model.parts))
    upper = mesh.parts([1])
    outward = upper.vertices - upper.vertices.mean(axis=0)
    assert upper.vertices[:, 1].mean() == approx(0.05, abs=1e-4)
    assert (outward * upper.normals).sum(axis=1).min() > 0  # a mirrored node is turned inside out by its scale


def test_a_large_model_keeps_its_parts_when_it_is_thinned():
    v, f = ball(5)
    rows = [as_obj(v, f), b"o Cap", as_obj(v + np.array([0, 7, 0]), f + len(v))]
    model = mesh_file.parse(b"o Body\n" + b"\n".join(rows), name="large.obj", unit="cm")
    assert model.triangles <= MAX_TRIANGLES < model.triangles_in_file
    assert [name for name, _ in model.parts] == ["Body", "Cap"]
    assert min(count for _, count in model.parts) > 0.4 * model.triangles


def test_parts_that_do_not_fit_their_mesh_are_refused():
    model = mesh_file.parse(two_balls("objects"), name="flask.obj", unit="cm")
    raw = samples.raw()
    raw["subject"] = {"name": "Flask", "body": {"material": "black gloss"}, **model.shape()}
    shot_file.from_raw(raw)
    raw["subject"]["parts"][0]["triangles"] += 1
    with pytest.raises(FormatError, match="its parts have 641 triangles, its mesh 640"):
        shot_file.from_raw(raw)

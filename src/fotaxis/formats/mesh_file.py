"""Meshes from glTF (.glb, .gltf), OBJ and STL files: read in a process of its own, joined, thinned, checked.

A file is read by a process with little memory and time, so that a hostile one ends that process and nothing else.
"""

from __future__ import annotations

import json
import subprocess
import sys
from dataclasses import dataclass
from typing import Any

import numpy as np

from fotaxis.core.errors import DomainError, FormatError
from fotaxis.core.geometry.mesh import MAX_TRIANGLES
from fotaxis.core.values import Array
from fotaxis.formats import mesh_text

MAX_BYTES = 20_000_000
MAX_RAW_TRIANGLES = 1_000_000
KINDS = ("glb", "gltf", "obj", "stl")
UNITS_M = {"mm": 0.001, "cm": 0.01, "inch": 0.0254, "m": 1.0}
TIMEOUT_S = 40


@dataclass(frozen=True, slots=True, kw_only=True)
class Imported:
    """A mesh as it goes into a shot: its text, unit in metres, size in centimetres, triangles kept and in the file;
    parts: name and triangles of each, one after the other."""

    text: str
    unit_m: float
    size_cm: tuple[float, float, float]
    triangles: int
    triangles_in_file: int
    parts: tuple[tuple[str, int], ...]

    def shape(self) -> dict[str, Any]:
        """As a shot's product keeps it; a mesh that is all one has no parts."""
        parts = [{"name": name, "triangles": count, "skin": None} for name, count in self.parts]
        return {"kind": "model", "mesh": self.text, "unit_m": self.unit_m, "parts": parts if len(parts) > 1 else []}


def parse(data: bytes, *, name: str, unit: str = "") -> Imported:
    """Read a mesh file by its name's ending. unit: one of UNITS_M; '' takes metres for glTF, else guesses from the size.

    Raises FormatError with the reason: another kind of file, damaged, hostile, empty, too large, of impossible size.
    """
    kind = name.rsplit(".", 1)[-1].lower() if "." in name else ""
    if kind not in KINDS:
        raise FormatError(f"{name[-40:]!r} is no model that can be read here; choose a .glb, .gltf, .obj or .stl file.")
    if len(data) > MAX_BYTES:
        raise FormatError(
            f"the model has {len(data) / 1e6:.0f} MB; at most {MAX_BYTES / 1e6:.0f} MB are read. Thin it out and export it anew."
        )
    if not data.strip():
        raise FormatError("the model's file is empty.")
    if unit and unit not in UNITS_M:
        raise FormatError(f"unit {unit[:10]!r} is not known; use one of {', '.join(UNITS_M)}.", place="unit")
    vertices, triangles, parts, in_file = _read_apart(data, kind)
    size = np.ptp(vertices, axis=0)
    unit_m = UNITS_M[unit] if unit else 1.0 if kind in ("glb", "gltf") else _guess(float(size.max()))
    text = mesh_text.encode(vertices, triangles)
    try:
        mesh = mesh_text.decode(text, unit_m)
    except DomainError as error:
        raise FormatError(str(error)) from error
    measured = np.ptp(mesh.vertices, axis=0) * 100
    return Imported(
        text=text, unit_m=unit_m, size_cm=(float(measured[0]), float(measured[1]), float(measured[2])),
        triangles=len(mesh.triangles), triangles_in_file=in_file, parts=parts,
    )  # fmt: skip


def _guess(largest: float) -> float:
    """Millimetres for what would be larger than 60 cm otherwise, metres for what is below 1, else centimetres."""
    if largest > 60:
        return UNITS_M["mm"]
    return UNITS_M["cm"] if largest >= 1 else UNITS_M["m"]


def _read_apart(data: bytes, kind: str) -> tuple[Array, np.ndarray, tuple[tuple[str, int], ...], int]:
    try:
        done = subprocess.run(
            [sys.executable, "-I", "-m", "fotaxis.formats.mesh_reader", kind, str(MAX_TRIANGLES), str(MAX_RAW_TRIANGLES)],
            input=data, capture_output=True, timeout=TIMEOUT_S, check=False,
        )  # fmt: skip
    except subprocess.TimeoutExpired as error:
        raise FormatError("the model takes too long to read; thin it out and export it anew.") from error
    head, _, body = done.stdout.partition(b"\n")
    try:
        answer = json.loads(head)
    except ValueError:
        answer = {}
    if done.returncode != 0 or "vertices" not in answer:
        reason = str(answer.get("problem") or "it is damaged, or needs too much memory to read")
        raise FormatError(f"the model cannot be read: {reason}. Nothing was changed.")
    count, faces = int(answer["vertices"]), int(answer["triangles"])
    vertices = np.frombuffer(body, "<f4", 3 * count).reshape(-1, 3).astype(np.float64)
    triangles = np.frombuffer(body, "<u4", 3 * faces, 12 * count).reshape(-1, 3).astype(np.int64)
    parts = tuple((str(name), int(count)) for name, count in answer["parts"])
    return vertices, triangles, parts, int(answer["in_file"])

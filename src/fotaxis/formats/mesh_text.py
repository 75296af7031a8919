"""A mesh as text inside the shot file: base64 of zlib of little-endian numbers, described in docs/shot-file.md.

uint32 number of vertices, uint32 number of triangles, float32 x, y, z per vertex, uint32 a, b, c per triangle.
"""

from __future__ import annotations

import base64
import binascii
import struct
import zlib
from functools import lru_cache

import numpy as np

from fotaxis.core.errors import DomainError
from fotaxis.core.geometry.mesh import MAX_TRIANGLES, Mesh
from fotaxis.core.values import Array

MAX_TEXT = 900_000
MAX_BYTES = 8 + 12 * 3 * MAX_TRIANGLES + 12 * MAX_TRIANGLES


def encode(vertices: Array, triangles: np.ndarray) -> str:
    """The text of a mesh; vertices (n, 3) in the file's unit, triangles (t, 3)."""
    raw = struct.pack("<II", len(vertices), len(triangles))
    raw += np.ascontiguousarray(vertices, "<f4").tobytes() + np.ascontiguousarray(triangles, "<u4").tobytes()
    return base64.b64encode(zlib.compress(raw, 9)).decode()


@lru_cache(maxsize=32)
def decode(text: str, unit_m: float, parts: tuple[int, ...] = ()) -> Mesh:
    """The mesh of a text in metres, its normals made anew; parts: triangles of each of its parts, one after the other. Raises
    DomainError that says what is wrong with it."""
    try:
        packed = base64.b64decode(text.encode("ascii"), validate=True)
        unpacker = zlib.decompressobj()
        raw = unpacker.decompress(packed, MAX_BYTES + 1)
    except (binascii.Error, UnicodeEncodeError, zlib.error) as error:
        raise DomainError(f"model: its mesh is damaged ({error}); import the model again.") from error
    if len(raw) > MAX_BYTES or len(raw) < 8:
        raise DomainError(f"model: its mesh is empty or larger than {MAX_TRIANGLES:,} triangles; import the model again.")
    count, faces = struct.unpack_from("<II", raw)
    if len(raw) != 8 + 12 * count + 12 * faces:
        raise DomainError("model: its mesh has other numbers than it says; import the model again.")
    vertices = np.frombuffer(raw, "<f4", 3 * count, 8).reshape(-1, 3).astype(np.float64)
    triangles = np.frombuffer(raw, "<u4", 3 * faces, 8 + 12 * count).reshape(-1, 3).astype(np.int64)
    if not np.isfinite(vertices).all():
        raise DomainError("model: a coordinate of its mesh is not a number; import the model again.")
    if parts and sum(parts) != faces:
        raise DomainError(f"model: its parts have {sum(parts):,} triangles, its mesh {faces:,}; import the model again.")
    part_of = np.repeat(np.arange(len(parts)), parts) if parts else None
    return Mesh.smooth(vertices * unit_m, triangles, part_of)

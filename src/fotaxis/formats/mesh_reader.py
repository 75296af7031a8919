"""The process that reads one mesh file from standard input and writes plain numbers to standard output.

First a line of JSON: vertices, triangles, in_file, parts, or problem; then float32 coordinates and uint32 corners.
"""

from __future__ import annotations

import io
import json
import re
import resource
import sys
from typing import Any

MEMORY_BYTES = 3_000_000_000
SECONDS = 30


def _limit() -> None:
    """Little memory and time, no files written, nothing else started."""
    resource.setrlimit(resource.RLIMIT_AS, (MEMORY_BYTES, MEMORY_BYTES))
    resource.setrlimit(resource.RLIMIT_CPU, (SECONDS, SECONDS))
    resource.setrlimit(resource.RLIMIT_FSIZE, (0, 0))


class Unreadable(Exception):
    """The file cannot be used; the message says why."""


class _Nothing:
    """Answers a file's wish for other files: textures and buffers outside it are not read."""

    def get(self, name: str) -> bytes:
        raise Unreadable(f"it refers to another file ({str(name)[:40]!r}); export it with everything inside")

    __getitem__ = get

    def namespaced(self, _: str) -> _Nothing:
        return self


MOST_PARTS = 24
MOST_SHELLS = 12
REST = "Other parts"


def _parts_in(loaded: Any, most_raw: int) -> list[tuple[str, Any, Any]]:
    """Name, vertices (n, 3) and triangles (t, 3) of every mesh of a file, where it stands."""
    import numpy as np
    import trimesh

    if isinstance(loaded, trimesh.Trimesh):
        named = [("", loaded, np.eye(4))]
    elif not isinstance(loaded, trimesh.Scene):
        return []
    else:
        nodes = [loaded.graph[node] for node in loaded.graph.nodes_geometry]
        named = [
            (str(name), loaded.geometry[name], where) for where, name in nodes if hasattr(loaded.geometry[name], "faces")
        ]
    total = sum(len(mesh.faces) for _, mesh, _ in named)
    if total > most_raw:
        raise Unreadable(f"it has {total:,} triangles; at most {most_raw:,} are read")
    found, before = [], 0
    for name, mesh, where in named:
        vertices = np.asarray(trimesh.transform_points(mesh.vertices, where), np.float64)
        faces = np.asarray(mesh.faces, np.int64)
        bad = ~np.isfinite(vertices).all(axis=1)
        if bad.any():
            raise Unreadable(f"vertex {before + int(np.flatnonzero(bad)[0]) + 1} has a coordinate that is not a number")
        wrong = ((faces < 0) | (faces >= len(vertices))).any(axis=1)
        if wrong.any():
            raise Unreadable(f"triangle {int(np.flatnonzero(wrong)[0]) + 1} names a vertex that does not exist")
        before += len(vertices)
        found.append((name, vertices, faces[:, ::-1] if np.linalg.det(where[:3, :3]) < 0 else faces))
    return found


def _as_objects(data: bytes) -> bytes:
    """An OBJ file that names no objects, with what it names instead, materials or groups, as objects."""
    for word in (b"o", b"usemtl", b"g"):
        if re.search(rb"^" + word + rb"[ \t]+\S", data, re.MULTILINE):
            return data if word == b"o" else re.sub(rb"^" + word + rb"(?=[ \t])", b"o", data, flags=re.MULTILINE)
    return data


def _named(name: str, number: int, taken: set[str]) -> str:
    """A part's name as it may stand on the page, once only."""
    plain = "".join(c for c in name if c.isprintable()).strip()[:60] or f"Part {number}"
    own, times = plain, 2
    while own in taken:
        own, times = f"{plain} {times}", times + 1
    taken.add(own)
    return own


def read(data: bytes, kind: str, most: int, most_raw: int) -> tuple[Any, Any, list[tuple[str, int]], int]:
    """Vertices (n, 3), triangles (t, 3) with t <= most, name and triangles of every part, from the lowest up, and how many
    triangles the file has. Where it names no parts, shells that hang together are parts, if they are few."""
    import numpy as np
    import trimesh

    options: dict[str, Any] = {"split_objects": True} if kind == "obj" else {}
    loaded = trimesh.load(
        io.BytesIO(_as_objects(data) if kind == "obj" else data),
        file_type=kind,
        resolver=_Nothing(),  # type: ignore[arg-type]
        process=False,
        skip_materials=True,
        maintain_order=False,
        **options,
    )
    meshes = [one for one in _parts_in(loaded, most_raw) if len(one[2])]
    if not meshes:
        raise Unreadable("it holds no triangles")
    in_file = sum(len(faces) for _, _, faces in meshes)
    welded: list[tuple[str, Any]] = []
    for name, vertices, faces in meshes:
        mesh = trimesh.Trimesh(vertices, faces, process=False)
        mesh.merge_vertices()
        mesh.update_faces(mesh.nondegenerate_faces())
        if len(mesh.faces):
            welded.append((name, mesh))
    if len(welded) == 1:
        whole = welded[0][1]
        shells = trimesh.graph.connected_component_labels(whole.face_adjacency, node_count=len(whole.faces))  # type: ignore[no-untyped-call]
        if 1 < shells.max() + 1 <= MOST_SHELLS:
            welded = [("", whole.submesh([np.flatnonzero(shells == k)], append=True)) for k in range(shells.max() + 1)]
    welded.sort(key=lambda part: -len(part[1].faces))
    if len(welded) > MOST_PARTS:
        rest: Any = trimesh.util.concatenate([mesh for _, mesh in welded[MOST_PARTS - 1 :]])
        welded = [*welded[: MOST_PARTS - 1], (REST, rest)]
    if not welded:
        raise Unreadable("it has no area")
    welded.sort(key=lambda part: float(part[1].bounds[0, 1]))
    total = sum(len(mesh.faces) for _, mesh in welded)
    corners, triangles, parts = [], [], []
    taken: set[str] = set()
    count = 0
    for number, (name, whole) in enumerate(welded, 1):
        share = max(4, int((most - 10 * len(welded)) * len(whole.faces) / total))
        mesh = whole.simplify_quadric_decimation(face_count=share) if total > most and len(whole.faces) > share else whole
        mesh.remove_unreferenced_vertices()
        if not len(mesh.faces):
            continue
        corners.append(mesh.vertices)
        triangles.append(np.asarray(mesh.faces) + count)
        count += len(mesh.vertices)
        parts.append((_named(name, number, taken), len(mesh.faces)))
    kept = sum(size for _, size in parts)
    if not 0 < kept <= most:
        raise Unreadable(f"it cannot be thinned to {most:,} triangles" if kept else "it has no area")
    return np.concatenate(corners), np.concatenate(triangles), parts, in_file


def main() -> int:
    import numpy as np

    _limit()
    kind, most, most_raw = sys.argv[1], int(sys.argv[2]), int(sys.argv[3])
    out = sys.stdout.buffer
    try:
        vertices, faces, parts, in_file = read(sys.stdin.buffer.read(), kind, most, most_raw)
    except MemoryError:
        out.write(json.dumps({"problem": "it needs too much memory"}).encode() + b"\n")
        return 1
    except Unreadable as error:
        out.write(json.dumps({"problem": str(error)[:200]}).encode() + b"\n")
        return 1
    except Exception as error:  # whatever a parser makes of a damaged or hostile file
        reason = f"it is damaged or of another kind ({(str(error) or type(error).__name__)[:120]})"
        out.write(json.dumps({"problem": reason}).encode() + b"\n")
        return 1
    out.write(
        json.dumps({"vertices": len(vertices), "triangles": len(faces), "in_file": in_file, "parts": parts}).encode() + b"\n"
    )
    out.write(np.ascontiguousarray(vertices, "<f4").tobytes() + np.ascontiguousarray(faces, "<u4").tobytes())
    return 0


if __name__ == "__main__":
    sys.exit(main())

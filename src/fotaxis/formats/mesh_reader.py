"""The process that reads one mesh file from standard input and writes plain numbers to standard output.

First a line of JSON: vertices, triangles, in_file, or problem; then float32 coordinates and uint32 corners.
"""

from __future__ import annotations

import io
import json
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


def read(data: bytes, kind: str, most: int, most_raw: int) -> tuple[Any, Any, int]:
    """Vertices (n, 3), triangles (t, 3) with t <= most, and how many triangles the file has."""
    import numpy as np
    import trimesh

    loaded = trimesh.load(
        io.BytesIO(data),
        file_type=kind,
        resolver=_Nothing(),  # type: ignore[arg-type]
        process=False,
        skip_materials=True,
        maintain_order=False,
    )
    if isinstance(loaded, trimesh.Scene):
        total = sum(len(loaded.geometry[g].faces) for _, g in (loaded.graph[n] for n in loaded.graph.nodes_geometry)
                    if hasattr(loaded.geometry[g], "faces"))  # fmt: skip
        if total > most_raw:
            raise Unreadable(f"it has {total:,} triangles; at most {most_raw:,} are read")
        loaded = loaded.to_geometry()
    if not isinstance(loaded, trimesh.Trimesh) or not len(loaded.faces):
        raise Unreadable("it holds no triangles")
    vertices, faces = np.asarray(loaded.vertices, np.float64), np.asarray(loaded.faces, np.int64)
    if len(faces) > most_raw:
        raise Unreadable(f"it has {len(faces):,} triangles; at most {most_raw:,} are read")
    bad = ~np.isfinite(vertices).all(axis=1)
    if bad.any():
        raise Unreadable(f"vertex {int(np.flatnonzero(bad)[0]) + 1} has a coordinate that is not a number")
    wrong = ((faces < 0) | (faces >= len(vertices))).any(axis=1)
    if wrong.any():
        raise Unreadable(f"triangle {int(np.flatnonzero(wrong)[0]) + 1} names a vertex that does not exist")
    in_file = len(faces)
    welded = trimesh.Trimesh(vertices, faces, process=False)
    welded.merge_vertices()
    welded.update_faces(welded.nondegenerate_faces())
    if len(welded.faces) > most:
        welded = welded.simplify_quadric_decimation(face_count=most - 10)
    welded.remove_unreferenced_vertices()
    if not 0 < len(welded.faces) <= most:
        raise Unreadable(f"it cannot be thinned to {most:,} triangles" if len(welded.faces) else "it has no area")
    return welded.vertices, welded.faces, in_file


def main() -> int:
    import numpy as np

    _limit()
    kind, most, most_raw = sys.argv[1], int(sys.argv[2]), int(sys.argv[3])
    out = sys.stdout.buffer
    try:
        vertices, faces, in_file = read(sys.stdin.buffer.read(), kind, most, most_raw)
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
    out.write(json.dumps({"vertices": len(vertices), "triangles": len(faces), "in_file": in_file}).encode() + b"\n")
    out.write(np.ascontiguousarray(vertices, "<f4").tobytes() + np.ascontiguousarray(faces, "<u4").tobytes())
    return 0


if __name__ == "__main__":
    sys.exit(main())

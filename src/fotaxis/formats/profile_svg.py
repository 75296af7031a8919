"""Outlines drawn as an SVG path: the right-hand half of the silhouette, from foot to top or the other way."""

from __future__ import annotations

import math
import re
import xml.etree.ElementTree as ET
from collections.abc import Iterator
from itertools import islice, pairwise

from fotaxis.core.errors import FormatError
from fotaxis.formats.profile_csv import checked

MAX_BYTES = 500_000
MOST_POINTS = 20_000
"""Of a path, curves cut into stretches. What is kept of it is thinned to what an outline may have."""
CURVE_STEPS = 8
_TOKEN = re.compile(r"([MmLlHhVvCcSsQqTtAaZz])|([+-]?(?:\d+\.?\d*|\.\d+)(?:[eE][+-]?\d+)?)")
_ARGUMENTS = {"M": 2, "L": 2, "H": 1, "V": 1, "C": 6, "S": 4, "Q": 4, "T": 2, "Z": 0}


def parse(data: bytes, *, height_cm: float) -> list[tuple[float, float]]:
    """(height_cm, diameter_cm) pairs from the first path of an SVG file, or from bare path data.

    The outline is scaled so that it is `height_cm` high; its leftmost x is the axis unless the path carries
    data-axis-x. Curves are cut into 8 stretches each. Raises FormatError with the place.
    """
    if not (math.isfinite(height_cm) and 0 < height_cm <= 300):
        raise FormatError(f"the product's height is {height_cm:g} cm; give its real height, more than 0 and at most 300 cm.")
    if len(data) > MAX_BYTES:
        raise FormatError(f"the file has {len(data):,} bytes; an outline needs at most {MAX_BYTES:,}.")
    try:
        source = data.decode("utf-8-sig")
    except UnicodeDecodeError as error:
        raise FormatError("this is not text, so it is not an SVG file.", place=f"byte {error.start}") from error
    path, axis_x = _path_of(source)
    points = list(islice(_points(path), MOST_POINTS + 1))
    if len(points) > MOST_POINTS:
        raise FormatError(
            f"the path has more than {MOST_POINTS:,} points; simplify it in the drawing program and save it again."
        )
    if len(points) < 2:
        raise FormatError("the path has fewer than two points; draw half the silhouette from foot to top.")
    if not all(math.isfinite(x) and math.isfinite(y) for x, y in points):
        raise FormatError("the path holds a number that is too large to be a place.")
    xs, ys = [x for x, _ in points], [y for _, y in points]
    drawn = max(ys) - min(ys)
    if drawn <= 0:
        raise FormatError("the path has no height; draw half the silhouette from foot to top.")
    scale = height_cm / drawn
    axis = min(xs) if axis_x is None else axis_x
    foot = max(ys)
    pairs = [((foot - y) * scale, 2 * abs(x - axis) * scale) for x, y in points]
    if pairs[0][0] > pairs[-1][0]:
        pairs.reverse()
    kept = [pairs[0]]
    for pair in pairs[1:]:
        if math.hypot(pair[0] - kept[-1][0], (pair[1] - kept[-1][1]) / 2) > 1e-3:
            kept.append(pair)
    return checked([(round(h, 4), round(d, 4)) for h, d in kept])


def _path_of(source: str) -> tuple[str, float | None]:
    stripped = source.strip()
    if not stripped.startswith("<"):
        return stripped, None
    if "<!DOCTYPE" in stripped or "<!ENTITY" in stripped:
        raise FormatError("the file declares entities; save it as plain SVG without a DOCTYPE.")
    try:
        root = ET.fromstring(stripped)
    except ET.ParseError as error:
        line, column = error.position
        raise FormatError("not well-formed SVG.", place=f"line {line}, column {column + 1}") from error
    for element in root.iter():
        if element.tag.rsplit("}", 1)[-1] == "path" and element.get("d"):
            axis = element.get("data-axis-x")
            try:
                return str(element.get("d")), float(axis) if axis is not None else None
            except ValueError:
                raise FormatError(f"{axis[:20] if axis else ''!r} is not a number.", place="data-axis-x") from None
    raise FormatError("the file holds no path; draw the outline as one path.")


def _points(path: str) -> Iterator[tuple[float, float]]:
    """Points along a path: M L H V C S Q T Z, absolute and relative; arcs are refused."""
    tokens = []
    end = 0
    for match in _TOKEN.finditer(path):
        if path[end : match.start()].strip(" ,\t\r\n"):
            break
        tokens.append(match.group(1) or float(match.group(2)))
        end = match.end()
    if path[end:].strip(" ,\t\r\n"):
        raise FormatError(f"{path[end : end + 12].strip()!r} is not path data.", place=f"character {end + 1} of the path")
    x = y = 0.0
    control: tuple[float, float] | None = None
    i = 0
    command = ""
    while i < len(tokens):
        token = tokens[i]
        if isinstance(token, str):
            command = token
            i += 1
            if command in "Zz":
                return
            if command in "Aa":
                raise FormatError("the path has an arc (A); convert arcs to curves and try again.")
        elif not command:
            raise FormatError("the path must begin with M.")
        kind, relative = command.upper(), command.islower()
        count = _ARGUMENTS[kind]
        numbers = tokens[i : i + count]
        if len(numbers) < count or any(isinstance(n, str) for n in numbers):
            raise FormatError(f"{command} needs {count} numbers.", place=f"command {command} of the path")
        i += count
        n = [float(v) for v in numbers]
        if kind == "H":
            n = [n[0] + (x if relative else 0.0), y]
        elif kind == "V":
            n = [x, n[0] + (y if relative else 0.0)]
        elif relative:
            n = [v + (x if k % 2 == 0 else y) for k, v in enumerate(n)]
        start = (x, y)
        x, y = n[-2], n[-1]
        if kind in "MLHV":
            control = None
            yield x, y
            if kind == "M":
                command = "l" if relative else "L"
            continue
        mirrored = (2 * start[0] - control[0], 2 * start[1] - control[1]) if control else start
        if kind in "CS":
            first = (n[0], n[1]) if kind == "C" else mirrored
            control = (n[-4], n[-3])
            handles = [start, first, control, (x, y)]
        else:
            control = (n[0], n[1]) if kind == "Q" else mirrored
            handles = [start, control, (x, y)]
        for step in range(1, CURVE_STEPS + 1):
            yield _bezier(handles, step / CURVE_STEPS)


def _bezier(handles: list[tuple[float, float]], t: float) -> tuple[float, float]:
    """De Casteljau's construction."""
    while len(handles) > 1:
        handles = [(a[0] + t * (b[0] - a[0]), a[1] + t * (b[1] - a[1])) for a, b in pairwise(handles)]
    return handles[0]

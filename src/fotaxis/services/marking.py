"""A wish marked on the frame: what a rectangle drawn there asks for, by what it lies on."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np

from fotaxis.core.errors import DomainError
from fotaxis.core.frames.readings.reading import product_rows
from fotaxis.core.keys import PRODUCT_KEY
from fotaxis.core.render.arrays.path_records import SKINS_PER_SURFACE
from fotaxis.core.render.mirrored import mirrors, zone_name
from fotaxis.core.render.preview.traced_scene import TracedScene
from fotaxis.core.scene.plan import Plan
from fotaxis.services.changes import Change
from fotaxis.services.ports import Document

LEAST_PX = 2
TALL = 2.5
"""A mark so many times taller than wide, near one edge, is a line."""

BESIDE = 0.45
"""A line's middle lies further out than this part of the half width."""

ON_PRODUCT = 0.5
LINE_WITHIN, LINE_HEIGHT = 0.04, 0.5


@dataclass(frozen=True, slots=True, kw_only=True)
class Mark:
    """A rectangle in the frame, parts of its width and height from the upper left corner."""

    x: float
    y: float
    to_x: float
    to_y: float


def marked(document: Document, plan: Plan, stage: TracedScene, mark: Mark) -> list[Change]:
    """Changes that add what a mark asks for: on gloss a line or a highlight there, on matte a level and evenness, beside the product a
    level. Raises DomainError for a mark that is too small."""
    left, right = sorted((mark.x, mark.to_x))
    top, bottom = sorted((mark.y, mark.to_y))
    x0, x1 = left * stage.width, right * stage.width
    y0, y1 = top * stage.height, bottom * stage.height
    if x1 - x0 < LEAST_PX or y1 - y0 < LEAST_PX:
        raise DomainError("the mark is too small to be seen: draw it over what is to be lit.")
    rows = slice(int(y0), min(int(np.ceil(y1)), stage.height))
    columns = slice(int(x0), min(int(np.ceil(x1)), stage.width))
    on = stage.is_product[rows, columns]
    if on.mean() < ON_PRODUCT:
        return _beside(document, plan, stage, (left, top, right, bottom), rows, columns)
    first = stage.traced.first.reshape(stage.height, stage.width)[rows, columns]
    number, count = np.unique(first[on & (first >= 0)], return_counts=True)
    seen = int(number[np.argmax(count)])
    skin = stage.scene.skins[seen % SKINS_PER_SURFACE]
    name = zone_name(plan, PRODUCT_KEY, skin) or plan.product.name
    low, high, begin, end = _on_product(stage, x0, y0, x1, y1)
    if not bool(mirrors(skin)):
        part = max(abs(begin), abs(end))
        if begin < 0 < end:
            reading: dict[str, Any] = {
                "kind": "patch",
                "name": name,
                "low": low,
                "high": high,
                "part": max(0.05, min(1.0, part)),
            }
        else:
            reading = {"kind": "area", "name": name, "low": low, "high": high, "begin": begin, "end": end}
        return _added(document, reading, "label", [{"kind": "level", "stops": 0.0}, {"kind": "even", "within": 0.35}])
    middle = (begin + end) / 2
    if y1 - y0 > TALL * (x1 - x0) and abs(middle) > BESIDE:
        side = "left" if middle < 0 else "right"
        near, far = sorted((min(abs(begin), abs(end)), max(abs(begin), abs(end))))
        line = {"kind": "edge", "name": f"{side.title()} line", "side": side, "low": low, "high": high}
        wish = {
            "kind": "place", "near": near, "far": min(far, 0.995), "within": LINE_WITHIN, "height": LINE_HEIGHT,
        }  # fmt: skip
        return _added(document, line, f"{side}-line", [wish])
    reading = {"kind": "area", "name": f"Highlight on {name}", "low": low, "high": high, "begin": begin, "end": end}
    return _added(document, reading, "highlight", [{"kind": "cover", "share": 0.9}])


def _on_product(stage: TracedScene, x0: float, y0: float, x1: float, y1: float) -> tuple[float, float, float, float]:
    """A rectangle in pixels in the product's measure: heights from foot 0 to top 1, across from -1 to 1 of the row in its middle."""
    span = product_rows(stage.is_product)
    assert span is not None, "the mark lies on the product"
    first, last = span
    tall = max(last - first, 1)
    low, high = (max(0.0, min(1.0, (last + 0.5 - y) / tall)) for y in (y1, y0))
    row = int(np.clip((y0 + y1) / 2, first, last))
    columns = np.flatnonzero(stage.is_product[row])
    left, right = (columns[0], columns[-1] + 1) if len(columns) else (x0, x1)
    begin, end = (max(-1.0, min(1.0, 2 * (x - left) / max(right - left, 1) - 1)) for x in (x0, x1))
    return round(low, 3), round(high, 3), round(begin, 3), round(end, 3)


def _beside(
    document: Document, plan: Plan, stage: TracedScene, at: tuple[float, float, float, float], rows: slice, columns: slice
) -> list[Change]:
    """Beside the product: on gloss a highlight, elsewhere black."""
    first = stage.traced.first.reshape(stage.height, stage.width)[rows, columns].ravel()
    skins = stage.scene.skins[np.where(first >= 0, first % SKINS_PER_SURFACE, 0)]
    gloss = float(((first >= 0) & mirrors(skins)).mean()) > ON_PRODUCT
    x, y, to_x, to_y = (round(v, 4) for v in at)
    reading = {"kind": "frame area", "name": "Table" if gloss else "Background", "x": x, "y": y, "to_x": to_x, "to_y": to_y}
    if gloss:
        return _added(document, reading, "table", [{"kind": "cover", "share": 0.9}])
    return _added(document, reading, "ground", [{"kind": "level", "stops": -6.0, "side": "at most"}])


def _added(document: Document, reading: dict[str, Any], stem: str, wishes: list[dict[str, Any]]) -> list[Change]:
    key = _free(document, "readings", stem)
    changes = [Change(kind="add", path=("readings",), value={**reading, "key": key})]
    for wish in wishes:
        own = _free(document, "wishes", f"{key}-{wish['kind']}")
        changes.append(Change(kind="add", path=("wishes",), value={**wish, "key": own, "reading": key}))
    return changes


def _free(document: Document, name: str, stem: str) -> str:
    taken = {one["key"] for one in document.get(name, [])}
    number, key = 2, stem
    while key in taken:
        key, number = f"{stem}-{number}", number + 1
    return key

"""Masks: which part of the frame an exposure gives, taken from the set itself, painted, or as a gradient; feathered in millimetres."""

from __future__ import annotations

import itertools
import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy import ndimage

from fotaxis.core.captures.areas import SceneAreas
from fotaxis.core.errors import DomainError
from fotaxis.core.limits import require_finite

Mask = NDArray[np.float32]
"""(height, width), 0 nothing to 1 all."""

ADD, TAKE = "add", "take"
MOST_FEATHER_MM = 200.0
MOST_STROKE = 400
LEAST_RADIUS, MOST_RADIUS = 0.001, 0.5
FEATHER_SIGMA = 0.39
"""A step smoothed by a Gaussian of this many feathers goes from a tenth to nine tenths within one: 1 / (2 * 1.2816)."""


@dataclass(frozen=True, slots=True, kw_only=True)
class MaskPart:
    """One part of a mask. how: it adds to the parts before it, or takes away from them; invert: all but what it covers.

    feather_mm: over so many millimetres of the product its edge goes from a tenth to nine tenths.
    """

    how: str = ADD
    invert: bool = False
    feather_mm: float = 0.0

    def __post_init__(self) -> None:
        if self.how not in (ADD, TAKE):
            raise DomainError(f"a part of a mask is {self.how!r}; it must be {ADD} or {TAKE}.")
        require_finite("feather", self.feather_mm, low=0, high=MOST_FEATHER_MM, unit="mm")

    def covers(self, areas: SceneAreas) -> Mask:
        """What it covers before feather and inversion."""
        raise NotImplementedError


@dataclass(frozen=True, slots=True, kw_only=True)
class ScenePart(MaskPart):
    """An area of the set, see areas.AREA_WORDS, or a thing by its key."""

    area: str
    zone: str = ""

    def covers(self, areas: SceneAreas) -> Mask:
        return areas.area(self.area, zone=self.zone).astype(np.float32)


@dataclass(frozen=True, slots=True, kw_only=True)
class BrushPart(MaskPart):
    """A stroke. points: (x, y) in parts of the frame; radius: in parts of its width; hard: share of the radius that is full."""

    points: tuple[tuple[float, float], ...]
    radius: float
    hard: float = 0.5

    def __post_init__(self) -> None:
        MaskPart.__post_init__(self)
        if not 1 <= len(self.points) <= MOST_STROKE:
            raise DomainError(f"a stroke has {len(self.points)} places; it must have 1 to {MOST_STROKE}.")
        require_finite("brush", self.radius, low=LEAST_RADIUS, high=MOST_RADIUS, unit="of the frame's width")
        require_finite("hardness of the brush", self.hard, low=0, high=1)

    def covers(self, areas: SceneAreas) -> Mask:
        width, height = areas.size
        places = np.array(self.points, np.float64) * np.array([width, height])
        radius = self.radius * width
        away = np.full((height, width), np.inf)
        ends = [*itertools.pairwise(places)] or [(places[0], places[0])]
        for a, b in ends:
            # Only where the stroke reaches: a long one over a large frame is many short pieces.
            low, high = np.minimum(a, b) - radius - 1, np.maximum(a, b) + radius + 1
            x0, y0 = np.maximum(np.floor(low), 0).astype(int)
            x1, y1 = np.minimum(np.ceil(high), (width, height)).astype(int)
            if x1 <= x0 or y1 <= y0:
                continue
            y, x = np.mgrid[y0:y1, x0:x1] + 0.5
            d = b - a
            t = np.clip(((x - a[0]) * d[0] + (y - a[1]) * d[1]) / max(float(d @ d), 1e-12), 0.0, 1.0)
            piece = np.hypot(x - a[0] - t * d[0], y - a[1] - t * d[1])
            away[y0:y1, x0:x1] = np.minimum(away[y0:y1, x0:x1], piece)
        inner = self.hard * radius
        part = np.clip((radius - away) / max(radius - inner, 0.5), 0.0, 1.0)
        return (part * part * (3 - 2 * part)).astype(np.float32)


@dataclass(frozen=True, slots=True, kw_only=True)
class GradientPart(MaskPart):
    """All at its beginning, nothing at its end and beyond: begin, end in parts of the frame."""

    begin: tuple[float, float]
    end: tuple[float, float]

    def __post_init__(self) -> None:
        MaskPart.__post_init__(self)
        if math.hypot(self.end[0] - self.begin[0], self.end[1] - self.begin[1]) < 1e-3:
            raise DomainError("a gradient begins where it ends; drag it over some part of the frame.")

    def covers(self, areas: SceneAreas) -> Mask:
        width, height = areas.size
        a, b = (np.array(p) * np.array([width, height]) for p in (self.begin, self.end))
        d = b - a
        y, x = np.mgrid[0:height, 0:width] + 0.5
        t = np.clip(((x - a[0]) * d[0] + (y - a[1]) * d[1]) / float(d @ d), 0.0, 1.0)
        fall = 1 - t
        return (fall * fall * (3 - 2 * fall)).astype(np.float32)


@dataclass(frozen=True, slots=True, kw_only=True)
class DepthPart(MaskPart):
    """What lies between two distances from the lens, along its axis; nothing seen at all counts as farthest."""

    near_m: float
    far_m: float

    def __post_init__(self) -> None:
        MaskPart.__post_init__(self)
        if not 0 <= self.near_m < self.far_m:
            raise DomainError(f"a mask lies from {self.near_m * 100:g} to {self.far_m * 100:g} cm; the second must be more.")

    def covers(self, areas: SceneAreas) -> Mask:
        away = np.nan_to_num(areas.distance_m, nan=np.inf, posinf=np.inf)
        return ((away >= self.near_m) & (away <= self.far_m)).astype(np.float32)


def mask_of(parts: Sequence[MaskPart], areas: SceneAreas) -> Mask | None:
    """The mask that parts make one after the other; None for no parts: everything.

    A part that adds: m = 1 - (1 - m)(1 - p); one that takes: m = m (1 - p). A mask that begins by taking begins with everything.
    So two areas that meet, feathered alike, add up to one.
    """
    if not parts:
        return None
    width, height = areas.size
    mask = np.full((height, width), 1.0 if parts[0].how == TAKE else 0.0, np.float32)
    for part in parts:
        covers = feathered(part.covers(areas), part.feather_mm * areas.mm_px)
        if part.invert:
            covers = 1 - covers
        mask = mask * (1 - covers) if part.how == TAKE else 1 - (1 - mask) * (1 - covers)
    return np.ascontiguousarray(mask, np.float32)


def feathered(mask: Mask, feather_px: float) -> Mask:
    """A mask whose edges go from a tenth to nine tenths over so many pixels.   Source: width of the error function's step."""
    if feather_px < 0.25:
        return mask
    return np.asarray(ndimage.gaussian_filter(mask, FEATHER_SIGMA * feather_px, mode="nearest", truncate=3.5), np.float32)


def halved(mask: Mask) -> Mask:
    """A mask of twice the size as one whose pixels are the means of four: smooth edges."""
    height, width = mask.shape[0] // 2 * 2, mask.shape[1] // 2 * 2
    parts = mask[:height, :width].reshape(height // 2, 2, width // 2, 2)
    return np.asarray(parts.mean(axis=(1, 3)), np.float32)

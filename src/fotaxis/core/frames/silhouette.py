"""The outline of a round product in a photograph from the side: which pixels are it, its axis, its half width at every height."""

from __future__ import annotations

import math
from dataclasses import dataclass
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray
from scipy import ndimage

from fotaxis.core.errors import NoSolution
from fotaxis.core.geometry.profile import Profile, refine
from fotaxis.core.materials.artwork import LINEAR
from fotaxis.core.values import Array

MOST_SIDE = 900
"""Photographs are reduced to so many pixels a side first: a quarter of a millimetre on 25 cm."""

LEAST_PART = 0.02
"""A product that fills less of the photograph's height than this is not told from a speck."""

MOST_POINTS = 60
TOUCH = 0.004
"""An outline that comes so close to the frame's side is cut off by it, as a part of the width."""


Place = tuple[float, float]


@dataclass(frozen=True, slots=True, kw_only=True)
class Silhouette:
    """What was found, in pixels of the photograph as it was given.

    foot, top: (x, y) of the axis where it begins and ends; along (n,): distances of the readings from the foot on the axis, half (n,):
    half widths there; error: how far the sides differ from each other's mirror image, half of it, root mean square without the ends.
    """

    foot: Place
    top: Place
    along: Array
    half: Array
    error: float

    @property
    def height(self) -> float:
        """Length of the axis, pixels."""
        return math.hypot(self.foot[0] - self.top[0], self.foot[1] - self.top[1])

    def profile_points(self, height_m: float) -> tuple[Place, ...]:
        """Few heights above the foot and radii, metres, whose smooth outline meets the readings; the product is `height_m` high.

        Points are added where the outline is farthest off, until it is within a third of a pixel or 1/800 of the widest.
        """
        scale = height_m / self.height
        h, r = self.along * scale, np.maximum(self.half * scale, 0.0)
        near = max(0.3 * scale, float(r.max()) / 400)
        # Within the last pixels the sides turn round the ends, unless those are flat.
        inner = (h > 1.5 * scale) & (h < height_m - 1.5 * scale)
        h, r = np.concatenate([[0.0], h[inner], [height_m]]), np.concatenate([[r[inner][0]], r[inner], [r[inner][-1]]])
        kept = [0, len(h) - 1]
        while len(kept) < MOST_POINTS:
            outline = refine(_profile(h, r, kept)).points[1:-1]
            off = np.abs(np.interp(h, outline[:, 0], outline[:, 1]) - r)
            for k in kept:  # neighbours within a pixel of each other make corners out of noise
                off[np.abs(h - h[k]) < 1.5 * scale] = 0.0
            worst = int(np.argmax(off))
            if off[worst] <= near:
                break
            kept = sorted([*kept, worst])
        return tuple((float(h[k]), float(r[k])) for k in kept)


def _profile(h: Array, r: Array, kept: list[int]) -> Profile:
    return Profile(heights_m=tuple(float(h[k]) for k in kept), radii_m=tuple(float(r[k]) for k in kept))


def find_silhouette(picture: NDArray[np.uint8]) -> Silhouette:
    """The silhouette of the largest thing that stands out from the ground of a photograph, (height, width, 3) uint8 sRGB.

    The ground is what the frame's sides show, a plane of brightness and colour across it. What differs from it, its holes filled, is
    the product; its sides are found between pixels. Holds for a product that is round about an axis within 12 degrees of upright and
    that no side of the frame cuts. Else NoSolution that says what is in the way.
    """
    full_height, full_width = picture.shape[:2]
    step = max(1, math.ceil(max(full_height, full_width) / MOST_SIDE))
    linear = LINEAR[picture]
    if step > 1:
        high, wide = full_height // step * step, full_width // step * step
        linear = linear[:high, :wide].reshape(high // step, step, wide // step, step, 3).mean(axis=(1, 3))
    # As the eye sees steps of brightness; a cube root is lightness (CIE 15).
    off = _off_the_ground(np.cbrt(linear))
    lean = 0.0
    for _ in range(2):  # set upright, then read again
        mask = _largest(off)
        rows = _rows(mask)
        left, right = _sides(off, mask, rows)
        slope, offset = _axis(rows.astype(np.float64), left, right)
        if lean or abs(slope) < LEAST_LEAN:
            break
        lean = math.atan(slope)
        off = ndimage.affine_transform(off, _turn(lean), _about(off.shape, lean), order=1, mode="nearest")
    return _read(off, mask, rows, left, right, offset, slope, lean, step)


LEAST_LEAN = 0.002
"""So far to the side on so much of the height hardly changes what a row shows, radians."""


def _turn(lean: float) -> Array:
    """What takes rows and columns of the upright picture to those of the leaning one."""
    c, s = math.cos(lean), math.sin(lean)
    return np.array([[c, -s], [s, c]])


def _about(shape: tuple[int, ...], lean: float) -> Array:
    middle = (np.array(shape) - 1) / 2
    turned: Array = middle - _turn(lean) @ middle
    return turned


def _rows(mask: NDArray[np.bool_]) -> NDArray[np.int64]:
    """Rows in which the product shows. Raises NoSolution where it is none or is cut off."""
    rows = np.flatnonzero(mask.any(axis=1))
    height, width = mask.shape
    if len(rows) < max(LEAST_PART * height, 20):
        raise NoSolution(
            "nothing stands out from the ground here; take the photograph against a plain wall, lighter or darker."
        )
    columns = np.flatnonzero(mask.any(axis=0))
    if columns[0] < TOUCH * width or columns[-1] > width - 1 - TOUCH * width:
        raise NoSolution("the product touches the photograph's side; step back until there is ground on both sides.")
    if rows[0] == 0:
        raise NoSolution("the product is cut off at the top of the photograph; show all of it.")
    if rows[-1] == height - 1:
        raise NoSolution("the product is cut off at the bottom of the photograph; show its foot too.")
    return rows


def _off_the_ground(seen: Array) -> Array:
    """How much every pixel differs from the ground, (height, width), 0..

    The ground of a row runs from what its left end shows to what its right end does, so that a table below or a horizon is ground
    too; where the top shows it brighter or darker in the middle, it is so in every row.
    """
    height, width = seen.shape[:2]
    edge_x, edge_y = max(3, width // 14), max(3, height // 14)
    x = np.linspace(0.0, 1.0, width)
    total = np.zeros((height, width))
    for c in range(3):
        ends = [np.median(seen[:, part, c], axis=1) for part in (slice(0, edge_x), slice(width - edge_x, width))]
        left, right = (ndimage.median_filter(end, 5, mode="nearest")[:, None] for end in ends)
        ground = left + (right - left) * x
        above = np.median(seen[:edge_y, :, c] - ground[:edge_y], axis=0)
        keep = np.ones(width, bool)
        bow = np.zeros(3)
        for _ in range(4):  # what does not belong to it is left out, again and again
            bow = np.polyfit(x[keep], above[keep], 2)
            rest = np.abs(above - np.polyval(bow, x))
            keep = rest <= max(3.0 * float(np.median(rest[keep])), 0.004)
        total += (seen[..., c] - ground - np.polyval(bow, x)) ** 2
    smooth: Array = ndimage.gaussian_filter(np.sqrt(total), 0.7)
    return smooth


def _threshold(off: Array) -> float:
    """Between what is ground and what is not: the value that parts both best (Otsu 1979), but well over the ground's own noise."""
    counts, edges = np.histogram(off, bins=256)
    middles = (edges[1:] + edges[:-1]) / 2
    below = np.cumsum(counts)
    above = below[-1] - below
    mean_below = np.cumsum(counts * middles) / np.maximum(below, 1)
    mean_above = (np.cumsum((counts * middles)[::-1])[::-1] - counts * middles) / np.maximum(above, 1)
    between = below * above * (mean_below - mean_above) ** 2
    otsu = float(middles[int(np.argmax(between))])
    noise = float(np.percentile(off, 15))
    # A rim may stand out by less than the body does: half of what parts them is enough, where the ground is quieter than that.
    return max(0.45 * otsu, 4.0 * noise, 0.02)


GAP = 0.04
"""Gaps of so much of the height are closed: a dark bottle before a dark ground shows its lines, its label and its cap."""


def _largest(off: Array) -> NDArray[np.bool_]:
    """What stands out and belongs together, filled from side to side: clear glass shows only its edges."""
    mask = off > _threshold(off)
    mask = ndimage.binary_closing(np.pad(mask, 8), iterations=3)[8:-8, 8:-8]
    labels, count = ndimage.label(mask)
    if count == 0:
        return np.zeros(off.shape, bool)
    sizes = np.bincount(labels.ravel())
    sizes[0] = 0
    # What hangs on the frame's lower edge all along is the table, not the product.
    sizes[np.bincount(labels[-1], minlength=count + 1) > 0.8 * off.shape[1]] = 0
    kept = np.isin(labels, np.flatnonzero(sizes > max(0.02 * sizes.max(), 12)))
    first, last = np.argmax(kept, axis=1), kept.shape[1] - 1 - np.argmax(kept[:, ::-1], axis=1)
    x = np.arange(kept.shape[1])
    some: NDArray[np.bool_] = np.any(kept, axis=1, keepdims=True)
    filled = some & (x >= first[:, None]) & (x <= last[:, None])
    reach = max(1, round(GAP * off.shape[0] / 2))
    padded = np.pad(filled, ((reach, reach), (0, 0)))  # else what touches the frame's edge is worn away
    joined, count = ndimage.label(ndimage.binary_closing(padded, np.ones((2 * reach + 1, 1), bool))[reach:-reach])
    sizes = np.bincount(joined.ravel())
    sizes[0] = 0
    return _without_table(_bridged(joined, sizes))


ALIKE = 0.7
"""A part that shares so much of its width's columns with the largest one stands above or below it."""


def _bridged(parts: NDArray[np.int32], sizes: NDArray[np.int64]) -> NDArray[np.bool_]:
    """The largest part, with those in line with it: a label in the wall's own tone parts a bottle in two. Between them its sides run
    straight from one to the other."""
    largest = int(np.argmax(sizes))
    found: NDArray[np.bool_] = parts == largest
    columns = np.flatnonzero(found.any(axis=0))
    for part in np.flatnonzero(sizes >= 0.05 * sizes[largest]):
        if part == largest:
            continue
        own = np.flatnonzero((parts == part).any(axis=0))
        shared = min(own[-1], columns[-1]) - max(own[0], columns[0])
        wider = np.ptp(own) > 1.3 * np.ptp(columns)
        if not wider and shared >= ALIKE * min(np.ptp(own), np.ptp(columns)):
            found |= parts == part
    rows = np.flatnonzero(found.any(axis=1))
    for above, below in pairwise(rows):
        if below == above + 1:
            continue
        a, b = np.flatnonzero(found[above]), np.flatnonzero(found[below])
        for row in range(above + 1, below):
            share = (row - above) / (below - above)
            first, last = (round(a[end] + share * (b[end] - a[end])) for end in (0, -1))
            found[row, first : last + 1] = True
    return found


def _without_table(mask: NDArray[np.bool_]) -> NDArray[np.bool_]:
    """The mask without what spreads at its foot to far more than the thing's own width: a table's edge or a shadow."""
    widths = mask.sum(axis=1)
    rows = np.flatnonzero(widths)
    if len(rows) < 20:
        return mask
    spread = np.array([np.ptp(np.flatnonzero(mask[row])) for row in rows])
    usual = float(np.percentile(spread[: max(1, int(0.85 * len(rows)))], 98))
    too_wide = spread > 1.35 * usual
    too_wide[: int(0.85 * len(rows))] = False
    cut = mask.copy()
    if too_wide.any():
        cut[rows[int(np.argmax(too_wide))] :] = False
    return cut


def _sides(off: Array, mask: NDArray[np.bool_], rows: NDArray[np.int64]) -> tuple[Array, Array]:
    """Left and right side of the mask in every row, between pixels: where the difference is half of what it is just within."""
    left, right = np.empty(len(rows)), np.empty(len(rows))
    for i, row in enumerate(rows):
        there = np.flatnonzero(mask[row])
        left[i] = _crossing(off[row], int(there[0]), 1)
        right[i] = _crossing(off[row], int(there[-1]), -1)
    return left, right


REACH = 6


def _crossing(values: Array, at: int, inward: int) -> float:
    """Where, near a pixel, values rise inward through half of their height there."""
    places = at + inward * np.arange(-REACH, REACH + 1)
    places = places[(places >= 0) & (places < len(values))]
    along = values[places]
    low, high = float(along[:3].min()), float(along[REACH - 1 :].max()) if len(along) > REACH else float(along.max())
    half = (low + high) / 2
    over = np.flatnonzero(along >= half)
    if not len(over) or over[0] == 0:
        return float(at)
    k = int(over[0])
    part = (half - along[k - 1]) / max(along[k] - along[k - 1], 1e-12)
    return float(places[k - 1] + inward * part)


def _axis(rows: Array, left: Array, right: Array) -> tuple[float, float]:
    """Slope and offset of the line that best halves the readings. Raises NoSolution where it leans too far."""
    middle = (left + right) / 2
    inner = np.ones(len(rows), bool)
    inner[: len(rows) // 25] = inner[-(len(rows) // 25) - 1 :] = False
    keep = inner
    slope, offset = 0.0, float(np.median(middle))
    for _ in range(4):
        slope, offset = np.polyfit(rows[keep], middle[keep], 1)
        rest = np.abs(middle - (slope * rows + offset))
        keep = inner & (rest <= max(2.5 * float(np.median(rest[keep])), 0.4))
    if abs(slope) > math.tan(math.radians(MOST_LEAN_DEG)):
        raise NoSolution("the product leans in this photograph; set it or the camera upright and take it again.")
    return float(slope), float(offset)


MOST_LEAN_DEG = 12.0


def _read(
    off: Array, mask: NDArray[np.bool_], rows: NDArray[np.int64], left: Array, right: Array, offset: float, slope: float, lean: float,
    step: int,
) -> Silhouette:  # fmt: skip
    """Readings of an upright picture, in pixels of the one that was given."""
    axis: Array = (slope * rows + offset).astype(np.float64)
    half: Array = (right - left) / 2
    down = _end(off, mask, axis, half, last=True)
    up = _end(off, mask, axis, half, last=False)
    foot, top = (down if down is not None else float(rows[-1]) + 0.5), (up if up is not None else float(rows[0]) - 0.5)
    inner = slice(len(rows) // 25, -(len(rows) // 25) - 1)
    rest = ((left + right) / 2 - axis)[inner]
    error = float(np.sqrt(np.mean(np.minimum(np.abs(rest), 4 * np.median(np.abs(rest)) + 0.2) ** 2)))

    def given(y: float) -> Place:
        """A place of the axis in the photograph."""
        upright = np.array([y, slope * y + offset])
        row, col = _turn(lean) @ upright + _about(off.shape, lean) if lean else upright
        return float((col + 0.5) * step), float((row + 0.5) * step)

    along = foot - rows[::-1].astype(np.float64)
    on = (along >= 0) & (along <= foot - top)
    return Silhouette(
        foot=given(foot), top=given(top), along=along[on] * step, half=half[::-1][on] * step, error=error * step
    )


ROUND = 0.85
"""So much of an end's half width, from the axis, tells how it curves."""


def _end(off: Array, mask: NDArray[np.bool_], axis: Array, half: Array, *, last: bool) -> float | None:
    """The row in which the axis ends, below or above; None where that end is too narrow or too ragged to tell.

    Seen from above or below, a flat round end is half an ellipse whose rim nearest to the camera lies beyond the axis' end:

        row(x) = end + bow sqrt(1 - (x / r)^2)
    """
    rows = np.flatnonzero(mask.any(axis=1))
    n = max(2, len(rows) // 40)
    r = float(np.median(half[-3 * n : -n] if last else half[n : 3 * n]))
    middle = float(axis[-1] if last else axis[0])
    columns = np.arange(math.ceil(middle - ROUND * r), math.floor(middle + ROUND * r) + 1)
    columns = columns[(columns >= 0) & (columns < off.shape[1])]
    if len(columns) < 7:
        return None
    edge = np.empty(len(columns))
    for i, column in enumerate(columns):
        there = np.flatnonzero(mask[:, column])
        if not len(there):
            return None
        edge[i] = _crossing(off[:, column], int(there[-1] if last else there[0]), -1 if last else 1)
    arc = np.sqrt(1 - ((columns - middle) / r) ** 2)
    keep = np.ones(len(columns), bool)
    end, bow = 0.0, 0.0
    for _ in range(4):
        bow, end = np.polyfit(arc[keep], edge[keep], 1)
        rest = np.abs(edge - (end + bow * arc))
        keep = rest <= max(2.5 * float(np.median(rest[keep])), 0.4)
    if float(np.median(np.abs(edge - (end + bow * arc)))) > 0.05 * r or abs(bow) > 0.5 * r:
        return None
    return float(end)

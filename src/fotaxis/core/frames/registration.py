"""How far one frame of a locked camera lies off another, however differently the two are lit; and how a mask lies on a frame."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy import fft, ndimage

from fotaxis.core.constants import REC709_LUMINANCE
from fotaxis.core.errors import DomainError
from fotaxis.core.kernel import kernel
from fotaxis.core.render.parallel import in_bands
from fotaxis.core.values import Array, Picture

SMOOTH_PX = 1.8
"""Frames are smoothed by so much before their edges are looked at: noise has no direction."""

COARSE_SIDE = 1200
TILE = 768
MOST_SHIFT = 0.04
"""A nudge of more than this part of the frame is another framing."""

NOISY, LEAST_EDGE = 0.5, 0.002
"""Edges as steep as so much of the frame's noise and so much of its brightest a pixel count half."""

WHITENED = 0.7
"""How far all frequencies are made to count alike: a plain correlation of long edges has a long peak."""

UPSAMPLED = 64
SURE = 6.0
"""A peak so many times its surroundings' spread is one: of frames with nothing in common the highest of chance stays below."""

NUDGED_PX = 0.5
STILL_PX = 0.1
"""A nudge worth saying, and one worth correcting, pixels of the frame."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Offset:
    """How far a frame lies right of and below another, pixels of the frame; certainty: height of the peak over the spread about it."""

    right_px: float
    down_px: float
    certainty: float

    @property
    def sure(self) -> bool:
        return self.certainty >= SURE

    @property
    def size_px(self) -> float:
        return math.hypot(self.right_px, self.down_px)


def luminance_of(picture: NDArray) -> NDArray[np.float32]:
    """Luminance of a frame's codes (height, width, 3), uint8 or uint16, as float32 of any scale: only its edges are looked at."""
    return np.asarray(picture.astype(np.float32) @ np.array(REC709_LUMINANCE, np.float32))


def edge_directions(luminance: NDArray[np.float32]) -> NDArray[np.complex64]:
    """Which way edges run, (height, width): direction of the gradient at twice its angle, weighed by how plain the edge is.

    At twice the angle an edge that is bright on its other side counts the same, so the frame of a back light and that of a label
    light have the product's edges in common.   Source: orientation correlation (Fitch et al. 2002), angle doubled.
    """
    smooth = ndimage.gaussian_filter(luminance, SMOOTH_PX)
    gx, gy = ndimage.sobel(smooth, axis=1) / 8, ndimage.sobel(smooth, axis=0) / 8
    size = np.hypot(gx, gy)
    noise = 1.4826 * float(np.median(np.abs(luminance - smooth)))
    weight = size / (size + NOISY * noise + LEAST_EDGE * float(smooth.max()) + 1e-12)
    weight[:3], weight[-3:], weight[:, :3], weight[:, -3:] = 0, 0, 0, 0
    with np.errstate(invalid="ignore", divide="ignore"):
        turned = np.where(size > 0, ((gx + 1j * gy) / np.maximum(size, 1e-20)) ** 2, 0)
    return (weight * turned).astype(np.complex64)


def offset_between(reference: NDArray, frame: NDArray) -> Offset:
    """How far a frame lies off a reference of the same size, (height, width, 3) codes, to a few hundredths of a pixel.

    First the whole frames, reduced; then the part with the plainest edges at full size. Holds for a shift within 4 % of the frame;
    turns and changes of scale are not looked for. Raises DomainError for frames of different sizes.
    """
    if reference.shape != frame.shape:
        raise DomainError(f"frames of {_size(reference)} and {_size(frame)} pixels cannot be compared.")
    step = max(1, math.ceil(max(frame.shape[:2]) / COARSE_SIDE))
    small = [edge_directions(mean_luminance(one, step)) for one in (reference, frame)]
    most = max(4, round(MOST_SHIFT * max(frame.shape[:2]) / step))
    found = _peak(*small, most=most)
    if step == 1 or not found.sure:
        return Offset(right_px=found.right_px * step, down_px=found.down_px * step, certainty=found.certainty)
    right, down = round(found.right_px * step), round(found.down_px * step)
    y, x = _plainest(np.minimum(np.abs(small[0]), np.abs(small[1])), TILE // step)
    high, wide = frame.shape[:2]
    y0, x0 = min(max(y * step, abs(down)), high - TILE - abs(down)), min(max(x * step, abs(right)), wide - TILE - abs(right))
    if min(y0, x0) < 0 or high < TILE + 2 * abs(down) or wide < TILE + 2 * abs(right):
        return Offset(right_px=found.right_px * step, down_px=found.down_px * step, certainty=found.certainty)
    near = _peak(
        edge_directions(luminance_of(reference[y0 : y0 + TILE, x0 : x0 + TILE])),
        edge_directions(luminance_of(frame[y0 + down : y0 + down + TILE, x0 + right : x0 + right + TILE])),
        most=2 * step + 2,
    )
    return Offset(right_px=right + near.right_px, down_px=down + near.down_px, certainty=found.certainty)


def offset_of_small(reference: NDArray[np.float32], frame: NDArray[np.float32]) -> Offset:
    """As offset_between, of luminances (height, width) small enough to be compared whole."""
    most = max(4, round(MOST_SHIFT * max(frame.shape)))
    return _peak(edge_directions(reference), edge_directions(frame), most=most)


def reduced(codes: NDArray, width: int) -> NDArray[np.float32]:
    """A frame's luminance thinned by whole pixels' means to no less than a width."""
    return mean_luminance(codes, max(1, codes.shape[1] // width))


@kernel
def _means(codes: NDArray, step: int, first: int, last: int, out: NDArray[np.float32]) -> None:
    """Rows first..last of mean luminance over step x step codes."""
    part = np.float32(1.0 / (step * step))
    for y in range(first, last):
        for x in range(out.shape[1]):
            total = np.float32(0.0)
            for i in range(step):
                for k in range(step):
                    row, column = y * step + i, x * step + k
                    total += (
                        np.float32(0.2126) * codes[row, column, 0] + np.float32(0.7152) * codes[row, column, 1]
                        + np.float32(0.0722) * codes[row, column, 2]
                    )  # fmt: skip
            out[y, x] = total * part


def mean_luminance(codes: NDArray, step: int) -> NDArray[np.float32]:
    """Luminance of codes (height, width, 3) as means over step x step pixels, (height // step, width // step) float32."""
    out = np.empty((codes.shape[0] // step, codes.shape[1] // step), np.float32)
    plain = np.asarray(codes)
    in_bands(lambda a, b: _means(plain, step, a, b, out), len(out), least=16)
    return out


def _plainest(strength: Array, side: int) -> tuple[int, int]:
    """Upper left corner of the square that has most edges."""
    sums = ndimage.uniform_filter(strength.astype(np.float32), size=max(side, 1), mode="constant")
    y, x = np.unravel_index(int(np.argmax(sums)), sums.shape)
    return max(int(y) - side // 2, 0), max(int(x) - side // 2, 0)


def _peak(a: NDArray[np.complex64], b: NDArray[np.complex64], *, most: int) -> Offset:
    """Where b lies off a by their correlation, at most so many pixels; between pixels by its spectrum.

    Source: Guizar-Sicairos, Thurman and Fienup 2008 (matrix-multiplied upsampled transform).
    """
    height, width = a.shape
    shape = (fft.next_fast_len(height + most), fft.next_fast_len(width + most))
    spectrum = fft.fft2(b, shape, workers=-1) * np.conj(fft.fft2(a, shape, workers=-1))
    strength = np.abs(spectrum)
    spectrum /= (strength + 1e-3 * float(strength.max()) + 1e-20) ** WHITENED
    whole = np.real(fft.ifft2(spectrum, workers=-1))
    near = np.roll(whole, (most, most), axis=(0, 1))[: 2 * most + 1, : 2 * most + 1]
    y, x = np.unravel_index(int(np.argmax(near)), near.shape)
    spread = float(1.4826 * np.median(np.abs(near - np.median(near)))) + 1e-12
    certainty = float((near[y, x] - np.median(near)) / spread)
    down, right = float(y - most), float(x - most)
    fine = np.arange(-UPSAMPLED, UPSAMPLED + 1) / UPSAMPLED
    ky, kx = fft.fftfreq(shape[0])[:, None], fft.fftfreq(shape[1])[None, :]
    rows = np.exp(2j * np.pi * (down + fine)[:, None] @ ky.T)
    columns = np.exp(2j * np.pi * kx.T @ (right + fine)[None, :])
    around = np.real(rows @ spectrum @ columns)
    fy, fx = np.unravel_index(int(np.argmax(around)), around.shape)
    return Offset(right_px=right + float(fine[fx]), down_px=down + float(fine[fy]), certainty=certainty)


def _size(picture: NDArray) -> str:
    return f"{picture.shape[1]} x {picture.shape[0]}"


# ---- masks on real frames


@dataclass(frozen=True, slots=True, kw_only=True)
class Lies:
    """Where a predicted picture lies on a real frame of the same crop:

        frame = middle + scale (predicted - middle) + (right, down)     in parts of the frame's width

    certainty: see Offset."""

    scale: float = 1.0
    right: float = 0.0
    down: float = 0.0
    certainty: float = 0.0

    @property
    def sure(self) -> bool:
        return self.certainty >= SURE


FIT_SIDE = 520
SCALES = np.arange(0.94, 1.0601, 0.01)
MOST_OFF = 0.08
BETTER = 1.1
"""Another size than predicted is believed where its peak stands out more by this factor."""


def fit_prediction(predicted: NDArray[np.float32], real: NDArray[np.float32]) -> Lies:
    """Where what is predicted of all frames together lies on what they show: silhouette, label, lines, whatever both have.

    predicted (h, w), real (H, W): luminances of one crop. Scales from 0.94 to 1.06 first, then finer about the best; Lies() as
    predicted where no peak stands out.
    """
    by = FIT_SIDE / max(real.shape)
    height, width = max(16, round(real.shape[0] * by)), max(16, round(real.shape[1] * by))
    edges = edge_directions(sized(real, height, width))
    most = max(4, round(MOST_OFF * max(height, width)))

    def at(scale: float) -> Offset:
        return _peak(edge_directions(sized(predicted, height, width, scale=scale)), edges, most=most)

    as_is = at(1.0)
    tried = {float(scale): at(float(scale)) for scale in SCALES if abs(scale - 1) > 1e-6} | {1.0: as_is}
    best = max(tried, key=lambda scale: tried[scale].certainty)
    for step in (0.005, 0.0025, 0.00125):
        tried |= {scale: at(scale) for scale in (best - step, best + step) if scale not in tried}
        best = max(tried, key=lambda scale: tried[scale].certainty)
    if tried[best].certainty < BETTER * as_is.certainty:
        best = 1.0
    found = tried[best]
    if not found.sure:
        return Lies()
    return Lies(scale=best, right=found.right_px / width, down=found.down_px / width, certainty=found.certainty)


def sized(picture: NDArray, height: int, width: int, *, scale: float = 1.0) -> NDArray[np.float32]:
    """A picture at another size, larger or smaller about its middle by a scale."""
    h, w = picture.shape
    sy, sx = h / (height * scale), w / (width * scale)
    smooth = ndimage.gaussian_filter(picture.astype(np.float32), (0.4 * max(sy, 1e-6), 0.4 * max(sx, 1e-6)))
    middle = np.array([(h - 1) / 2 - sy * (height - 1) / 2, (w - 1) / 2 - sx * (width - 1) / 2])
    out = ndimage.affine_transform(smooth, np.array([sy, sx]), middle, (height, width), order=1, mode="nearest")
    return np.asarray(out, np.float32)


# ---- correcting a nudge


@kernel
def _cubic(t: float) -> tuple[float, float, float, float]:
    """Weights of four neighbours at a fraction t past the second.   Source: Keys 1981, a = -1/2."""
    return (
        ((-0.5 * t + 1.0) * t - 0.5) * t, (1.5 * t - 2.5) * t * t + 1.0, ((-1.5 * t + 2.0) * t + 0.5) * t, (0.5 * t - 0.5) * t * t,
    )  # fmt: skip


@kernel
def _shift_rows(
    picture: NDArray[np.float32], right: float, down: float, first: int, last: int, out: NDArray[np.float32]
) -> None:
    """Rows first..last of a picture moved back by (right, down): out(y, x) = picture(y + down, x + right), edges going on."""
    height, width = picture.shape[0], picture.shape[1]
    y_whole, x_whole = int(np.floor(down)), int(np.floor(right))
    wy, wx = _cubic(down - y_whole), _cubic(right - x_whole)
    line = np.empty((width, 3), np.float32)
    for y in range(first, last):
        line[:] = 0.0
        for i in range(4):
            row = min(max(y + y_whole - 1 + i, 0), height - 1)
            for x in range(width):
                for c in range(3):
                    line[x, c] += np.float32(wy[i]) * picture[row, x, c]
        for x in range(width):
            for c in range(3):
                level = np.float32(0.0)
                low, high = np.float32(np.inf), np.float32(-np.inf)
                for i in range(4):
                    value = line[min(max(x + x_whole - 1 + i, 0), width - 1), c]
                    level += np.float32(wx[i]) * value
                    if 1 <= i <= 2:
                        low, high = min(low, value), max(high, value)
                # No brighter or darker than its nearest neighbours: an edge of a highlight does not ring.
                out[y, x, c] = max(np.float32(0.0), min(max(level, low), high))


def moved_back(picture: Picture, offset: Offset) -> Picture:
    """A frame (height, width, 3) float32 brought back onto its reference."""
    out = np.empty_like(picture)
    in_bands(lambda a, b: _shift_rows(picture, offset.right_px, offset.down_px, a, b, out), len(picture), least=64)
    return out

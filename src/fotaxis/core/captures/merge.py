"""Real frames joined at full size: brought onto one another, laid through the masks that the set predicts, 16 bits deep."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from fotaxis.core.camera.tone import WHITE, Tone, soft_shoulder
from fotaxis.core.captures.composite import BLENDS, NO_MASK, blended, half_mirrored, upside_down
from fotaxis.core.captures.masks import Mask
from fotaxis.core.errors import DomainError
from fotaxis.core.frames.registration import (
    NUDGED_PX,
    STILL_PX,
    Lies,
    Offset,
    fit_prediction,
    luminance_of,
    moved_back,
    offset_between,
    offset_of_small,
    reduced,
    sized,
)
from fotaxis.core.kernel import kernel
from fotaxis.core.render.parallel import in_bands
from fotaxis.core.srgb import srgb_curve, srgb_linear
from fotaxis.core.values import Array, Picture

DEEP = 65535
BY_PREDICTION_PX = 0.25
"""What is told by predicted pictures is known to so many of their pixels: a frame that lies off by less is left as it came."""

LEAST_LIE = 0.002
"""A product that lies less off where the set has it than this part of the width is where it should be."""

Told = Callable[[float], bool]
"""Hears how much is done, 0 to 1; False calls the merge off."""


class MergeCancelled(Exception):
    """Nobody wants the merge any more."""


@dataclass(frozen=True, kw_only=True)
class RealFrame:
    """A real frame of a capture. codes (height, width, 3) uint8 or uint16 sRGB, cropped as the shot is; predicted (h, w, 3) uint8:
    what the set predicts of it, None where that is not known; mask (h, w), gain, blend, sided, flipped: see composite.Plate, axis_x
    and foot_y in parts of the frame."""

    key: str
    name: str
    codes: NDArray
    predicted: NDArray[np.uint8] | None = None
    mask: Mask | None = None
    blend: str = "sum"
    gain: float = 1.0
    sided: str = ""
    flipped: bool = False
    axis_x: float = 0.5
    foot_y: float = 1.0


@dataclass(frozen=True, kw_only=True)
class Aligned:
    """Where a frame lies against the first: its offset in pixels of the frame, how that was found ('frames': by comparing both,
    'prediction': each against what is predicted of it, '': not to be told), and whether it was moved back."""

    key: str
    name: str
    offset: Offset
    by: str
    corrected: bool

    @property
    def nudged(self) -> bool:
        return self.corrected and self.offset.size_px >= NUDGED_PX

    @property
    def words(self) -> str:
        o = self.offset
        if not self.by:
            return f"{self.name}: too little in common with the others to tell whether the camera stood still; it is left as it came."
        if not self.nudged:
            return f"{self.name}: lies within {max(NUDGED_PX, self.offset.size_px):.1f} px of the first."
        right = f"{abs(o.right_px):.1f} px to the {'right' if o.right_px > 0 else 'left'}"
        down = f"{abs(o.down_px):.1f} px {'down' if o.down_px > 0 else 'up'}"
        how = ", told by the predicted picture: look at its edges" if self.by == "prediction" else ""
        return f"{self.name}: the camera was nudged, by {right} and {down}; moved back{how}."


@dataclass(frozen=True, kw_only=True)
class Merged:
    """picture (height, width, 3) uint16 sRGB as delivered; aligned: of each frame; lies: of the masks on the frames."""

    picture: NDArray[np.uint16]
    aligned: tuple[Aligned, ...]
    lies: Lies
    words: tuple[str, ...] = ()


def merged(
    frames: Sequence[RealFrame],
    *,
    white: Array | None = None,
    tone: Tone,
    told: Told = lambda _: True,
) -> Merged:
    """Frames joined in their order.

    white (3,): factor of each channel.
    Raises DomainError for no frame, or frames of different sizes; MergeCancelled when `told` says no.
    """
    if not frames:
        raise DomainError("no frame is attached to a capture yet; attach one to merge.")
    size = frames[0].codes.shape
    for frame in frames:
        if frame.codes.shape != size:
            raise DomainError(f"{frame.name} has another size than {frames[0].name}; leave it out.")

    def tell(done: float) -> None:
        if not told(done):
            raise MergeCancelled

    aligned = []
    own = [_against_prediction(frame) for frame in frames]
    for i, frame in enumerate(frames):
        tell(0.5 * i / len(frames))
        aligned.append(_aligned(frames[0], frame, own[0], own[i]) if i else _first(frame))
    lies = Lies()
    if any(frame.mask is not None for frame in frames):
        lies = _lies(frames)
    below = np.zeros(size, np.float32)
    for i, (frame, where) in enumerate(zip(frames, aligned, strict=True)):
        tell(0.5 + 0.45 * i / len(frames))
        _lay_frame(below, frame, where, lies)
    picture = encoded(below, white=np.ones(3) if white is None else white, tone=tone)
    tell(1.0)
    words = [one.words for one in aligned[1:]]
    if lies.sure and (abs(lies.scale - 1) > LEAST_LIE or max(abs(lies.right), abs(lies.down)) > LEAST_LIE):
        words.append(_lies_words(lies, size[1]))
    return Merged(picture=picture, aligned=tuple(aligned), lies=lies, words=tuple(words))


def _lies(frames: Sequence[RealFrame]) -> Lies:
    """Where the set lies on the frames, by all that are predicted together."""
    known = [(luminance_of(frame.predicted), frame) for frame in frames if frame.predicted is not None]
    if not known:
        return Lies()
    h, w = known[0][0].shape
    predicted = sum((seen for seen, _ in known), np.zeros((h, w), np.float32))
    deep = {np.dtype(np.uint16): np.float32(1 / 257)}
    real = [sized(reduced(frame.codes, w), h, w) * deep.get(frame.codes.dtype, np.float32(1.0)) for _, frame in known]
    return fit_prediction(predicted, sum(real, np.zeros((h, w), np.float32)))


def _lies_words(lies: Lies, width: int) -> str:
    right = f"{abs(lies.right) * width:.0f} px {'right' if lies.right >= 0 else 'left'} of"
    down = f"{abs(lies.down) * width:.0f} px {'below' if lies.down >= 0 else 'above'}"
    size = f"{100 * lies.scale:.1f} %"
    return f"The product lies {right} and {down} where the set has it, at {size} of its size; the masks follow."


# ---- alignment


def _first(frame: RealFrame) -> Aligned:
    still = Offset(right_px=0.0, down_px=0.0, certainty=np.inf)
    return Aligned(key=frame.key, name=frame.name, offset=still, by="frames", corrected=False)


def _against_prediction(frame: RealFrame) -> Offset | None:
    """A frame's offset from what is predicted of it, in pixels of the frame; None where there is no prediction, or nothing sure."""
    if frame.predicted is None:
        return None
    h, w = frame.predicted.shape[:2]
    found = offset_of_small(luminance_of(frame.predicted), sized(reduced(frame.codes, w), h, w))
    if not found.sure:
        return None
    by = frame.codes.shape[1] / w
    return Offset(right_px=found.right_px * by, down_px=found.down_px * by, certainty=found.certainty)


def _aligned(first: RealFrame, frame: RealFrame, own_first: Offset | None, own: Offset | None) -> Aligned:
    """By both frames, or each by what is predicted of it, whichever stands out more: frames of different lights may have edges side by
    side that are not the same."""
    direct = offset_between(first.codes, frame.codes)
    offset, by = direct, "frames" if direct.sure else ""
    if own is not None and own_first is not None and min(own.certainty, own_first.certainty) > direct.certainty:
        offset = Offset(
            right_px=own.right_px - own_first.right_px, down_px=own.down_px - own_first.down_px,
            certainty=min(own.certainty, own_first.certainty),
        )  # fmt: skip
        by = "prediction"
    least = STILL_PX
    if by == "prediction" and frame.predicted is not None:
        least = max(STILL_PX, BY_PREDICTION_PX * frame.codes.shape[1] / frame.predicted.shape[1])
    correct = bool(by) and offset.size_px >= least
    return Aligned(key=frame.key, name=frame.name, offset=offset, by=by, corrected=correct)


# ---- laying


@kernel
def _lay_codes(
    below: NDArray[np.float32], codes: NDArray, linear: NDArray[np.float32], mask: NDArray[np.float32], masked: bool,
    place: tuple[float, float, float, float], gain: float, blend: int, first: int, last: int,
) -> None:  # fmt: skip
    """Lay a frame's codes over what is below, in place, rows first..last.

    linear: level of each code; place: mask column = a x + b, row = a' y + b', looked up between its pixels.
    """
    high, wide = mask.shape
    g = np.float32(gain)
    ax, bx, ay, by = place
    m = np.float32(1.0)
    for y in range(first, last):
        v = min(max(ay * y + by, 0.0), high - 1.0)
        v0 = min(int(v), high - 2) if high > 1 else 0
        fv = np.float32(v - v0)
        for x in range(codes.shape[1]):
            if masked:
                u = min(max(ax * x + bx, 0.0), wide - 1.0)
                u0 = min(int(u), wide - 2) if wide > 1 else 0
                fu = np.float32(u - u0)
                upper = mask[v0, u0] * (np.float32(1.0) - fu) + mask[v0, u0 + 1] * fu
                lower = mask[v0 + 1, u0] * (np.float32(1.0) - fu) + mask[v0 + 1, u0 + 1] * fu
                m = upper * (np.float32(1.0) - fv) + lower * fv
                if m <= 0.0:
                    continue
            for c in range(3):
                level = linear[codes[y, x, c]] * g
                below[y, x, c] = blended(below[y, x, c], level, m, blend)


def code_levels(kind: np.dtype) -> NDArray[np.float32]:
    """Linear level of every code of a kind, (256,) or (65536,).   Source: IEC 61966-2-1."""
    most = np.iinfo(kind).max
    return srgb_linear(np.arange(most + 1) / most).astype(np.float32)


def _lay_frame(below: Picture, frame: RealFrame, where: Aligned, lies: Lies) -> None:
    codes, linear = np.asarray(frame.codes), code_levels(frame.codes.dtype)
    if where.corrected or frame.sided or frame.flipped:
        codes = _shaped(codes, linear, frame, where)
        linear = code_levels(codes.dtype)
    mask = NO_MASK if frame.mask is None else frame.mask
    place = _mask_place(mask, codes.shape[1], codes.shape[0], lies)
    number = BLENDS.index(frame.blend)
    in_bands(
        lambda a, b: _lay_codes(below, codes, linear, mask, frame.mask is not None, place, frame.gain, number, a, b),
        len(below), least=64,
    )  # fmt: skip


def _shaped(codes: NDArray, linear: NDArray[np.float32], frame: RealFrame, where: Aligned) -> NDArray[np.uint16]:
    """A frame moved back, its good half mirrored, turned over, as codes of 16 bits."""
    levels = linear[codes]
    if where.corrected:
        levels = moved_back(levels, where.offset)
    if frame.sided:
        levels = half_mirrored(levels, frame.axis_x * levels.shape[1], good=frame.sided)
    if frame.flipped:
        levels = upside_down(levels, frame.foot_y * levels.shape[0])
    return encoded(levels, white=np.ones(3), tone=Tone())


def as_laid(frame: RealFrame, where: Aligned) -> NDArray[np.uint16]:
    """A frame as it is laid down, 16 bits: moved back, mirrored, turned over, at its strength."""
    linear = code_levels(frame.codes.dtype)
    levels = linear[np.asarray(frame.codes)]
    if where.corrected or frame.sided or frame.flipped:
        levels = code_levels(np.dtype(np.uint16))[_shaped(np.asarray(frame.codes), linear, frame, where)]
    if frame.gain != 1.0:
        levels *= np.float32(frame.gain)
    return encoded(levels, white=np.ones(3), tone=Tone())


def mask_on(frame: RealFrame, lies: Lies) -> Mask | None:
    """A frame's mask at the frame's own size, None for all of it."""
    if frame.mask is None:
        return None
    height, width = frame.codes.shape[:2]
    ax, bx, ay, by = _mask_place(frame.mask, width, height, lies)
    x, y = ax * np.arange(width, dtype=np.float64) + bx, ay * np.arange(height, dtype=np.float64) + by
    across = _between(frame.mask, x, axis=1)
    return np.clip(_between(across, y, axis=0), 0, 1).astype(np.float32)


def _between(values: NDArray[np.float32], at: Array, *, axis: int) -> NDArray[np.float32]:
    """Values looked up between their places along one axis."""
    last = values.shape[axis] - 1
    at = np.clip(at, 0, last)
    low = np.minimum(at.astype(int), max(last - 1, 0))
    part = (at - low).astype(np.float32)
    part = part[:, None] if axis == 0 else part[None, :]
    a, b = np.take(values, low, axis), np.take(values, np.minimum(low + 1, last), axis)
    return a * (1 - part) + b * part


def _mask_place(mask: Mask, width: int, height: int, lies: Lies) -> tuple[float, float, float, float]:
    """Columns and rows of a mask under pixels of a frame, where the prediction lies as told: see registration.Lies."""
    high, wide = mask.shape
    ax, ay = wide / width / lies.scale, high / height / lies.scale
    bx = wide / 2 - 0.5 + ax * (0.5 - width / 2 - lies.right * width)
    by = high / 2 - 0.5 + ay * (0.5 - height / 2 - lies.down * width)
    return ax, bx, ay, by


# ---- development at 16 bits


@kernel
def _encode(
    levels: NDArray[np.float32], white: NDArray[np.float32], shoulder: bool, curve: NDArray[np.uint16], first: int, last: int,
    out: NDArray[np.uint16],
) -> None:  # fmt: skip
    """Rows first..last of linear levels through a curve indexed by square root."""
    top = np.float32(curve.shape[0] - 1)
    for y in range(first, last):
        for x in range(levels.shape[1]):
            r, g, b = levels[y, x, 0] * white[0], levels[y, x, 1] * white[1], levels[y, x, 2] * white[2]
            if shoulder:
                r, g, b = soft_shoulder(r, g, b)
            for c in range(3):
                level = r if c == 0 else g if c == 1 else b
                level = min(np.float32(1.0), max(np.float32(0.0), np.float32(level)))
                out[y, x, c] = curve[int(np.sqrt(level) * top + np.float32(0.5))]


def encoded(levels: Picture, *, white: Array, tone: Tone) -> NDArray[np.uint16]:
    """Linear levels (height, width, 3) as codes of 16 bits, sRGB, developed as told; within one code of exact."""
    steps = np.arange(4 * (DEEP + 1)) / (4 * (DEEP + 1) - 1)
    stretched = (srgb_curve(steps**2) * WHITE - tone.black) / (tone.white - tone.black)
    curve = np.clip(stretched * DEEP + 0.5, 0, DEEP).astype(np.uint16)
    out = np.empty(levels.shape, np.uint16)
    balance = white.astype(np.float32)
    in_bands(lambda a, b: _encode(levels, balance, tone.shoulder, curve, a, b, out), len(levels), least=64)
    return out

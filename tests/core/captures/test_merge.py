"""Nudges found and corrected in seeded cases, masks on frames, what is written at 16 bits. Frames are drawn here."""

import json

import numpy as np
import pytest
from scipy import ndimage

from fotaxis.core.camera.exposure import encode_srgb
from fotaxis.core.camera.tone import Tone
from fotaxis.core.captures.composite import OVER, Plate, composed
from fotaxis.core.captures.merge import (
    MergeCancelled,
    RealFrame,
    as_laid,
    code_levels,
    encoded,
    mask_on,
    merged,
)
from fotaxis.core.errors import DomainError
from fotaxis.core.frames.registration import Lies, Offset, fit_prediction, luminance_of, moved_back, offset_between
from fotaxis.formats.shot_codec import JsonShots
from fotaxis.services.captures.capture import captured
from fotaxis.services.captures.needed import PER_PART, needed
from fotaxis.services.pictures import Pictures
from tests.formats import samples

NUDGE_PX = 3.0
SIDE = 480


def real(levels, noise, *, right=0.0, down=0.0):
    """A frame as a camera writes it: moved, with noise, eight bits."""
    seen = levels
    if right or down:  # channel by channel: a spline through the colours would cost most of it
        seen = np.stack([ndimage.shift(levels[..., c], (down, right), order=3, mode="nearest") for c in range(3)], axis=2)
    seen = np.clip(seen + noise.normal(0, 0.0015, seen.shape), 0, 1)
    return encode_srgb(seen.astype(np.float32)).astype(np.uint8)


@pytest.fixture(scope="module")
def plates():
    """Every light of four sets by itself: name, levels, and what is predicted of it, drawn at another size and brought to this one."""
    codec, pictures = JsonShots(), Pictures()
    found = []
    for name in ("gooseberry-with-glass", "elder-cordial", "gift-carton", "sparkling-can"):
        document = codec.check(json.loads((samples.DEMO / f"{name}.json").read_text()))
        captures = [one for one in needed(document, codec, pictures, school=PER_PART).captures if not one.get("away")]
        levels = [pictures.levels(codec.plan(captured(document, one)), long_side=SIDE) for one in captures]
        found.append((name, levels, [encode_srgb(one).astype(np.uint8) for one in levels]))
    return found


@pytest.mark.slow
def test_a_nudge_of_three_pixels_is_found_and_corrected_in_a_hundred_cases(plates):
    # The frame's shift is made here by cubic splines (scipy); found within a quarter of a pixel in all of a hundred.
    noise = np.random.default_rng(5)
    worst, cases = 0.0, 0
    while cases < 100:
        for name, levels, predicted in plates:
            angle = noise.uniform(0, 2 * np.pi)
            right, down = NUDGE_PX * np.cos(angle), NUDGE_PX * np.sin(angle)
            which = 1 + cases % (len(levels) - 1) if len(levels) > 1 else 0
            frames = [
                RealFrame(key="first", name="First", codes=real(levels[0], noise), predicted=predicted[0]),
                RealFrame(
                    key="nudged",
                    name="Nudged",
                    codes=real(levels[which], noise, right=right, down=down),
                    predicted=predicted[which],
                ),
            ]
            made = merged(frames, tone=Tone())
            where = made.aligned[1]
            assert where.nudged, name
            assert where.corrected, name
            worst = max(worst, abs(where.offset.right_px - right), abs(where.offset.down_px - down))
            cases += 1
    assert worst < 0.25


def test_a_camera_that_stood_still_is_not_moved(plates):
    noise = np.random.default_rng(6)
    for name, levels, predicted in plates:
        frames = [
            RealFrame(key=str(i), name=str(i), codes=real(one, noise), predicted=seen)
            for i, (one, seen) in enumerate(zip(levels, predicted, strict=True))
        ]
        made = merged(frames, tone=Tone())
        assert not any(one.nudged for one in made.aligned), name
        assert all(abs(one.offset.right_px) < 0.25 and abs(one.offset.down_px) < 0.25 for one in made.aligned)


def test_the_words_say_which_way_the_camera_went(plates):
    noise = np.random.default_rng(7)
    _, levels, predicted = plates[1]
    frames = [
        RealFrame(key="a", name="A", codes=real(levels[0], noise), predicted=predicted[0]),
        RealFrame(key="b", name="Label", codes=real(levels[-1], noise, right=4.0, down=-2.0), predicted=predicted[-1]),
    ]
    words = merged(frames, tone=Tone()).words[0]
    assert "nudged, by 4.0 px to the right and 2.0 px up" in words or "4.1 px" in words or "3.9 px" in words


def test_a_frame_brought_back_is_the_frame_before():
    # Independent: scipy's spline moves it there, ours back; smooth content, so both agree closely.
    y, x = np.mgrid[0:120, 0:160]
    smooth = np.stack([0.5 + 0.4 * np.sin(x / 9 + c) * np.cos(y / 11) for c in range(3)], axis=2).astype(np.float32)
    there = ndimage.shift(smooth, (1.3, -2.4, 0), order=3, mode="nearest").astype(np.float32)
    back = moved_back(there, Offset(right_px=-2.4, down_px=1.3, certainty=9))
    assert np.abs(back - smooth)[8:-8, 8:-8].max() < 0.004
    # An edge does not ring: nothing is brighter or darker than both sides.
    edge = np.zeros((40, 40, 3), np.float32)
    edge[:, 20:] = 1
    moved = moved_back(edge, Offset(right_px=0.5, down_px=0.0, certainty=9))
    assert moved.min() >= 0
    assert moved.max() <= 1


def test_large_frames_are_compared_at_full_size():
    noise = np.random.default_rng(8)
    large = np.kron(noise.integers(0, 255, (70, 50, 3)), np.ones((40, 40, 1))).astype(np.uint8)
    large = ndimage.gaussian_filter(large, (1, 1, 0))
    found = offset_between(large, np.roll(large, (5, -3), axis=(0, 1)))
    assert (found.right_px, found.down_px) == (pytest.approx(-3, abs=0.05), pytest.approx(5, abs=0.05))
    with pytest.raises(DomainError, match="cannot be compared"):
        offset_between(large, large[:100])


def test_frames_with_nothing_in_common_are_left_as_they_came():
    noise = np.random.default_rng(9)
    frames = [
        RealFrame(key=k, name=k, codes=noise.integers(0, 20, (300, 200, 3)).astype(np.uint8)) for k in ("a", "b")
    ]  # fmt: skip
    made = merged(frames, tone=Tone())
    assert made.aligned[1].by == ""
    assert not made.aligned[1].corrected
    assert "too little in common" in made.words[0]


def test_a_product_that_stands_elsewhere_takes_its_masks_along(plates):
    _, levels, _ = plates[0]
    predicted = luminance_of(encode_srgb(levels[0]).astype(np.uint8))
    # The same picture moved and enlarged by scipy: the fit must find by how much.
    scale, right, down = 1.02, 6.0, -4.0
    h, w = predicted.shape
    middle = np.array([(h - 1) / 2, (w - 1) / 2])
    offset = middle - (middle + np.array([down, right])) / scale
    shown = ndimage.affine_transform(predicted, np.full(2, 1 / scale), offset, order=1, mode="nearest")
    lies = fit_prediction(predicted, shown.astype(np.float32))
    assert lies.scale == pytest.approx(scale, abs=0.004)
    assert (lies.right * w, lies.down * w) == (pytest.approx(right, abs=1.0), pytest.approx(down, abs=1.0))
    still = fit_prediction(predicted, predicted)
    assert (still.scale, abs(still.right * w) < 0.2) == (1.0, True)


def test_masks_follow_where_the_product_lies():
    mask = np.zeros((50, 40), np.float32)
    mask[20:30, 10:20] = 1
    frame = RealFrame(key="a", name="A", codes=np.zeros((500, 400, 3), np.uint8), mask=mask)
    at_home = mask_on(frame, Lies())
    rows, columns = np.nonzero(at_home > 0.5)
    assert (rows.min(), columns.min()) == (pytest.approx(200, abs=1), pytest.approx(100, abs=1))
    away = mask_on(frame, Lies(right=0.1, down=0.05, scale=1.0))
    rows, columns = np.nonzero(away > 0.5)
    assert (rows.min(), columns.min()) == (
        pytest.approx(220, abs=1),
        pytest.approx(140, abs=1),
    )  # by hand: 0.1 and 0.05 of 400


def test_a_merge_is_the_composite_of_its_frames():
    # Independent way: frames as linear pictures through composite.composed, masks at full size.
    noise = np.random.default_rng(10)
    codes = [noise.integers(0, 255, (60, 80, 3)).astype(np.uint8) for _ in range(3)]
    mask = ndimage.gaussian_filter(noise.uniform(0, 1, (60, 80)), 3).astype(np.float32)
    frames = [
        RealFrame(key="a", name="A", codes=codes[0]), RealFrame(key="b", name="B", codes=codes[1], mask=mask, blend=OVER),
        RealFrame(key="c", name="C", codes=codes[2], gain=0.5),
    ]  # fmt: skip
    made = merged(frames, tone=Tone()).picture
    linear = code_levels(np.dtype(np.uint8))
    plates = [
        Plate(picture=linear[codes[0]]), Plate(picture=linear[codes[1]], mask=mask, blend=OVER),
        Plate(picture=linear[codes[2]], strength_stops=-1),
    ]  # fmt: skip
    wanted = encoded(composed(plates, (80, 60)), white=np.ones(3), tone=Tone())
    assert np.abs(made.astype(int) - wanted).max() <= 1


def test_sixteen_bits_hold_the_srgb_curve():
    # IEC 61966-2-1 by its own formula, in doubles.
    levels = np.linspace(0, 1, 3000, dtype=np.float32).reshape(10, 100, 3)
    codes = encoded(levels, white=np.ones(3), tone=Tone())
    v = levels.astype(np.float64)
    wanted = np.where(v <= 0.0031308, 12.92 * v, 1.055 * v ** (1 / 2.4) - 0.055) * 65535
    assert np.abs(codes - wanted).max() <= 1.0
    back = code_levels(np.dtype(np.uint16))[codes]
    assert np.abs(back - v).max() < 2e-5
    frame = RealFrame(key="a", name="A", codes=codes, gain=1.0)
    still = merged([frame], tone=Tone()).aligned[0]
    assert np.abs(as_laid(frame, still).astype(int) - codes).max() <= 1


def test_a_merge_is_called_off_and_refuses_what_does_not_fit():
    frame = RealFrame(key="a", name="A", codes=np.zeros((30, 30, 3), np.uint8))
    with pytest.raises(MergeCancelled):
        merged([frame], tone=Tone(), told=lambda done: done < 0.4)
    with pytest.raises(DomainError, match="no frame"):
        merged([], tone=Tone())
    other = RealFrame(key="b", name="B", codes=np.zeros((30, 31, 3), np.uint8))
    with pytest.raises(DomainError, match="another size"):
        merged([frame, other], tone=Tone())

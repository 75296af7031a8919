"""Reading lines, black frames and clipping."""

import math

import numpy as np
import pytest
from pytest import approx

from fotaxis.core.camera.exposure import Exposure
from fotaxis.core.errors import DomainError
from fotaxis.core.frames.black_frame import frame_verdict, room_verdict
from fotaxis.core.frames.clipping import clipped, crop_to_ratio
from fotaxis.core.frames.line_profile import (
    ReadingLine,
    bent_edges,
    find_highlights,
    luminance_along,
    product_edges,
    stretches,
)

ACROSS = ReadingLine(x0=0, y0=0.5, x1=1, y1=0.5)


def test_luminance_is_weighted_and_bilinear():
    picture = np.zeros((1, 4, 10, 3), np.float32)
    picture[0, :, 5:, 1] = 1.0
    along = luminance_along(picture, ACROSS, samples=11)
    # BT.709: green weighs 0.7152; the edge between columns 4 and 5 lies at part 0.5: half of it there.
    assert along[0, -1] == approx(0.7152)
    assert along[0, 5] == approx(0.3576)
    assert along[0, 0] == 0


def test_a_made_line_is_read_back():
    # Product from 20 % to 80 % of the line; a trapezoid line with its middle at +0.9 of the half width.
    x = np.linspace(0, 1, 2001)
    position = (x - 0.2) / 0.6 * 2 - 1
    levels = np.interp(position, [0.78, 0.86, 0.94, 0.96], [0, 0.72, 0.72, 0])
    (found,) = find_highlights(levels, position, (400, 1600))
    # By hand: half peak at 0.82 and 0.95, middle 0.885, width 0.13; peak 0.72 is +2 stops; 10-90 %: 80 % of each flank.
    assert found.place == approx(0.885, abs=2e-3)
    assert found.width == approx(0.13, abs=2e-3)
    assert found.peak_stops == approx(2.0, abs=1e-6)
    assert found.left_softness == approx(0.8 * 0.08, abs=2e-3)
    assert found.right_softness == approx(0.8 * 0.02, abs=2e-3)


def test_two_lines_come_strongest_first_and_darkness_has_none():
    x = np.linspace(-1, 1, 501)
    levels = 0.4 * (np.abs(x + 0.9) < 0.05) + 0.2 * (np.abs(x - 0.9) < 0.05)
    found = find_highlights(levels, x, (0, 500))
    assert [round(h.place, 1) for h in found] == [-0.9, 0.9]
    assert found[0].peak_stops - found[1].peak_stops == approx(1.0)
    assert find_highlights(np.zeros(501), x, (0, 500)) == []


def test_product_edges():
    mask = np.zeros((10, 100), bool)
    mask[:, 30:70] = True
    left, right = product_edges(mask, ACROSS)
    assert left == approx(0.30, abs=0.003)
    assert right == approx(0.70, abs=0.003)
    assert product_edges(np.zeros((10, 100), bool), ACROSS) is None


def test_a_line_without_length_is_refused():
    with pytest.raises(DomainError, match="length"):
        ReadingLine(x0=0.5, y0=0.5, x1=0.5, y1=0.5)


@pytest.mark.parametrize(("code", "holds"), [(0, True), (10, True), (14, None), (60, False)])
def test_black_frames(code, holds):
    # sRGB (IEC 61966-2-1): 10 -> 0.00304, 5.9 stops under grey; 12 -> 0.00368. Verdict edges at -6 and -5: common practice.
    level = np.full((40, 40, 3), code, np.uint8)
    verdict = frame_verdict(level)
    if code == 10:
        assert verdict.stops == approx(math.log2((10 / 255 / 12.92) / 0.18), abs=1e-3)
        holds = None if verdict.stops > -6 else True
    assert verdict.holds is holds


def test_single_hot_pixels_do_not_decide():
    frame = np.zeros((200, 200, 3), np.uint8)
    frame[5, 5] = 255
    assert frame_verdict(frame).holds is True


def test_a_small_lamp_does_decide():
    frame = np.zeros((200, 200, 3), np.uint8)
    frame[50:60, 50:60] = 90
    assert frame_verdict(frame).holds is False


def test_the_trades_own_example_of_a_black_frame():
    # Common practice: 1/50 f/2.8 shows the room, 1/250 f/8 is black: 5.3 stops less.
    room = Exposure(iso=100, shutter_s=1 / 50, f_number=2.8)
    work = Exposure(iso=100, shutter_s=1 / 250, f_number=8)
    difference = room_verdict(room_lux=100, exposure=room).stops - room_verdict(room_lux=100, exposure=work).stops
    assert difference == approx(5.3, abs=0.1)
    assert room_verdict(room_lux=0, exposure=work).holds is True


def test_clipping_masks():
    frame = np.full((10, 10, 3), 100, np.uint8)
    frame[0, :, 0] = 255
    frame[1] = 0
    found = clipped(frame)
    assert (found.white_share, found.black_share) == (approx(0.1), approx(0.1))


@pytest.mark.parametrize(
    ("shape", "ratio", "expected"),
    [((200, 300), 0.8, (200, 160)), ((300, 200), 0.8, (250, 200)), ((300, 200), 1.0, (200, 200))],
)
def test_crop_is_the_largest_middle_part(shape, ratio, expected):
    picture = np.zeros((*shape, 3), np.uint8)
    assert crop_to_ratio(picture, ratio).shape[:2] == expected


def test_a_label_beside_glass_makes_two_stretches_and_a_matte_part_none():
    bare = np.array([0] * 3 + [1] * 10 + [0] * 10 + [1] * 12 + [1] * 3 + [0] * 2, bool)
    zone = np.array([-1] * 3 + [7] * 10 + [9] * 10 + [7] * 12 + [8] * 3 + [-1] * 2)
    # By hand: glass 3..12, label, glass 23..34; three samples of another zone are too few.
    assert stretches(bare, zone) == [(3, 12), (23, 34)]


def test_a_mirror_image_that_nobody_sees_beside_what_is_brighter_is_no_line():
    x = np.linspace(-1, 1, 501)
    mirrored = 0.02 * (np.abs(x + 0.9) < 0.05)
    assert len(find_highlights(mirrored, x, (0, 500), shown=mirrored + 0.01)) == 1
    # 0.5 + 0.02 is 0.06 stops over 0.5: under the 0.3 that counts.
    assert find_highlights(mirrored, x, (0, 500), shown=mirrored + 0.5) == []


def test_the_rim_of_clear_glass_counts_where_it_is_brighter_than_what_lies_beside_it():
    x = np.linspace(-1.02, 1.02, 511)
    rim = np.where((np.abs(x) > 0.95) & (np.abs(x) <= 1), 0.4, 0.01)
    inside = np.flatnonzero(np.abs(x) <= 1)
    span = int(inside[0]), int(inside[-1])
    assert sorted(round(one.place, 2) for one in bent_edges(rim, x, span)) == [-0.97, 0.97]
    assert all(one.bent for one in bent_edges(rim, x, span))
    before_a_lit_wall = np.where(np.abs(x) > 0.95, 0.4, 0.01)
    assert bent_edges(before_a_lit_wall, x, span) == []

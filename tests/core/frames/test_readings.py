"""Named readings and differences, on pictures made by hand."""

from __future__ import annotations

import numpy as np
import pytest
from pytest import approx

from fotaxis.core.errors import DomainError
from fotaxis.core.frames.difference import NOISE_STOPS, as_grey, difference_stops
from fotaxis.core.frames.readings import READINGS
from fotaxis.core.frames.readings.dark_core import DarkCore, core_of
from fotaxis.core.frames.readings.edge import EdgeLine
from fotaxis.core.frames.readings.frame_spot import FrameSpot
from fotaxis.core.frames.readings.reading import LayeredFrame
from fotaxis.core.frames.readings.spot import ProductSpot, on_product

HEIGHT, WIDTH = 200, 160
LEFT, RIGHT, TOP, FOOT = 40, 119, 20, 179


def product():
    """A rectangle as the product's silhouette."""
    mask = np.zeros((HEIGHT, WIDTH), bool)
    mask[TOP : FOOT + 1, LEFT : RIGHT + 1] = True
    return mask


def frame_of(levels):
    """One layer at gain 1."""
    return LayeredFrame(pictures=levels[None], gains=np.ones(1), is_product=product())


def test_spots_lie_where_their_measure_says():
    mask = product()
    assert ProductSpot(across=-1, height=0).place(mask) == (FOOT, LEFT)
    assert ProductSpot(across=1, height=1).place(mask) == (TOP, RIGHT)
    assert ProductSpot(across=0, height=0.5).place(np.zeros_like(mask)) is None


def test_a_spot_put_on_the_product_is_found_again_in_its_measure():
    mask = product()
    spot = on_product(mask, x=0.4, y=0.6)
    assert spot.place(mask) == (120, 64)
    # The same product seen smaller and elsewhere: the spot goes with it.
    moved = np.zeros_like(mask)
    moved[60:140, 10:50] = True
    row, column = spot.place(moved)
    assert (row - 60) / 79 == approx((120 - TOP) / (FOOT - TOP), abs=0.01)
    assert (column - 10) / 39 == approx((64 - LEFT) / (RIGHT - LEFT), abs=0.02)
    assert on_product(mask, x=0.05, y=0.5) is None


def test_a_spot_says_how_much_of_it_each_light_makes():
    layers = np.zeros((3, HEIGHT, WIDTH, 3), np.float32)
    layers[1], layers[2] = 0.1, 0.3
    value = ProductSpot(across=0, height=0.5).read(
        LayeredFrame(pictures=layers, gains=np.array([1.0, 2.0, 0.5]), is_product=product())
    )
    # By hand: 2 * 0.1 + 0.5 * 0.3 = 0.35.
    assert value.level == approx(0.35, rel=1e-6)
    assert value.shares == approx([0, 0.2 / 0.35, 0.15 / 0.35], rel=1e-6)


def line_picture(*, at, half, low_stops, high_stops):
    """A soft bright line on black at a part of the half width, its peak in stops from grey going from foot to top."""
    x = (np.arange(WIDTH) - (LEFT + RIGHT) / 2) / ((RIGHT - LEFT) / 2)
    shape = np.exp(-(((x - at) / half) ** 2) * np.log(2))
    part = np.clip((FOOT - np.arange(HEIGHT)) / (FOOT - TOP), 0, 1)
    peak = 0.18 * 2.0 ** (low_stops + part * (high_stops - low_stops))
    return np.repeat((peak[:, None] * shape[None])[:, :, None], 3, axis=2).astype(np.float32)


def test_an_edge_line_is_read_over_its_height():
    levels = line_picture(at=-0.8, half=0.06, low_stops=1.0, high_stops=1.0)
    value = EdgeLine(left=True, low=0.1, high=0.9).read(frame_of(levels))
    # By hand: a bell with half width 0.06 at half its peak; the silhouette ends at the borders of its pixels, 40 from its middle.
    assert value.place == approx(-0.8 * 39.5 / 40, abs=0.01)
    assert value.width == approx(0.12, abs=0.03)
    assert value.peak_stops == approx(1.0, abs=0.05)
    assert value.uneven_stops < 0.05
    assert value.found == 1.0
    assert EdgeLine(left=False, low=0.1, high=0.9).read(frame_of(levels)) is None


def test_a_line_that_fades_upwards_is_uneven_by_what_it_fades():
    levels = line_picture(at=0.7, half=0.1, low_stops=2.0, high_stops=0.0)
    value = EdgeLine(left=False, low=0.0, high=1.0).read(frame_of(levels))
    # By hand: 2 stops over the whole height; the two outermost rows of 24 at either end do not count.
    assert value.uneven_stops == approx(2.0 * 19 / 23, abs=0.1)
    assert value.peak_stops == approx(1.0, abs=0.1)


def test_an_edge_line_upside_down_is_refused():
    with pytest.raises(DomainError, match="above its lower end"):
        EdgeLine(left=True, low=0.6, high=0.3)


def test_a_spot_beside_the_product_reads_where_it_was_put():
    levels = np.zeros((HEIGHT, WIDTH, 3), np.float32)
    levels[48:53, 78:83] = 0.5
    value = FrameSpot(x=0.5, y=0.25).read(frame_of(levels))
    assert value.level == approx(0.5, rel=1e-6)
    assert (value.x, value.y) == (approx(80.5 / WIDTH), approx(50.5 / HEIGHT))


@pytest.mark.parametrize(("left_end", "right_end"), [(-0.5, 0.5), (-0.3, 0.6)])
def test_the_dark_core_is_as_wide_as_it_was_made(left_end, right_end):
    # By hand: a dark stretch between two bright ones, with ramps a tenth of the half width long around its ends: half-way up them.
    x = (np.arange(WIDTH) - (LEFT + RIGHT) / 2) / ((RIGHT - LEFT) / 2)
    bright = np.maximum(np.clip((left_end - x) / 0.1 + 0.5, 0, 1), np.clip((x - right_end) / 0.1 + 0.5, 0, 1))
    row = 0.01 + 0.35 * bright
    levels = np.repeat(np.broadcast_to(row, (HEIGHT, WIDTH))[:, :, None], 3, axis=2).astype(np.float32)
    value = DarkCore(low=0.1, high=0.9).read(frame_of(levels))
    assert value.width == approx((right_end - left_end) / 2, abs=0.005)
    assert value.off == approx((left_end + right_end) / 4, abs=0.005)
    assert value.under_stops == approx(np.log2(0.36 / 0.01), abs=0.01)
    assert value.found == 1.0
    assert "centred" in value.words if left_end == -right_end else "right" in value.words
    for x_mark, y_mark in value.marks:
        assert 0 < x_mark < 1
        assert 0 < y_mark < 1


def test_without_bright_edges_there_is_no_core():
    assert core_of(np.full(80, 0.3)) is None
    one_sided = np.concatenate([np.full(20, 0.4), np.full(60, 0.01)])
    assert core_of(one_sided) is None
    assert DarkCore(low=0.1, high=0.9).read(frame_of(np.zeros((HEIGHT, WIDTH, 3), np.float32))) is None
    with pytest.raises(DomainError, match="above its lower end"):
        DarkCore(low=0.5, high=0.5)


def test_every_kind_of_reading_is_made_of_its_usual_values_and_reads():
    levels = line_picture(at=-0.8, half=0.06, low_stops=1.0, high_stops=1.0)
    assert len(READINGS) >= 4
    for kind in READINGS.values():
        given = {
            m.name: m.usual if m.usual is not None else m.choices[0] if hasattr(m, "choices") else 0.5 for m in kind.measures
        }
        value = kind.make(given).read(frame_of(levels))
        assert value is None or (value.short and value.words and value.marks)


def test_differences_are_in_stops_and_noise_is_none():
    one = np.full((4, 5, 3), 0.36, np.float32)
    two = np.full((4, 5, 3), 0.09, np.float32)
    assert difference_stops(one, two) == approx(np.full((4, 5), 2.0), abs=1e-6)
    assert difference_stops(two, one) == approx(np.full((4, 5), -2.0), abs=1e-6)
    black, nearly = np.zeros((4, 5, 3), np.float32), np.full((4, 5, 3), 0.18 * 2.0 ** (NOISE_STOPS - 2), np.float32)
    assert not difference_stops(black, nearly).any()
    grey = as_grey(np.array([[-3.0, 0.0, 3.0, 9.0]]))
    assert grey[0, :, 0].tolist() == [0, 128, 255, 255]
    with pytest.raises(DomainError, match="differ in size"):
        difference_stops(one, one[:3])

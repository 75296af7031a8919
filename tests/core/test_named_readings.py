"""Named readings and differences, on pictures made by hand."""

from __future__ import annotations

import numpy as np
import pytest
from pytest import approx

from fotaxis.core.errors import DomainError
from fotaxis.core.frames.difference import NOISE_STOPS, as_grey, difference_stops
from fotaxis.core.frames.readings import (
    EdgeLine,
    FrameSpot,
    ProductSpot,
    on_product,
    read_edge,
    read_spot,
    spot_place,
)

HEIGHT, WIDTH = 200, 160
LEFT, RIGHT, TOP, FOOT = 40, 119, 20, 179


def product():
    """A rectangle as the product's silhouette."""
    mask = np.zeros((HEIGHT, WIDTH), bool)
    mask[TOP : FOOT + 1, LEFT : RIGHT + 1] = True
    return mask


def test_spots_lie_where_their_measure_says():
    mask = product()
    assert spot_place(ProductSpot(across=-1, height=0), mask) == (FOOT, LEFT)
    assert spot_place(ProductSpot(across=1, height=1), mask) == (TOP, RIGHT)
    assert spot_place(FrameSpot(x=0.5, y=0.25), mask) == (50, 80)
    assert spot_place(ProductSpot(across=0, height=0.5), np.zeros_like(mask)) is None


def test_a_spot_put_on_the_product_is_found_again_in_its_measure():
    mask = product()
    spot = on_product(mask, x=0.4, y=0.6)
    assert spot_place(spot, mask) == (120, 64)
    # The same product seen smaller and elsewhere: the spot goes with it.
    moved = np.zeros_like(mask)
    moved[60:140, 10:50] = True
    row, column = spot_place(spot, moved)
    assert (row - 60) / 79 == approx((120 - TOP) / (FOOT - TOP), abs=0.01)
    assert (column - 10) / 39 == approx((64 - LEFT) / (RIGHT - LEFT), abs=0.02)
    assert on_product(mask, x=0.05, y=0.5) is None


def test_a_spot_says_how_much_of_it_each_light_makes():
    layers = np.zeros((3, HEIGHT, WIDTH, 3), np.float32)
    layers[1], layers[2] = 0.1, 0.3
    value = read_spot(ProductSpot(across=0, height=0.5), layers, np.array([1.0, 2.0, 0.5]), product())
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
    value = read_edge(EdgeLine(left=True, low=0.1, high=0.9), levels, product())
    # By hand: a bell with half width 0.06 at half its peak; a sample of the row is 2 / 239 half widths wide.
    assert value.place == approx(-0.8, abs=0.015)
    assert value.width == approx(0.12, abs=0.03)
    assert value.peak_stops == approx(1.0, abs=0.05)
    assert value.uneven_stops < 0.05
    assert value.found == 1.0
    assert read_edge(EdgeLine(left=False, low=0.1, high=0.9), levels, product()) is None


def test_a_line_that_fades_upwards_is_uneven_by_what_it_fades():
    levels = line_picture(at=0.7, half=0.1, low_stops=2.0, high_stops=0.0)
    value = read_edge(EdgeLine(left=False, low=0.0, high=1.0), levels, product())
    # By hand: 2 stops over the whole height; the two outermost rows of 24 at either end do not count.
    assert value.uneven_stops == approx(2.0 * 19 / 23, abs=0.1)
    assert value.peak_stops == approx(1.0, abs=0.1)


def test_an_edge_line_upside_down_is_refused():
    with pytest.raises(DomainError, match="above its lower end"):
        EdgeLine(left=True, low=0.6, high=0.3)


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

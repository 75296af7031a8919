"""What the kernels leave out because it cannot count, and the directions laid down for lobes.

Mean cosine of a von Mises-Fisher lobe, coth(kappa) - 1 / kappa: Mardia & Jupp, Directional Statistics, 2000.
"""

import math
import threading
import time

import numpy as np
import pytest
from pytest import approx

from fotaxis.core.geometry import planar
from fotaxis.core.render import parallel
from fotaxis.core.render.arrays.emitters import DIRECTION_SETS, STRAIGHT_TIGHT, below_horizon, direction_to_sample
from fotaxis.core.render.arrays.pack_emitters import pack_emitters, sample_lobes
from fotaxis.core.render.arrays.pack_static_scene import pack_static_scene
from fotaxis.core.render.final.sampling import sample_means
from fotaxis.core.render.parallel import in_bands
from fotaxis.core.render.transport.lobe_radiance import COUNTS, in_lobe
from tests import scenes
from tests.core.render.test_preview_cache import full_set


@pytest.fixture(scope="module")
def things():
    plan = full_set(scenes.plan())
    return pack_emitters(plan, pack_static_scene(plan), cells=34)


def unit(rng):
    v = rng.normal(size=3)
    return v / np.linalg.norm(v)


def samples_of(things, k, place):
    return [direction_to_sample(things.flats, things.samples, k, s, *place) for s in range(things.parts[k])]


def test_a_face_called_below_the_horizon_sends_a_place_nothing(things):
    rng, below = np.random.default_rng(1), 0
    for _ in range(300):
        place, normal = rng.uniform(-0.6, 0.6, 3), unit(rng)
        for k in range(len(things.light)):
            if below_horizon(things.flats, k, *place, *normal):
                below += 1
                assert all(np.dot(normal, way[:3]) <= 1e-12 for way in samples_of(things, k, place))
    assert below > 500


@pytest.mark.parametrize("distance", [0.05, 0.09, 0.3])
def test_a_bulb_near_the_horizon_is_not_lost(distance):
    ball = planar.row(
        centre=np.array([distance, 0.03, 0.0]), across=np.array([1.0, 0, 0]), up=np.array([0, 1.0, 0]),
        front=np.array([0, 0, 1.0]), half_width_m=0.04, half_height_m=0.04, shape=planar.BALL,
    )[None]  # fmt: skip
    assert not below_horizon(ball, 0, 0.0, 0.0, 0.0, 0.0, 1.0, 0.0)


def test_what_is_not_looked_at_lies_outside_a_lobe(things):
    rng, outside = np.random.default_rng(2), 0
    k = next(k for k in range(len(things.light)) if things.lobes[k, STRAIGHT_TIGHT] > 0)
    front = things.flats[k, 9:12]
    for tight in (8.0, 17.0, 60.0, 400.0):
        for _ in range(100):
            place, axis = rng.uniform(-0.6, 0.6, 3), unit(rng)
            found = in_lobe(things, k, *place, *axis, tight)
            for j in range(len(things.light)):
                if j == k or things.veil[j, 1] > 0 or found >> j & 1:
                    continue
                outside += 1
                # A lobe goes on from one side of its face: what comes from the other is no part of it.
                for way in samples_of(things, j, place):
                    if np.dot(way[:3], front) * np.dot(axis, front) > 0:
                        assert tight * (1 - np.dot(axis, way[:3])) > COUNTS
    assert outside > 1000


@pytest.mark.parametrize("kappa", [3.0, 17.0, 40.0, 900.0])
def test_directions_laid_down_are_those_of_the_lobe(kappa):
    directions, row = sample_lobes(((0.0, kappa), (0.0, 0.0)), (2, 6))
    assert row.tolist() == [[0, 0], [0, 0]]
    drawn = directions[0, :DIRECTION_SETS, :2].reshape(-1, 3)
    assert np.linalg.norm(drawn, axis=1) == approx(1.0)
    assert drawn[:, 0].mean() == approx(1 / math.tanh(kappa) - 1 / kappa, abs=0.02 / kappa)
    assert np.abs(drawn[:, 1:].mean(axis=0)).max() < 0.02 / math.sqrt(kappa)
    seen = directions[0, DIRECTION_SETS, :6]
    assert np.linalg.norm(seen, axis=1) == approx(1.0)
    assert len({round(float(c), 9) for c in seen[:, 0]}) == 6


def test_means_and_spans_of_samples():
    flat_ = np.random.default_rng(3).uniform(0, 1, (2, 5 * 7, 3)).astype(np.float32)
    mean, span = sample_means(flat_, 7)
    by_pixel = flat_.reshape(2, 5, 7, 3)
    assert mean == approx(by_pixel.mean(axis=2), rel=1e-5)
    assert span == approx(np.ptp(by_pixel.sum(axis=3), axis=2), rel=1e-5)


def test_bands_within_a_band_are_one():
    inner = in_bands(lambda a, b: in_bands(lambda c, d: (c, d), 5000, least=10), 40, least=1)
    assert len(inner) > 1
    assert all(part == [(0, 5000)] for part in inner)
    assert len(in_bands(lambda a, b: (a, b), 5000, least=10)) > 1


def test_bands_beside_a_page_leave_it_half_of_the_processors(monkeypatch):
    monkeypatch.setattr(parallel, "CORES", 2)

    def working():
        def work(first, last):
            time.sleep(0.01)
            return threading.get_ident(), last - first

        done = in_bands(work, 1000, least=10)
        assert sum(count for _, count in done) == 1000
        return len({thread for thread, _ in done})

    with parallel.beside_a_page():
        assert working() == 1
    assert working() == 2

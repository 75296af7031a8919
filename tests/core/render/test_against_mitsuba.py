"""The bottle scene against Mitsuba 3 (published reference renderer) at 640 x 800: where highlights end, how bright they are.

Mitsuba draws the same plan from its own meshes, materials and emitters (tests/mitsuba_scene.py), 256 samples a pixel.
"""

from dataclasses import replace

import numpy as np
import pytest
from scipy.ndimage import maximum_filter, minimum_filter, uniform_filter

from fotaxis.core.render.final.final_render import predict
from tests import mitsuba_scene, scenes

pytestmark = [pytest.mark.mitsuba, pytest.mark.filterwarnings("ignore")]

WIDTH, HEIGHT = 640, 800
LABEL_ROWS = slice(445, 605)
LABEL_COLUMNS = slice(256, 384)


def bottle():
    """Two edge panels, one even and one falling off by 2 stops across, and a square label light."""
    return scenes.plan(
        lights=(
            scenes.panel("left"),
            scenes.panel("right", x=0.42, turn=-50.0, gradient="ramp", stops=2.0),
            scenes.panel("label", x=0.25, y=0.8, z=0.9, turn=-164, tilt=-37, width=0.3, height=0.3),
        )
    )


@pytest.fixture(scope="module")
def ours():
    return predict(bottle(), long_side=HEIGHT).pictures[1:].sum(axis=0)[..., 1]


@pytest.fixture(scope="module")
def reference():
    return mitsuba_scene.rendered(bottle(), width=WIDTH, height=HEIGHT, passes=16)[..., 1]


def test_the_kept_references_are_what_the_reference_renderer_draws():
    # One small scene drawn anew beside its kept picture; its grain comes out a little different every time.
    kept = mitsuba_scene.rendered(bottle(), width=160, height=200, passes=4, seed=9)[..., 1]
    mitsuba = mitsuba_scene.load()
    scene = mitsuba_scene.scene(mitsuba, bottle(), width=160, height=200)
    anew = mitsuba_scene.render(mitsuba, scene, passes=4, seed=9)[..., 1]
    assert kept.sum() == pytest.approx(anew.sum(), rel=0.01)
    a, b = (blocks(picture, slice(0, 200), slice(0, 160), 20) for picture in (kept, anew))
    lit = b > 0.05 * b.max()
    assert lit.sum() > 10
    assert np.abs(a[lit] / b[lit] - 1).max() < 0.1


def crossings(row, other, level, covered):
    """Steep ends of highlights in `row`: where it passes half of the value just inside, and where `other` does, in pixels.

    covered: pixels that lie whole in a highlight. Ends that run nearly along the row, of which a row says little, are left
    to the other direction, and so is a row that only brushes a highlight: half of little is mostly the reference's grain.
    """
    found = []
    inside = row > level
    for step in np.flatnonzero(inside[1:] != inside[:-1]):
        if not 4 < step < len(row) - 6:
            continue
        deep, near, out = (step + 3, step + 1, step - 1) if inside[step + 1] else (step - 2, step, step + 2)
        steep = row[out] < 0.05 * row[deep] and row[near] > 0.5 * row[deep]
        if not (inside[deep] and covered[deep] and steep):
            continue
        half = row[deep] / 2
        places = []
        for picture in (row, other):
            part = picture[step - 3 : step + 5]
            flips = np.flatnonzero((part[1:] > half) != (part[:-1] > half))
            if len(flips) == 1:
                i = flips[0]
                places.append(step - 3 + i + (half - part[i]) / (part[i + 1] - part[i]))
        if len(places) == 2:
            found.append(places)
    return found


@pytest.mark.parametrize("across", [True, False], ids=["left and right", "up and down"])
def test_highlights_end_where_the_reference_has_them(ours, reference, across):
    a, b = (ours, reference) if across else (ours.T, reference.T)
    level = 0.1 * np.quantile(reference, 0.995)
    covered = b > 0.8 * maximum_filter(b, (3, 1))
    pairs = np.array([pair for y in range(len(a)) for pair in crossings(b[y], a[y], level, covered[y])])
    assert len(pairs) > (500 if across else 150)  # the comparison must not pass on an empty picture
    distance = np.abs(pairs[:, 0] - pairs[:, 1])
    # Target 0.5 px. Twenty-one places a pixel resolve 0.05 px; the reference's own grain at edges adds as much.
    assert distance.max() < 0.5
    assert np.mean(distance) < 0.06


def test_radiance_inside_highlights(ours, reference):
    # Where a 5 x 5 neighbourhood is one smooth highlight on coated black; label left out. Target 2 %.
    level = 0.1 * np.quantile(reference, 0.995)
    smooth = minimum_filter(ours, 5) > np.maximum(level, 0.4 * maximum_filter(ours, 5))
    smooth[LABEL_ROWS.start - 8 : LABEL_ROWS.stop + 10] = False
    assert smooth.sum() > 500
    ratio = (uniform_filter(ours, 3) / uniform_filter(reference, 3))[smooth]
    assert np.abs(ratio - 1).max() < 0.02
    assert abs(np.median(ratio) - 1) < 0.002


def blocks(picture, rows, columns, side=32):
    """Means over square blocks."""
    part = picture[rows, columns]
    return part.reshape(part.shape[0] // side, side, part.shape[1] // side, side).mean(axis=(1, 3))


def compared_on_the_label(picture, reference):
    return blocks(picture, LABEL_ROWS, LABEL_COLUMNS) / blocks(reference, LABEL_ROWS, LABEL_COLUMNS)


def test_light_on_the_label(ours, reference):
    # All light the reference finds in twelve events: direct, and thrown up by the gloss of the table.
    ratio = compared_on_the_label(ours, reference)
    assert np.abs(ratio - 1).max() < 0.02  # the target; the reference's grain is about 0.5 % a block
    assert abs(ratio.mean() - 1) < 0.005


def test_light_on_the_label_over_a_white_table():
    # Three events: camera, label, table, light; a fifth of the label's light comes from below.
    plan = bottle()
    plan = replace(plan, table=replace(plan.table, skin=scenes.PAPER))
    reference = mitsuba_scene.rendered(plan, width=WIDTH, height=HEIGHT, depth=3, passes=12, seed=40)[..., 1]
    picture = predict(plan, long_side=HEIGHT).pictures[1:].sum(axis=0)[..., 1]
    ratio = compared_on_the_label(picture, reference)
    assert np.abs(ratio - 1).max() < 0.02
    assert abs(ratio.mean() - 1) < 0.01


def test_the_table_mirrors_the_label():
    # The mirror image is the label, lit directly and by way of the table, dimmed by Fresnel at the table.
    plan = replace(bottle(), riser=None, camera=scenes.camera(height=0.25, aim=0.08))
    reference = mitsuba_scene.rendered(plan, width=WIDTH, height=HEIGHT, passes=8, seed=80)[..., 1]
    picture = predict(plan, long_side=HEIGHT).pictures[1:].sum(axis=0)[..., 1]
    rows, columns = slice(640, 704), slice(272, 368)
    ratio = blocks(picture, rows, columns) / blocks(reference, rows, columns)
    assert np.abs(ratio - 1).max() < 0.02

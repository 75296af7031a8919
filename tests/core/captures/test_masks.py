"""Masks from the set against plain geometry, feather against the error function, brush and gradient against distances."""

import math

import numpy as np
import pytest
from scipy.special import erf

from fotaxis.core.captures.areas import AREA_WORDS, ZONE, scene_areas
from fotaxis.core.captures.masks import BrushPart, DepthPart, GradientPart, ScenePart, feathered, halved, mask_of
from fotaxis.core.errors import DomainError
from fotaxis.core.render.preview.traced_scene import trace_scene
from fotaxis.formats import shot_file
from tests.formats import samples

SHOTS = ("gooseberry-with-glass", "elder-cordial", "gift-carton", "plum-preserve")


@pytest.fixture(scope="module", params=SHOTS)
def seen(request):
    plan = shot_file.read((samples.DEMO / f"{request.param}.json").read_bytes()).plan()
    stage = trace_scene(plan, width=240, height=300)
    return request.param, plan, stage, scene_areas(plan, stage)


def test_areas_cover_the_frame_once(seen):
    _, _, stage, areas = seen
    parts = [areas.area(name) for name in ("product", "table", "background")] + [
        areas.of(key) for key in areas.owners if key not in ("", "product", "table", "background", "riser")
    ]
    assert np.array_equal(sum(part.astype(int) for part in parts), np.ones((300, 240), int))
    assert np.array_equal(areas.area("product"), stage.is_product)
    assert np.array_equal(areas.area("beside"), ~stage.is_product)
    skins = areas.area("paper").astype(int) + areas.area("metal") + areas.area("glass")
    assert np.array_equal(skins, stage.is_product.astype(int))


def test_the_product_lies_where_plain_projection_has_it(seen):
    # Independent: its outline's heights and widths projected by the camera, two pixels for the edge and what is seen from above.
    _, plan, _, areas = seen
    rows, columns = np.nonzero(areas.area("product"))
    profile, lift = plan.product.profile, plan.lift_m
    _, top = plan.camera.project(np.array([0.0, lift + profile.top_m, 0.0]), width=240, height=300)
    reach = plan.product.reach_m
    nearest = plan.camera.place.z_m - reach
    spread = abs(plan.camera.place.y_m - lift - profile.top_m) * reach / max(nearest, 0.1) * areas.mm_px * 1000 + 2
    assert abs(rows.min() - top) < spread
    left, _ = plan.camera.project(np.array([-reach, lift, 0.0]), width=240, height=300)
    assert columns.min() >= left - 4
    assert (
        abs((columns.min() + columns.max() + 1) / 2 - areas.axis_x) < 40
    )  # cartons are turned: their middle is not the axis


def test_a_label_has_its_height_in_millimetres(seen):
    name, plan, _, areas = seen
    band = next((one for one in plan.product.bands if one.name == "Label"), None)
    if band is None:
        return
    mask = areas.area(ZONE, zone="Label")
    rows = np.flatnonzero(mask[:, int(areas.axis_x)])
    # Independent: both its edges on the side that faces the camera, projected.
    near = plan.product.profile.radius_at((band.low_m + band.high_m) / 2)
    ends = [
        plan.camera.project(np.array([0.0, plan.lift_m + height, near]), width=240, height=300)[1]
        for height in (band.high_m, band.low_m)
    ]
    assert (rows.min(), rows.max() + 1) == (pytest.approx(ends[0], abs=2), pytest.approx(ends[1], abs=2)), name


def test_liquid_ends_at_its_level():
    plan = shot_file.read((samples.DEMO / "gooseberry-with-glass.json").read_bytes()).plan()
    areas = scene_areas(plan, trace_scene(plan, width=240, height=300))
    rows = np.flatnonzero(areas.area("liquid").any(axis=1))
    vessel = plan.product.vessel
    front = np.array([0.0, plan.lift_m + vessel.level_m, plan.product.reach_m])
    _, level = plan.camera.project(front, width=240, height=300)
    assert rows.min() == pytest.approx(level, abs=3)


@pytest.mark.parametrize("feather", [1.0, 4.0, 11.0])
def test_a_feather_goes_from_a_tenth_to_nine_tenths_over_its_width(feather):
    # Textbook: a step smoothed by a Gaussian is the error function; 10 to 90 % is 2.563 standard deviations.
    step = np.zeros((5, 200), np.float32)
    step[:, 100:] = 1
    edge = feathered(step, feather)[2]
    x = np.arange(200) + 0.5 - 100
    sigma = feather / 2.563
    assert np.abs(edge - (1 + erf(x / (sigma * math.sqrt(2)))) / 2).max() < 0.06 / feather + 0.01
    low, high = (np.interp(level, edge, x) for level in (0.1, 0.9))
    assert high - low == pytest.approx(feather, rel=0.05, abs=0.35)


def test_an_area_and_all_but_it_add_up_to_everything(seen):
    _, _, _, areas = seen
    part = ScenePart(area="product", feather_mm=6)
    rest = ScenePart(area="product", feather_mm=6, invert=True)
    assert np.allclose(mask_of([part], areas) + mask_of([rest], areas), 1, atol=1e-6)
    taken = mask_of([ScenePart(area="product", feather_mm=6, how="take")], areas)
    assert np.allclose(taken, mask_of([rest], areas), atol=1e-6)
    assert mask_of([], areas) is None


def test_a_stroke_is_as_wide_as_its_brush(seen):
    _, _, _, areas = seen
    width, height = areas.size
    part = BrushPart(points=((0.2, 0.5), (0.8, 0.5)), radius=0.05, hard=1.0)
    mask = mask_of([part], areas)
    column = mask[:, width // 2]
    assert column.sum() == pytest.approx(2 * 0.05 * width, abs=1.0)
    assert mask[height // 2, int(0.1 * width)] == 0
    assert mask[height // 2, int(0.17 * width)] > 0.5  # its round end
    dot = BrushPart(points=((0.5, 0.5),), radius=0.1, hard=0.9)
    assert mask_of([dot], areas).sum() == pytest.approx(math.pi * (0.1 * width) ** 2, rel=0.15)


def test_a_gradient_falls_along_its_way(seen):
    _, _, _, areas = seen
    mask = mask_of([GradientPart(begin=(0.5, 0.25), end=(0.5, 0.75))], areas)
    column = mask[:, areas.size[0] // 2]
    assert column[0] == 1
    assert column[-1] == 0
    assert (np.diff(column) <= 1e-7).all()
    assert column[150] == pytest.approx(0.5, abs=0.02)  # by hand: its middle


def test_a_depth_parts_front_from_back(seen):
    _, plan, _, areas = seen
    axis = plan.camera.place.z_m
    near = mask_of([DepthPart(near_m=0.0, far_m=axis)], areas)
    far = mask_of([DepthPart(near_m=axis, far_m=math.inf)], areas)
    assert np.allclose(near + far, 1)
    assert (near[areas.area("background")] == 0).all()


def test_the_mean_of_four_keeps_the_whole():
    mask = np.random.default_rng(0).uniform(0, 1, (40, 60)).astype(np.float32)
    assert halved(mask).mean() == pytest.approx(mask.mean(), abs=1e-6)


def test_what_is_not_there_is_refused_by_name(seen):
    _, _, _, areas = seen
    with pytest.raises(DomainError, match="no zone named 'Crown'"):
        areas.area(ZONE, zone="Crown")
    with pytest.raises(DomainError, match="no area"):
        areas.area("horizon")
    with pytest.raises(DomainError, match="add or take"):
        ScenePart(area="product", how="maybe")
    with pytest.raises(DomainError, match="begins where it ends"):
        GradientPart(begin=(0.5, 0.5), end=(0.5, 0.5))
    with pytest.raises(DomainError):
        BrushPart(points=(), radius=0.1)
    with pytest.raises(DomainError):
        DepthPart(near_m=1.0, far_m=0.5)
    assert set(AREA_WORDS) >= {"product", "liquid", "left"}

"""Faces for highlights: against the mirror image in a plane and in a ball, and read in pictures of seeded subjects of every kind."""

import math
from dataclasses import replace

import numpy as np
import pytest
from pytest import approx

from fotaxis.core.camera.camera import picture_size
from fotaxis.core.constants import REC709_LUMINANCE
from fotaxis.core.errors import NoSolution
from fotaxis.core.frames.readings import NamedReading
from fotaxis.core.frames.readings.area import Area
from fotaxis.core.frames.readings.frame_area import FrameArea
from fotaxis.core.lights.calibration import Candela
from fotaxis.core.materials.catalogue import SKIN
from fotaxis.core.placement.mirror import plane_image, sphere_spot
from fotaxis.core.proposals.outlook import THE_CAMERA, highlight_ways, outlook
from fotaxis.core.proposals.panel import face_at, in_frame, nearest_clear
from fotaxis.core.proposals.space import space_of
from fotaxis.core.proposals.survey import looked_over, meets, zone_words
from fotaxis.core.proposals.ways import area_ways
from fotaxis.core.render.preview.traced_scene import trace_scene
from fotaxis.core.scene.product import Product
from fotaxis.core.scene.products.ball import Sphere
from fotaxis.core.scene.products.box import Box
from fotaxis.services.pictures import Pictures
from tests import scenes
from tests.core.proposals.subjects import CODEC, subject

SIDE = 400
SUBJECTS = 50
NO_FACE = (4, 10, 14)
"""Areas over an edge of their subjects."""


def staged(plan, side=SIDE):
    width, height = picture_size(ratio=plan.camera.crop_ratio, long_side=side)
    return trace_scene(plan, width=width, height=height)


def chromed(shape, **camera):
    return scenes.plan(
        product=Product(name="Made", shape=shape, body=SKIN["chrome"].skin), lights=(), riser=None, background=None, table=None,
        camera=scenes.camera(**camera),
    )  # fmt: skip


def lit_by(plan, face):
    light = replace(
        scenes.panel("face", calibration=Candela(value=3e5), power=0),
        width_m=face.width_m,
        height_m=face.height_m,
        stance=face.stance,
    )
    return replace(plan, lights=(light,))


def test_on_a_flat_face_it_stands_where_the_mirror_image_says():
    # Law of reflection: the way on from a place of a mirror comes from the eye's image behind it.
    plan = chromed(Box(width_m=0.2, height_m=0.3, depth_m=0.1), distance=1.2, height=0.4, aim=0.15, focal=0.05)
    stage = staged(plan, 800)
    area = Area(low=0.4, high=0.6, begin=-0.3, end=0.5)
    ways = area_ways(plan, stage.scene, stage.is_product, area)
    eye = plan.camera.place.array()
    image = plane_image(point=eye, on_plane=np.array([0, 0, 0.05]), normal=np.array([0.0, 0, 1]))
    for place, way in zip(ways.places.reshape(-1, 3), ways.ways.reshape(-1, 3), strict=True):
        straight = place - image
        assert way @ straight / np.linalg.norm(straight) > math.cos(math.radians(0.1))
    face = face_at(ways, 0.6)
    centre = ways.centre
    way = (centre - image) / np.linalg.norm(centre - image)
    apart = face.place.array() - centre
    assert np.linalg.norm(apart - (apart @ way) * way) < 0.005
    assert math.degrees(face.turn_rad) % 360 == approx(math.degrees(math.atan2(-way[0], -way[2])) % 360, abs=0.5)
    grown = (np.linalg.norm(centre - image) + apart @ way) / np.linalg.norm(centre - image)
    wide = float(np.ptp(ways.places[..., 0]))
    assert face.width_m == approx(1.04 * grown * wide, rel=0.02)  # the margin that a face has around


@pytest.mark.parametrize(("low", "begin"), [(0.45, -0.05), (0.6, 0.2), (0.3, -0.5), (0.7, 0.4)])
def test_on_a_ball_it_stands_where_alhazen_says(low, begin):
    # Alhazen's problem, solved by its own quartic: the eye sees the face's middle in the very middle of the area.
    plan = chromed(Sphere(diameter_m=0.1), distance=0.8, height=0.12, aim=0.05, focal=0.1)
    stage = staged(plan, 800)
    ways = area_ways(plan, stage.scene, stage.is_product, Area(low=low, high=low + 0.04, begin=begin, end=begin + 0.04))
    face = face_at(ways, 0.5)
    spot = sphere_spot(centre=np.array([0, 0.05, 0]), radius_m=0.05, eye=plan.camera.place.array(), light=face.place.array())
    assert spot == approx(ways.centre, abs=5e-4)


def some_area(seed):
    random = np.random.default_rng(1000 + seed)
    wide, tall = float(random.uniform(0.15, 0.5)), float(random.uniform(0.06, 0.2))
    begin, low = float(random.uniform(-0.8, 0.8 - wide)), float(random.uniform(0.3, 0.9 - tall))
    return Area(low=low, high=low + tall, begin=begin, end=begin + wide)


@pytest.mark.parametrize("seed", range(SUBJECTS))
def test_an_asked_highlight_is_covered_on_every_subject(seed):
    plan, area = CODEC.plan(subject(seed)), some_area(seed)
    stage = staged(plan)
    try:
        ways = area_ways(plan, stage.scene, stage.is_product, area)
        face = nearest_clear(plan, ways)
    except NoSolution as why:
        # An area over an edge, or one that would have to be lit from where the camera looks through.
        assert "mark less of it" in str(why) or "hole for the lens" in str(why)
        assert seed in NO_FACE
        return
    own = highlight_ways(plan, stage.scene, ways, width=stage.width, height=stage.height)
    geometric = float((meets(plan, own, [face], camera=False).face == 0).mean())
    lit = lit_by(plan, face)
    pictures = Pictures()
    pictures.fine(lit, long_side=SIDE)
    value = pictures.named(lit, (NamedReading(key="area", name="Area", at=area),), long_side=SIDE)["area"]
    assert value is not None
    if geometric > 0.99:
        assert value.covered > 0.98
    else:  # the table hides the rest, as is told
        assert value.covered == approx(geometric, abs=0.03)
        assert plan.table is not None
    if value.covered > 0.98 and not in_frame(plan, face):
        # Independent of what a reading looks up: the picture's own pixels, well inside the area.
        rows, columns = inside(stage.is_product, area)
        made = pictures.fine(lit, long_side=SIDE).levels().astype(float) @ np.array(REC709_LUMINANCE)
        levels = made[rows, columns]
        assert (levels > 0.2 * np.quantile(levels, 0.9)).mean() > 0.98


def inside(is_product, area):
    """Rows and columns of the pixels within an area, two pixels in from its sides; by plain arithmetic on the silhouette."""
    found = np.flatnonzero(is_product.any(axis=1))
    top, foot = found[0], found[-1]
    rows, columns = [], []
    for row in range(round(foot - area.high * (foot - top)) + 1, round(foot - area.low * (foot - top))):
        across = np.flatnonzero(is_product[row])
        left, wide = across[0], across[-1] + 1 - across[0]
        some = range(int(left + (area.begin + 1) / 2 * wide) + 2, int(left + (area.end + 1) / 2 * wide) - 1)
        rows += [row] * len(some)
        columns += some
    return np.array(rows), np.array(columns)


def test_beyond_the_area_a_flat_face_stays_dark():
    plan = chromed(Box(width_m=0.2, height_m=0.3, depth_m=0.1), distance=1.2, height=0.4, aim=0.15, focal=0.05)
    area = Area(low=0.4, high=0.6, begin=-0.3, end=0.5)
    stage = staged(plan)
    lit = lit_by(plan, face_at(area_ways(plan, stage.scene, stage.is_product, area), 0.6))
    made = Pictures().fine(lit, long_side=SIDE).levels().astype(float) @ np.array(REC709_LUMINANCE)
    bright = made > 0.5 * made.max()
    rows, columns = np.nonzero(bright)
    front = np.flatnonzero(stage.is_product[int(np.median(rows))])
    half = (front[-1] + 1 - front[0]) / 2
    across = (np.array([columns.min(), columns.max() + 1]) - front[0]) / half - 1
    # Asked from -0.3 to 0.5; 2 % of the width beyond on either side, 0.7 of a pixel for what a reading rounds, and a pixel's edge.
    assert across == approx([-0.3, 0.5], abs=0.045)


def test_water_mirrors_where_the_camera_height_says():
    # A level mirror: light seen at a place comes from as steep as the camera looks down there. Law of reflection.
    plan = scenes.plan(lights=(), background=None, camera=scenes.camera(distance=1.5, height=0.6, aim=0.1, focal=0.06))
    stage = staged(plan)
    ways = area_ways(plan, stage.scene, stage.is_product, FrameArea(x=0.1, y=0.78, to_x=0.25, to_y=0.85))
    down = ways.places - plan.camera.place.array()
    down /= np.linalg.norm(down, axis=2, keepdims=True)
    assert ways.ways[ways.there] == approx((down * [1, -1, 1])[ways.there], abs=2e-3)
    face = nearest_clear(plan, ways)
    assert face.place.z_m < 0 < face.place.y_m


def test_matte_and_empty_places_are_refused_with_what_to_ask_for():
    plan = scenes.plan(lights=(), background=None)
    stage = staged(plan)
    with pytest.raises(NoSolution, match="ask for a level"):
        area_ways(plan, stage.scene, stage.is_product, Area(low=0.2, high=0.35, begin=-0.4, end=0.4))
    with pytest.raises(NoSolution, match="nothing is seen"):
        area_ways(plan, stage.scene, stage.is_product, FrameArea(x=0.02, y=0.02, to_x=0.1, to_y=0.1))


def test_before_the_lens_no_panel_stands():
    # A flat face square to the camera mirrors the lens itself: anything nearer stands in the way, anything behind it is hidden.
    plan = chromed(Box(width_m=0.2, height_m=0.3, depth_m=0.1), distance=3.0, height=0.15, aim=0.15, focal=0.1)
    stage = staged(plan)
    with pytest.raises(NoSolution, match="hole for the lens"):
        nearest_clear(plan, area_ways(plan, stage.scene, stage.is_product, Area(low=0.4, high=0.6, begin=-0.2, end=0.2)))


def test_the_camera_hides_the_part_of_a_panel_behind_it_that_it_covers():
    # By hand: seen from the mirror, lens and body are a disc of 9 cm radius before a panel that the highlight shows all of; of an area
    # 40 x 40 cm where the camera stands the disc takes pi 0.09^2 / 0.16 = 16 %.
    plan = chromed(Box(width_m=0.4, height_m=0.4, depth_m=0.05), distance=1.0, height=0.2, aim=0.2, focal=0.04)
    stage = staged(plan)
    half = 0.5  # of the half width: the mirror image of 0.4 m at the lens is 0.2 m on the face
    area = Area(low=0.5 - half / 2, high=0.5 + half / 2, begin=-half, end=half)
    ways = area_ways(plan, stage.scene, stage.is_product, area)
    face = face_at(ways, 1.6)
    own = highlight_ways(plan, stage.scene, ways, width=stage.width, height=stage.height)
    whole = looked_over(plan, stage.scene, stage.is_product)
    told = outlook(plan, face, own, whole, zone_words(plan, stage.scene, whole), [])
    hidden = dict(told.hidden)
    assert hidden[THE_CAMERA] == approx(math.pi * 0.09**2 / 0.4**2, abs=0.05)
    assert told.covered == approx(1 - hidden[THE_CAMERA], abs=0.02)


def test_the_space_a_line_can_be_lit_from_holds_every_face_for_it():
    plan = CODEC.plan(subject(8))
    stage = staged(plan)
    ways = area_ways(plan, stage.scene, stage.is_product, some_area(8))
    space = space_of(plan, ways)
    for distance in (0.3, 0.6, 1.2):
        middle = face_at(ways, distance).place.array()
        assert holds(space.floor, middle[[0, 2]])
        assert holds(space.side, middle[[2, 1]])
    away = face_at(ways, 0.6).place.array() * [-1, 1, 1]
    assert not holds(space.floor, away[[0, 2]]) or abs(away[0]) < 0.1


def holds(corners, place):
    """Does a convex outline hold a place? By the side of every edge that it lies on."""
    edges = np.roll(corners, -1, axis=0) - corners
    toward = place - corners
    turn = edges[:, 0] * toward[:, 1] - edges[:, 1] * toward[:, 0]
    return (turn >= -1e-9).all() or (turn <= 1e-9).all()

"""Pointing at the frame: what is there, by what way, how bright; and where a thing's mirror image lies."""

from __future__ import annotations

import math
from dataclasses import replace

import numpy as np
import pytest
from pytest import approx

from fotaxis.core.constants import REC709_LUMINANCE
from fotaxis.core.placement.mirror import plane_image, sphere_spot
from fotaxis.core.render.arrays.pack_emitters import face_keys, pack_emitters
from fotaxis.core.render.arrays.pack_static_scene import pack_static_scene, surface_owners
from fotaxis.core.render.final.final_render import render_final
from fotaxis.core.render.final.quality import SCREEN
from fotaxis.core.render.layers import layer_gains, mixed
from fotaxis.core.render.preview.render_preview import render_preview
from fotaxis.core.render.preview.traced_scene import trace_scene
from fotaxis.core.render.probe import mirror_images, probe_pixel, seen_at
from fotaxis.core.scene.product import Product
from fotaxis.core.scene.products.ball import Sphere
from tests import material_scenes, scenes

WIDTH, HEIGHT = 160, 200


def bottle():
    return scenes.plan(room_lux=3.0)


def glass():
    plan = material_scenes.filled_bottle(coloured=True)
    return replace(plan, table=scenes.plan().table, background=scenes.plan().background)


@pytest.mark.parametrize("make", [bottle, glass])
def test_the_parts_of_a_spot_add_up_to_what_the_picture_shows_there(make):
    plan = make()
    stage, gains = trace_scene(plan, width=WIDTH, height=HEIGHT), layer_gains(plan)
    pixels = np.arange(50, WIDTH * HEIGHT, 997)
    _, levels, _ = render_preview(stage, plan, gains=gains, pixels=pixels)
    looked = probe_pixel(stage, plan, gains=gains)
    for pixel, level in zip(pixels, levels @ np.array(REC709_LUMINANCE), strict=True):
        seen = seen_at(looked, x=(pixel % WIDTH + 0.5) / WIDTH, y=(pixel // WIDTH + 0.5) / HEIGHT)
        # The same paths summed one by one; what makes under a hundredth is not told but counted in the level.
        assert seen.level == approx(level, rel=1e-4, abs=1e-7)
        assert sum(part.level for part in seen.parts) <= seen.level * (1 + 1e-6)


def test_a_highlight_on_a_ball_is_the_panel_mirrored_where_alhazen_says():
    # Source of the place: Alhazen's problem, placement.mirror.sphere_spot.
    radius = 0.05
    to_ball = np.array([0.4, radius - 0.3, -0.5])
    turn, tilt = math.atan2(to_ball[0], to_ball[2]), math.atan2(to_ball[1], math.hypot(to_ball[0], to_ball[2]))
    panel = scenes.panel(
        "key", x=-0.4, y=0.3, z=0.5, turn=math.degrees(turn), tilt=math.degrees(tilt), width=0.04, height=0.04
    )
    ball = Product(name="Ball", shape=Sphere(diameter_m=2 * radius), body=scenes.BLACK_GLASS)
    camera = scenes.camera(height=radius, aim=radius, focal=0.2)
    plan = replace(scenes.bare(scenes.cylinder(), lights=(panel,), cam=camera), product=ball)
    stage, gains = trace_scene(plan, width=WIDTH, height=HEIGHT), layer_gains(plan)
    centre, eye = np.array([0.0, radius, 0.0]), plan.camera.place.array()
    spot = sphere_spot(centre=centre, radius_m=radius, eye=eye, light=panel.stance.place.array())
    x, y = plan.camera.project(spot, width=1, height=1)
    seen = seen_at(probe_pixel(stage, plan, gains=gains), x=x, y=y)
    assert (seen.here, seen.parts[0].key, seen.parts[0].by) == ("product", "key", ("product",))
    way = seen.parts[0].way
    assert way[1] == approx(spot, abs=2e-3)
    assert way[-1] == approx(panel.stance.place.array(), abs=0.03)


def test_the_way_of_a_highlight_obeys_the_law_of_reflection():
    plan = scenes.bare(scenes.cylinder(), lights=(scenes.panel("left"),))
    stage, gains = trace_scene(plan, width=WIDTH, height=HEIGHT), layer_gains(plan)
    looked = probe_pixel(stage, plan, gains=gains)
    mask = mirror_images(stage, plan)["left"]
    row, column = np.argwhere(mask)[len(np.argwhere(mask)) // 2]
    part = seen_at(looked, x=(column + 0.5) / WIDTH, y=(row + 0.5) / HEIGHT).parts[0]
    assert (part.key, part.by) == ("left", ("product",))
    eye, place, end = part.way
    into, out = place - eye, end - place
    bisector = out / np.linalg.norm(out) - into / np.linalg.norm(into)
    bisector /= np.linalg.norm(bisector)
    radius = math.hypot(place[0], place[2])
    # By hand: on an upright wall the normal is level and points away from the axis.
    assert bisector == approx([place[0] / radius, 0.0, place[2] / radius], abs=2e-3)


def test_the_table_shows_a_panel_where_its_mirror_image_lies():
    # Source: method of images, placement.mirror.plane_image.
    panel = scenes.panel("key", x=0.12, y=0.06, z=-0.1, turn=0.0, width=0.1, height=0.1)
    plan = replace(scenes.plan(), lights=(panel,), cards=(), riser=None)
    plan = replace(plan, camera=scenes.camera(height=0.4, aim=0.0, focal=0.06))
    stage = trace_scene(plan, width=WIDTH, height=HEIGHT)
    mask = mirror_images(stage, plan)["key"]
    corner = panel.stance.place.array() + np.array([0.05, -0.05, 0.0])
    image = plane_image(point=corner, on_plane=np.zeros(3), normal=np.array([0.0, 1.0, 0.0]))
    x, y = plan.camera.project(image, width=WIDTH, height=HEIGHT)
    assert 3 < x < WIDTH - 3, "the corner's image must lie in the frame"
    assert 3 < y < HEIGHT - 3, "the corner's image must lie in the frame"
    row, column = int(y) + 2, int(x)
    assert mask[row, column - 3]
    assert not mask[row, column + 3]
    assert not mask[row - 5, column - 3]


@pytest.mark.parametrize("make", [bottle, glass])
def test_every_surface_and_every_face_has_an_owner(make):
    plan = make()
    still = pack_static_scene(plan)
    assert len(surface_owners(plan)) == len(still.flats) + len(still.bodies)
    assert len(face_keys(plan)) == len(pack_emitters(plan, still).light)


def test_glass_shows_what_stands_behind_by_way_of_itself():
    plan = glass()
    stage = trace_scene(plan, width=WIDTH, height=HEIGHT)
    looked = probe_pixel(stage, plan, gains=layer_gains(plan))
    middle = np.argwhere(stage.is_product).mean(axis=0)
    ways = [seen_at(looked, x=middle[1] / WIDTH, y=y) for y in np.linspace(0.35, 0.8, 12)]
    assert any(part.by[:1] == ("product",) for seen in ways for part in seen.parts)
    assert {seen.here for seen in ways} == {"product"}


def test_a_spot_on_the_label_says_so():
    plan = bottle()
    label = replace(plan.product.bands[0], name="Label")
    plan = replace(plan, product=replace(plan.product, bands=(label,)))
    stage = trace_scene(plan, width=WIDTH, height=HEIGHT)
    looked = probe_pixel(stage, plan, gains=layer_gains(plan))
    middle = plan.lift_m + (label.low_m + label.high_m) / 2
    for height, zone in ((middle, "Label"), (middle + 0.07, "")):
        x, y = plan.camera.project(np.array([0.0, height, plan.product.profile.radius_at(0.1)]), width=1, height=1)
        assert (seen_at(looked, x=x, y=y).here, seen_at(looked, x=x, y=y).zone) == ("product", zone)


@pytest.mark.parametrize("make", [material_scenes.brushed_can, lambda: matte_foil(), lambda: satin_ball()])
def test_a_blurred_mirror_tells_what_it_shows_as_a_sharp_one_does(make):
    """Foil, brushed and satin metal: the lights, by name; the parts add up to what the picture shows."""
    plan = make()
    stage, gains = trace_scene(plan, width=WIDTH, height=HEIGHT), layer_gains(plan)
    looked = probe_pixel(stage, plan, gains=gains)
    pixels = np.flatnonzero(stage.is_product.ravel())[::97]
    levels = mixed(render_final(stage, plan, quality=SCREEN), gains).reshape(-1, 3)[pixels]
    shown = levels @ np.array(REC709_LUMINANCE)
    bright = shown > 0.02 * shown.max()
    told = []
    for pixel, level in zip(pixels[bright], shown[bright], strict=True):
        seen = seen_at(looked, x=(pixel % WIDTH + 0.5) / WIDTH, y=(pixel // WIDTH + 0.5) / HEIGHT)
        told.append(seen.level / level)
        assert seen.parts[0].key in {light.key for light in plan.lights}
        assert seen.parts[0].by == ("product",)
    assert len(told) > 10
    # The picture's nodes are asked by fewer directions than a spot that is pointed at.
    assert np.median(told) == approx(1.0, abs=0.05)
    assert np.quantile(np.abs(np.log2(told)), 0.9) < 0.4


def matte_foil():
    plan = material_scenes.foil_on_carton()
    foil = replace(plan.product.bands[0], skin=replace(plan.product.bands[0].skin, roughness=0.3))
    return replace(plan, product=replace(plan.product, body=foil.skin, bands=()))


def satin_ball():
    plan = material_scenes.brushed_can()
    satin = replace(plan.product.body, roughness=0.35, brush="none")
    return replace(plan, product=replace(plan.product, shape=Sphere(diameter_m=0.08), body=satin))

"""A strip mirrored far smaller than a pixel neither comes and goes nor is brighter than it is."""

from dataclasses import replace
from functools import lru_cache

import numpy as np
import pytest
from pytest import approx

from fotaxis.core.camera.camera import picture_size
from fotaxis.core.materials.fresnel import reflectance
from fotaxis.core.render.final.final_render import render_final
from fotaxis.core.render.final.quality import FINAL, SCREEN
from fotaxis.core.render.preview.traced_scene import trace_scene
from fotaxis.core.scene.product import Product
from fotaxis.core.scene.products.ball import Sphere
from tests import scenes

RADIUS = 0.04
STRIP = scenes.panel("strip", x=-1.5, y=0.3, z=0.6, turn=112, width=0.005, height=0.6)


def ball_before(strip, aside):
    cam = scenes.camera(distance=1.2, height=0.1, aim=0.04)
    cam = replace(cam, place=replace(cam.place, x_m=aside), aim=replace(cam.aim, x_m=aside))
    plan = scenes.bare(scenes.cylinder(), lights=(strip,), cam=cam)
    return replace(plan, product=Product(name="Ball", shape=Sphere(diameter_m=2 * RADIUS), body=scenes.BLACK_GLASS))


@lru_cache
def light_of_the_highlight(plan):
    """Mean of the picture by rays of our own: the ball's part of it in 6000 by 6000 places, mirrored, met with the strip."""
    eye, (right, up, ahead), (half_w, half_h) = plan.camera.place.array(), plan.camera.basis(), plan.camera.half_field
    centre = np.array([0, RADIUS, 0])
    middle = centre - eye
    reach = 1.05 * RADIUS / (middle @ ahead)
    steps = (np.arange(6000) + 0.5) / 6000 * 2 - 1
    across, rise = reach * steps + middle @ right / (middle @ ahead), reach * steps + middle @ up / (middle @ ahead)
    turn, front = STRIP.stance, None
    angle = turn.turn_rad
    front, side = np.array([np.sin(angle), 0, np.cos(angle)]), np.array([np.cos(angle), 0, -np.sin(angle)])
    total = 0.0
    for y in rise:
        ray = ahead + across[:, None] * right + y * up
        ray /= np.linalg.norm(ray, axis=1, keepdims=True)
        b = ray @ (eye - centre)
        inside = b * b - (eye - centre) @ (eye - centre) + RADIUS**2
        hit = inside > 0
        ray, t = ray[hit], (-b - np.sqrt(np.maximum(inside, 0)))[hit]
        place = eye + t[:, None] * ray
        normal = (place - centre) / RADIUS
        facing = (ray * normal).sum(axis=1)
        off = ray - 2 * facing[:, None] * normal
        t = ((turn.place.array() - place) @ front) / (off @ front)
        on = place + t[:, None] * off - turn.place.array()
        met = (t > 0) & (np.abs(on @ side) < STRIP.width_m / 2) & (np.abs(on[:, 1]) < STRIP.height_m / 2) & (off @ front < 0)
        total += sum(reflectance(-float(c), 1.5) for c in facing[met])
    share = (2 * reach / 6000) ** 2 / (4 * half_w * half_h)
    return total * share * STRIP.full_luminance


@pytest.mark.parametrize("quality", [SCREEN, FINAL], ids=["screen", "file"])
@pytest.mark.parametrize("aside", [0.0, 0.0003, 0.0011])
def test_a_strip_in_a_ball_has_its_light_at_every_size(aside, quality):
    plan = ball_before(STRIP, aside)
    expected = light_of_the_highlight(plan)
    for side, within in ((200, 0.15), (400, 0.12), (800, 0.05)):
        width, height = picture_size(ratio=0.8, long_side=side)
        picture = render_final(trace_scene(plan, width=width, height=height), plan, quality=quality).pictures[1, ..., 1]
        assert float(picture.mean()) == approx(expected, rel=within)

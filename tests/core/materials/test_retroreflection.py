"""Cloth that mirrors light back to where it came from."""

import math
from dataclasses import replace

import numpy as np
import pytest
from pytest import approx

from fotaxis.core.errors import DomainError
from fotaxis.core.lights.calibration import Candela
from fotaxis.core.materials.bsdf import ALBEDO_STEPS, rough_coat_albedo
from fotaxis.core.materials.catalogue import SKIN
from fotaxis.core.materials.material import Skin
from fotaxis.core.render.final.final_render import predict
from fotaxis.core.render.final.quality import FINAL, SCREEN
from fotaxis.core.scene.product import Product
from fotaxis.core.scene.products.box import Box
from fotaxis.core.values import Reflectance
from tests import scenes

CLOTH = SKIN["retroreflective cloth"].skin
DISTANCE = 1.5


def shown(skin, *, turn_deg=0.0, beside=0.06, quality=FINAL, side=80):
    """What a box's front shows in the middle of the frame, of one small light beside the lens."""
    light = scenes.panel(
        x=beside, y=0.15, z=DISTANCE, turn=180 + math.degrees(math.atan(beside / DISTANCE)), width=0.004, height=0.004,
        calibration=Candela(value=100), power=0,
    )  # fmt: skip
    shape = Box(width_m=0.2, height_m=0.3, depth_m=0.02, edge_m=0.001)
    box = Product(name="Box", shape=shape, body=skin, turn_rad=math.radians(turn_deg))
    plan = replace(scenes.bare(scenes.cylinder(), lights=(light,)), product=box)
    picture = predict(plan, long_side=side, quality=quality).pictures[1, ..., 1]
    middle = picture[side // 2 - 1 : side // 2 + 1, picture.shape[1] // 2 - 1 : picture.shape[1] // 2 + 1]
    return float(middle.mean())


def expected_lobe(turn_deg, beside):
    """By hand: E F D G / (4 cos cos), its light turned about the normal.   Source: Walter et al. 2007, equations 20, 33, 34."""
    turn = math.radians(turn_deg)
    normal = np.array([math.sin(turn), 0, math.cos(turn)])
    lens, light = np.array([0, 0, DISTANCE]), np.array([beside, 0, DISTANCE])
    at = np.array([0.0, 0.0, 0.01 / math.cos(turn)])  # where the axis meets the front
    way, to_light = lens - at, light - at
    away = float(np.linalg.norm(to_light))
    v, light_way = way / np.linalg.norm(way), to_light / away
    back = 2 * (light_way @ normal) * normal - light_way
    half = (v + back) / np.linalg.norm(v + back)
    alpha = CLOTH.roughness**2
    cos_v, cos_l, cos_h = float(v @ normal), float(light_way @ normal), float(half @ normal)
    dense = alpha**2 / (math.pi * (cos_h**2 * (alpha**2 - 1) + 1) ** 2)

    def shadowed(cosine):
        return (math.sqrt(1 + alpha**2 * (1 / cosine**2 - 1)) - 1) / 2

    visible = 1 / (1 + shadowed(cos_v) + shadowed(cos_l))
    head_on = ((CLOTH.coat_index - 1) / (CLOTH.coat_index + 1)) ** 2
    illuminance = 100 * cos_l / away**2  # the lamp's face looks at the axis
    return illuminance * head_on * float(half @ v) * dense * visible / (4 * cos_v * cos_l)


@pytest.mark.parametrize("turn_deg", [0.0, 30.0, 50.0])
@pytest.mark.parametrize("beside", [0.03, 0.06, 0.12])
def test_the_lobe_goes_back_to_the_light(turn_deg, beside):
    # Less the same cloth that mirrors nothing that way, but has the same coat over its matte part.
    plain = replace(CLOTH, returns=False)
    dull = shown(plain, turn_deg=40.0, beside=beside) * math.cos(math.radians(turn_deg)) / math.cos(math.radians(40))
    lobe = shown(CLOTH, turn_deg=turn_deg, beside=beside) - dull
    assert lobe == approx(expected_lobe(turn_deg, beside), rel=0.05, abs=0.1 * dull)


def test_it_blazes_beside_the_lens_and_is_grey_elsewhere():
    # Such cloth looks middle grey in daylight: common practice.
    paper = Skin(reflectance=Reflectance.grey(0.2))
    stops = [
        math.log2(shown(CLOTH, turn_deg=30.0, beside=b) / shown(paper, turn_deg=30.0, beside=b)) for b in (0.02, 0.1, 0.5)
    ]
    assert stops[0] > 6
    assert 1.5 < stops[1] < 5
    assert abs(stops[2]) < 0.4
    mirror = replace(CLOTH, returns=False)
    assert math.log2(shown(mirror, turn_deg=30.0, beside=0.02) / shown(paper, turn_deg=30.0, beside=0.02)) < 0.5


def test_the_screen_shows_what_the_file_does():
    for beside in (0.02, 0.1):
        assert shown(CLOTH, turn_deg=20.0, beside=beside, quality=SCREEN) == approx(
            shown(CLOTH, turn_deg=20.0, beside=beside), rel=0.05
        )


def test_it_gives_back_no_more_than_it_gets():
    share = np.array(rough_coat_albedo(CLOTH.coat_index, *CLOTH.roughness_along, 1.0))
    head_on = ((CLOTH.coat_index - 1) / (CLOTH.coat_index + 1)) ** 2
    assert share[ALBEDO_STEPS] == approx(head_on, rel=0.01)
    assert (np.diff(share) > -1e-4).all()  # less and less the more it is turned away
    cosine = math.sqrt(0.5)
    assert share[ALBEDO_STEPS // 2] == approx(head_on * cosine, rel=0.02)


@pytest.mark.parametrize("wrong", [{"coat_index": 0.0}, {"roughness": 0.0}, {"metal": SKIN["chrome"].skin.metal}])
def test_what_mirrors_back_needs_a_rough_coat(wrong):
    with pytest.raises(DomainError, match="mirrors light back"):
        replace(CLOTH, **wrong)

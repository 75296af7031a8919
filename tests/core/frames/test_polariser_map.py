"""Where a polariser helps: Malus by hand, Fresnel on a black gloss face, metal left alone, and the picture at the best turn."""

import math
from dataclasses import replace

import numpy as np
import pytest
from pytest import approx

from fotaxis.core.camera.filters import Polariser
from fotaxis.core.constants import REC709_LUMINANCE
from fotaxis.core.frames.polariser_map import TURNS_RAD, polariser_map
from fotaxis.core.lights.calibration import Candela
from fotaxis.core.materials.catalogue import SKIN
from fotaxis.core.materials.fresnel import reflectance_sp
from fotaxis.core.scene.product import Product
from fotaxis.core.scene.products.box import Box
from fotaxis.services.pictures import Pictures
from fotaxis.services.polariser import mapped, painted, words
from tests import scenes

SIDE = 200


def test_four_turns_give_every_turn():
    # By hand: 0.3 + 0.2 cos 2(phi - 30 deg): from 0.5 down to 0.1, darkest at 120 degrees, which is -60.
    turns = np.array(TURNS_RAD)
    levels = 0.3 + 0.2 * np.cos(2 * (turns - math.radians(30)))
    found = polariser_map(np.tile(levels[:, None, None], (1, 2, 3)))
    assert found.stops == approx(np.full((2, 3), math.log2(5)))
    assert np.degrees(found.best_rad) == approx(np.full((2, 3), -60.0))
    assert found.at(math.radians(77))[0, 0] == approx(0.3 + 0.2 * math.cos(2 * math.radians(77 - 30)))


def slab(material, turn_deg):
    """A flat face turned away from the camera by an angle, mirroring a large panel."""
    shape = Box(width_m=0.16, height_m=0.16, depth_m=0.02)
    product = Product(name="Slab", shape=replace(shape, turn_rad=math.radians(turn_deg)) if hasattr(shape, "turn_rad") else shape,
                      body=SKIN[material].skin, turn_rad=math.radians(turn_deg))  # fmt: skip
    # The way on from the face turned by t leaves at 2 t from the camera's axis.
    away = math.radians(2 * turn_deg)
    x, z = 1.2 * math.sin(away), 1.2 * math.cos(away)
    light = scenes.panel(
        "p", x=x, y=0.08, z=z, turn=2 * turn_deg + 180, width=1.0, height=1.0, calibration=Candela(value=4000), power=0
    )
    return scenes.plan(
        product=product, table=None, riser=None, background=None, lights=(light,),
        camera=scenes.camera(distance=3.0, height=0.08, aim=0.08, focal=0.2),
    )  # fmt: skip


@pytest.mark.parametrize("turn_deg", [30.0, 45.0])
def test_gloss_darkens_by_what_fresnel_says(turn_deg):
    plan = slab("black gloss", turn_deg)
    found, zones = mapped(Pictures(), plan, long_side=SIDE)
    index = SKIN["black gloss"].skin.coat_index
    s, p = reflectance_sp(math.cos(math.radians(turn_deg)), index)
    zone = next(one for one in zones if one.name == "Slab")
    # Born & Wolf, section 1.5.2: of what a face mirrors s over p is left between both turns.
    assert zone.stops == approx(math.log2(s / p), abs=0.25)
    assert math.degrees(zone.turn_rad) % 180 == approx(90, abs=4)  # what stands upright goes at a quarter turn
    assert "Slab" in words(zones)
    shown = painted(found)
    assert shown.shape[2] == 4
    assert shown[..., 3].max() > 100


def test_metal_is_left_alone():
    _, zones = mapped(Pictures(), slab("chrome", 30.0), long_side=SIDE)
    assert next(one for one in zones if one.name == "Slab").stops < 0.3


def test_at_the_turn_that_is_told_the_picture_is_darkest():
    # Independent of the map: pictures with the filter at that turn, and at others.
    plan = slab("black gloss", 45.0)
    pictures = Pictures()
    _, zones = mapped(pictures, plan, long_side=SIDE)
    best = next(one for one in zones if one.name == "Slab").turn_rad

    def level(turn):
        turned = replace(plan, before_lens=replace(plan.before_lens, polariser=Polariser(turn_rad=turn)))
        made = pictures.fine(turned, long_side=SIDE).levels().astype(float) @ np.array(REC709_LUMINANCE)
        return float(made[pictures.product_of(turned, long_side=SIDE)].mean())

    others = [level(math.radians(deg)) for deg in (-60, -20, 20, 60)]
    assert level(best) < min(others)

"""A lamp that shows through a weak frost: against the integral over the sheet, and no discs anywhere."""

import math
from dataclasses import replace

import numpy as np
import pytest
from pytest import approx
from scipy.ndimage import gaussian_filter

from fotaxis.core.geometry import orientation
from fotaxis.core.lights.calibration import Candela
from fotaxis.core.lights.card_finishes import FINISH
from fotaxis.core.lights.fixtures import Card, Emission, Lamp
from fotaxis.core.lights.heads import PLAIN
from fotaxis.core.render.arrays.pack_static_scene import pack_static_scene
from fotaxis.core.render.final.final_render import predict
from fotaxis.core.render.final.quality import SCREEN
from fotaxis.core.render.lighting import FINE, lighting
from tests import scenes

LAMP = Lamp(
    key="lamp", name="Lamp", stance=scenes.stance(0.1, 0.4, 2.0, 180), head=PLAIN, diameter_m=0.06,
    emission=Emission(calibration=Candela(value=1000), power_stops=0),
)  # fmt: skip


SIX_DEGREES = math.radians(6)


def frost(width=1.2, spread=SIX_DEGREES, x=0.0):
    finish = replace(
        FINISH["light frost"], straight=0.6, spread_rad=spread, through=type(FINISH["light frost"].through).grey(0.0)
    )
    return Card(
        key="frost", name="Frost", stance=scenes.stance(x, 0.4, 0.8, 180), width_m=width, height_m=width, finish=finish
    )


def lux(places, **changes):
    plan = scenes.bare(scenes.cylinder(radius=0.001, height=0.002), lights=(LAMP,), **changes)
    rows = np.array([[*place, 0, 0, 1.0, 0, 1] for place in places], np.float32)
    return lighting(plan, pack_static_scene(plan), FINE).direct(rows)[:, 0, 1]


def by_integral(place, sheet):
    """Over the sheet: what each place of it shows to ours, the lamp's luminance spread by the lobe.   Source: Fisher 1953."""
    across, up, front = orientation.axes(turn_rad=sheet.stance.turn_rad, tilt_rad=0.0)
    u = (np.arange(600) + 0.5) / 600 - 0.5
    on = sheet.stance.place.array() + u[:, None, None] * sheet.width_m * across + u[None, :, None] * sheet.width_m * up
    each = (sheet.width_m / 600) ** 2
    to = on - place
    d = np.linalg.norm(to, axis=2)
    w = to / d[..., None]
    lamp = LAMP.stance.place.array() - on  # as good as a point from here: 6 cm at 1.2 m
    far = np.linalg.norm(lamp, axis=2)
    beam = lamp / far[..., None]
    kappa = 1 / sheet.finish.spread_rad**2
    lobe = kappa / (2 * math.pi) * np.exp(kappa * ((w * beam).sum(axis=2) - 1))
    intensity = LAMP.full_luminance * math.pi * 0.03**2 * np.abs(beam[..., 2])
    shown = sheet.finish.straight * lobe * intensity / far**2
    return float((shown * w[..., 2] * np.abs(w @ front) / d**2 * each).sum())


@pytest.mark.parametrize("spread", [math.radians(3), math.radians(6)])
def test_light_through_a_frost_is_the_integral_over_it(spread):
    places = [(0.0, 0.4, 0.0), (0.3, 0.1, -0.2), (-0.5, 0.6, -0.5), (0.62, 0.4, 0.0)]  # the last one at the sheet's edge
    sheet = frost(spread=spread)
    got = lux(places, cards=(sheet,))
    expected = [by_integral(np.array(place), sheet) for place in places]
    assert got[:3] == approx(expected[:3], rel=0.03)
    bright = max(expected)
    assert got[3] == approx(expected[3], abs=0.03 * bright)


def test_no_discs_on_wall_and_ball():
    # Whole picture of a wall behind a frost of 1.2 m, lens spot 2 m off: it changes slowly everywhere.
    wall = replace(scenes.plan().background, distance_m=0.6, skin=scenes.PAPER)
    spot = replace(LAMP, stance=scenes.stance(-1.4, 1.0, 1.4, 135, -25))
    sheet = replace(frost(), finish=FINISH["light frost"], stance=scenes.stance(-0.6, 0.5, 0.6, 135, -20))
    plan = scenes.bare(scenes.cylinder(radius=0.001, height=0.002), lights=(spot,), cards=(sheet,))
    plan = replace(plan, background=wall, camera=scenes.camera(distance=1.6, height=0.2, aim=0.2, focal=0.05))
    picture = predict(plan, long_side=200, quality=SCREEN).pictures[1, ..., 1]
    assert picture.min() > 0
    fine = picture / gaussian_filter(picture, 6) - 1
    assert np.abs(fine[8:-8, 8:-8]).max() < 0.02

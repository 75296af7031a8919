"""Octagons, wrinkles, mirrors, holes, cut and bent cards, barn doors, blades, moved lamps, coloured LEDs, the sun."""

import math
from dataclasses import replace
from datetime import UTC, datetime, timedelta, timezone

import numpy as np
import pytest
from pytest import approx

from fotaxis.core.errors import DomainError
from fotaxis.core.lights.calibration import Candela
from fotaxis.core.lights.card_finishes import FINISH
from fotaxis.core.lights.colour import hue_rgb
from fotaxis.core.lights.fixtures import Card, Emission, Lamp, Panel
from fotaxis.core.lights.gobos import Gate
from fotaxis.core.lights.heads import HEAD, PLAIN
from fotaxis.core.lights.sun import sun_at
from fotaxis.core.render.arrays.emitters import face_profile
from fotaxis.core.render.arrays.pack_emitters import pack_emitters
from fotaxis.core.render.arrays.pack_static_scene import pack_static_scene
from fotaxis.core.render.arrays.subdivide import places_of, strips_of
from fotaxis.core.render.final.final_render import predict
from fotaxis.core.render.lighting import fine_lighting
from tests import scenes

SPECK = scenes.cylinder(radius=0.001, height=0.002)
FULL = Emission(calibration=Candela(value=1000), power_stops=0)
OCTAGON = {"octagon": True, "emission": FULL}


def lamp(x=0.0, y=0.2, z=1.0, turn=180.0, tilt=0.0, **more) -> Lamp:
    made = {"head": PLAIN, "diameter_m": 0.1, "emission": FULL, **more}
    return Lamp(key="lamp", name="Lamp", stance=scenes.stance(x, y, z, turn, tilt), **made)


def card(finish, x, y, z, turn, *, tilt=0.0, width=0.5, height=0.5, **more) -> Card:
    stance = scenes.stance(x, y, z, turn, tilt)
    return Card(key="card", name="Card", stance=stance, width_m=width, height_m=height, finish=FINISH[finish], **more)


def lux(plan, places, normal) -> np.ndarray:
    """Light arriving at places (n, 3), facing along normal, summed over lights, green."""
    rows = np.array([[*place, *normal, 0.0, 1.0] for place in places], np.float32)
    return fine_lighting(plan).direct(rows)[:, :, 1].sum(axis=1)


def polygon_form(corners, place, normal) -> float:
    """Lambert's closed form of an even polygon of luminance 1 all above the horizon, by hand from the textbook formula."""
    v = [np.subtract(c, place) / np.linalg.norm(np.subtract(c, place)) for c in corners]
    total = 0.0
    for a, b in zip(v, [*v[1:], v[0]], strict=True):
        cross = np.cross(a, b)
        total += math.acos(np.clip(a @ b, -1, 1)) * float(cross @ normal) / np.linalg.norm(cross)
    return abs(total) / 2


def test_an_octagon_lights_as_the_closed_form_of_its_eight_corners_says():
    box = Panel(
        key="octa",
        name="Octa",
        stance=scenes.stance(0, 0.2, 0.9, 180),
        width_m=0.9,
        height_m=0.9,
        octagon=True,
        emission=FULL,
    )
    plan = scenes.bare(SPECK, lights=(box,))
    inner = math.sqrt(2) - 1
    corners = [
        (0.45 * x, 0.2 + 0.45 * y, 0.9)
        for x, y in ((1, -inner), (1, inner), (inner, 1), (-inner, 1), (-1, inner), (-1, -inner), (-inner, -1), (inner, -1))
    ]
    places = [(0.0, 0.3, 0.0), (0.3, 0.2, 0.1), (-0.2, 0.0, 0.4)]
    expected = [box.full_luminance * polygon_form(corners, place, (0, 0, 1)) for place in places]
    assert lux(plan, places, (0, 0, 1)) == approx(expected, rel=0.02)
    assert box.full_luminance == approx(1000 / (0.9**2 * 2 * inner), rel=1e-6)  # area of a regular octagon


def test_an_octagon_is_seen_with_its_corners_cut():
    box = Panel(
        key="octa",
        name="Octa",
        stance=scenes.stance(0, 0.15, -0.5, 0),
        width_m=0.5,
        height_m=0.5,
        octagon=True,
        emission=FULL,
    )
    picture = predict(scenes.bare(SPECK, lights=(box,), cam=scenes.camera(focal=0.05)), long_side=100).pictures[1, ..., 1]
    lit = picture > 0.5 * picture.max()
    assert lit.sum() == approx(2 * (math.sqrt(2) - 1) * lit.any(axis=0).sum() * lit.any(axis=1).sum(), rel=0.05)


def test_wrinkles_show_in_the_face_and_leave_its_light():
    smooth = scenes.panel("box", calibration=Candela(value=1000), power=0)
    folded = replace(smooth, wrinkles=1.0)
    plans = [scenes.bare(SPECK, lights=(box,)) for box in (smooth, folded)]
    shape = pack_emitters(plans[1], pack_static_scene(plans[1])).shape
    at = np.linspace(-1, 1, 60)
    values = np.array([[face_profile(shape, 0, u, v) for u in at] for v in at])
    assert values.mean() == approx(1, abs=0.02)
    assert 0.1 < values.std() < 0.3
    assert lux(plans[1], [(0.0, 0.2, 0.0)], (-1, 0, 0)) == approx(lux(plans[0], [(0.0, 0.2, 0.0)], (-1, 0, 0)), rel=1e-6)


def test_a_mirror_lights_as_its_lamp_would_from_behind_it():
    # Method of images: a mirror at x = 0.5 shows a lamp at (0.3, 0.2, 0.4), turned to it, at (0.7, 0.2, 0.4).
    light = lamp(0.1, 0.2, 0.4, turn=60)
    mirror = card("mirror card", 0.5, 0.2, 0.0, -90, width=2.0, height=2.0)
    image = replace(light, stance=scenes.stance(0.9, 0.2, 0.4, -60))
    places = [(0.0, 0.2, 0.1), (0.1, 0.1, 0.6), (0.2, 0.4, 0.2)]
    by_mirror = lux(scenes.bare(SPECK, lights=(light,), cards=(mirror,)), places, (1, 0, 0))
    without = lux(scenes.bare(SPECK, lights=(light,)), places, (1, 0, 0))
    expected = lux(scenes.bare(SPECK, lights=(image,)), places, (1, 0, 0))
    assert by_mirror - without == approx(0.89 * expected, rel=0.005)
    small = card("mirror card", 0.5, 0.2, -0.8, -90, width=0.2, height=0.2)  # nowhere on the way
    assert lux(scenes.bare(SPECK, lights=(light,), cards=(small,)), places, (1, 0, 0)) == approx(without, rel=1e-6)
    flag = replace(card("black card", 0.4, 0.2, 0.4, -90, width=0.6, height=0.6), key="flag")
    assert lux(scenes.bare(SPECK, lights=(light,), cards=(mirror, flag)), places, (1, 0, 0)) == approx(without, abs=1e-3)


def test_a_mirror_shows_its_lamp_as_hard_as_it_is():
    light = lamp(0.0, 0.15, 1.2, turn=180)
    mirror = card("mirror card", 0.0, 0.15, -0.5, 0)
    cam = scenes.camera(distance=0.8, height=0.15, aim=0.15, focal=0.08)
    cam = replace(
        cam, place=replace(cam.place, x_m=0.2), aim=replace(cam.aim, x_m=0.147)
    )  # towards the lamp's image at (0, -2.2)
    picture = predict(scenes.bare(SPECK, lights=(light,), cards=(mirror,), cam=cam), long_side=120).pictures[1, ..., 1]
    assert picture.max() == approx(0.89 * light.full_luminance, rel=1e-3)
    assert ((picture > 0.02 * picture.max()) & (picture < 0.98 * picture.max())).sum() < 0.3 * (picture > 0).sum()


def test_a_card_with_a_hole_lets_the_camera_through_and_throws_the_rest():
    light = lamp(0.4, 0.4, 0.2, turn=-34, tilt=-19)
    hole = card("white card", 0.0, 0.19, 0.8, 180, width=0.6, height=0.6, hole_m=0.1)
    whole = replace(hole, hole_m=0.0)
    place, normal = [(0.0, 0.15, 0.3)], (0, 0, 1)
    dark = lux(scenes.bare(SPECK, lights=(light,)), place, normal)
    thrown = [lux(scenes.bare(SPECK, lights=(light,), cards=(c,)), place, normal) - dark for c in (whole, hole)]
    assert 0.9 < float(thrown[1][0] / thrown[0][0]) < 1  # the hole is 2 % of the card, and lies where it counts most
    # In the room's even light a whole card is even; through the hole the middle of the picture is as without a card.
    parts = [
        predict(scenes.plan(cards=cards), long_side=60).pictures[0, 26:34, 20:28, 1] for cards in ((whole,), (hole,), ())
    ]
    assert np.median(np.abs(parts[1] - parts[2])) < 1e-6
    assert np.ptp(parts[0]) < 1e-6 < np.ptp(parts[2])


def test_a_card_is_cut_to_the_products_outline():
    cut = card("white card", 0.0, 0.15, -0.3, 0, width=0.2, height=0.5, like_product=True)
    light = lamp(0.0, 0.2, 1.2, turn=180)
    cam = scenes.camera(distance=1.5, height=0.15, aim=0.15, focal=0.06)
    bottle = scenes.plan(lights=(light,), cards=(cut,), table=None, riser=None, background=None, camera=cam)
    speck = replace(bottle, product=replace(bottle.product, z_m=0.0))
    picture = predict(speck, long_side=150).pictures[1, ..., 1]
    widths = [(picture[row] > 0.02 * picture.max()).sum() for row in (48, 100)]
    assert widths[0] < 0.65 * widths[1]  # the neck against the body


def test_barn_doors_cut_the_beam_on_their_side():
    # The lamp looks along -z; seen from behind it its left is -x.
    open_ = lamp(0, 0.2, 1.0, 180, doors=tuple(math.radians(a) for a in (90, 90, 90, 90)))
    places = [(x, 0.2, 0.0) for x in (-0.8, -0.3, 0.3, 0.8)]
    bare = lux(scenes.bare(SPECK, lights=(lamp(0, 0.2, 1.0, 180),)), places, (0, 0, 1))
    assert lux(scenes.bare(SPECK, lights=(open_,)), places, (0, 0, 1)) == approx(bare, rel=1e-6)
    left = replace(open_, doors=(0.0, *open_.doors[1:]))
    seen = lux(scenes.bare(SPECK, lights=(left,)), places, (0, 0, 1)) / bare
    # A door 11 cm long straight ahead from the rim: by hand, from x = -0.8 all of the face is hidden, from +0.3 and +0.8 none.
    assert seen[0] < 0.05
    assert seen[1] < 0.95
    assert seen[2:] == approx([1, 1], rel=1e-6)
    top = replace(open_, doors=(*open_.doors[:2], 0.0, open_.doors[3]))
    up_down = lux(scenes.bare(SPECK, lights=(top,)), [(0, 1.0, 0.0), (0, -0.6, 0.0)], (0, 0, 1))
    assert up_down[0] < 0.05 * up_down[1]


def spot(**gate) -> Lamp:
    return lamp(
        0, 0.2, 1.0, 180, head=HEAD["focusing spot"], diameter_m=0.04, gate=Gate(**{"focus_m": 1.0, "blur": 0.0, **gate})
    )


def across(light, xs) -> np.ndarray:
    return lux(scenes.bare(SPECK, lights=(light,)), [(x, 0.2, 0.0) for x in xs], (0, 0, 1))


def test_a_blade_from_the_left_darkens_the_right_of_the_image():
    # The lamp looks along -z: seen from behind it, right is +x.
    radius = math.tan(math.radians(12))
    xs = np.array([-0.5, -0.1, 0.1, 0.5]) * radius
    open_, bladed = across(spot(), xs), across(spot(blades=(0.5, 0, 0, 0)), xs)
    assert open_.min() > 0
    assert bladed[:2] == approx(open_[:2], rel=0.01)
    assert bladed[2:].max() < 0.02 * open_.max()
    below = lux(scenes.bare(SPECK, lights=(spot(blades=(0, 0, 0.5, 0)),)), [(0, 0.1, 0.0), (0, 0.3, 0.0)], (0, 0, 1))
    assert below[0] < 0.02 * below[1]  # from above: the lower half


def test_the_image_is_sharp_at_its_distance_and_soft_by_the_lens_elsewhere():
    xs = np.linspace(-0.06, 0.06, 241)
    widths = []
    for focus in (1.0, 2.0):
        row = across(spot(blades=(0.5, 0, 0, 0), focus_m=focus), xs)
        part = row / row.max()
        widths.append(float(np.interp(-0.1, -part, xs) - np.interp(-0.9, -part, xs)))
    assert widths[0] < 0.012
    # By hand: focused at 2 m, a place at 1 m gathers from 4 cm * (1 - 1/2) = 2 cm of a round lens; 10 to 90 % of its edge 1.4 cm.
    assert widths[1] == approx(0.014, abs=0.005)


def test_a_bent_reflector_gathers_light_before_it():
    light = lamp(0.0, 0.2, 1.5, turn=180, diameter_m=0.06)
    flat = card("silver card", 0.0, 0.2, -0.3, 0, width=0.3, height=0.3)
    bent = replace(flat, bend_rad=math.radians(60))
    radius = 0.3 / math.radians(60)
    place = [(0.02, 0.2, -0.3 + radius / 2)]
    got = []
    for one in (flat, bent):
        plan = scenes.bare(SPECK, lights=(light,), cards=(one,))
        got.append(float(lux(plan, place, (0, 0, -1))[0]))
    assert got[1] > 1.25 * got[0]  # half the radius before it: the focus of a hollow mirror
    strips = strips_of(bent)
    assert sum(s.width_m for s in strips) == approx(0.3, rel=0.01)
    assert strips[0].stance.place.z_m == approx(strips[-1].stance.place.z_m)
    assert strips[0].stance.place.z_m > flat.stance.place.z_m


def test_a_moved_torch_is_the_mean_of_its_places_and_flashes_add():
    burning = replace(FULL, continuous=True)
    end = scenes.stance(0.6, 0.2, 1.0, 180)
    moved = lamp(-0.6, 0.2, 1.0, 180, way=(end,), emission=burning)
    still = [lamp(x, 0.2, 1.0, 180, emission=burning) for x in np.linspace(-0.6, 0.6, 61)]
    places = [(0.0, 0.2, 0.0), (0.4, 0.1, 0.2)]
    mean = np.mean([lux(scenes.bare(SPECK, lights=(one,)), places, (0, 0, 1)) for one in still], axis=0)
    assert lux(scenes.bare(SPECK, lights=(moved,)), places, (0, 0, 1)) == approx(mean, rel=0.01)
    once, thrice = (lux(scenes.bare(SPECK, lights=(lamp(pops=n),)), places, (0, 0, 1)) for n in (1, 4))
    assert thrice == approx(4 * once)  # each doubling of flashes is a stop: common practice
    painted = lamp(-0.6, 0.2, 1.0, 180, way=(end,), pops=5)
    assert [at.light.stance.place.x_m for at in places_of(painted)] == approx([-0.6, -0.3, 0.0, 0.3, 0.6])
    assert all(at.share == 1 for at in places_of(painted))


def test_a_moved_lamp_is_one_light_of_the_set():
    moved = lamp(-0.3, 0.4, 0.8, 160, way=(scenes.stance(0.3, 0.4, 0.8, -160),), emission=replace(FULL, continuous=True))
    plan = scenes.plan(lights=(moved, scenes.panel("left")))
    layers = predict(plan, long_side=60)
    assert layers.keys == ("room", "lamp", "left")
    assert layers.pictures[1].max() > 0


def test_hues_of_a_coloured_led():
    third = 2 * math.pi / 3
    assert [hue_rgb(hue_rad=n * third, saturation=1.0).tolist() for n in range(3)] == [
        approx([1, 0, 0], abs=1e-12), approx([0, 1, 0], abs=1e-12), approx([0, 0, 1], abs=1e-12),
    ]  # fmt: skip
    assert hue_rgb(hue_rad=third / 2, saturation=1.0) == approx([1, 1, 0])
    assert hue_rgb(hue_rad=1.0, saturation=0.0) == approx([1, 1, 1])
    red = replace(FULL, hue_rad=0.0).colour(5600)
    assert red @ np.array([0.2126, 0.7152, 0.0722]) == approx(0.2126, rel=0.02)  # 2.2 stops less than white


def test_the_sun_stands_where_published_tables_have_it():
    # Worked example of Reda & Andreas, Solar Position Algorithm (2003): zenith 50.11162, azimuth 194.34024 degrees.
    moment = datetime(2003, 10, 17, 12, 30, 30, tzinfo=timezone(timedelta(hours=-7)))
    sun = sun_at(latitude_deg=39.742476, longitude_deg=-105.1786, when=moment)
    assert 90 - math.degrees(sun.elevation_rad) == approx(50.11162, abs=0.03)
    assert math.degrees(sun.bearing_rad) == approx(194.34024, abs=0.03)


def test_the_sun_at_equinox_and_solstice():
    # Textbook: over the equator at noon of an equinox it stands overhead; on the tropic at the June solstice likewise.
    noon = sun_at(latitude_deg=0, longitude_deg=0, when=datetime(2024, 3, 20, 12, 7, tzinfo=UTC))
    assert math.degrees(noon.elevation_rad) == approx(90, abs=0.5)
    tropic = sun_at(latitude_deg=23.44, longitude_deg=0, when=datetime(2024, 6, 20, 12, 2, tzinfo=UTC))
    assert math.degrees(tropic.elevation_rad) == approx(90, abs=0.5)
    assert noon.illuminance_lux == approx(127_500 * math.exp(-0.21), rel=1e-3)
    low = sun_at(latitude_deg=60, longitude_deg=0, when=datetime(2024, 12, 21, 12, tzinfo=UTC))
    assert low.illuminance_lux < 0.5 * noon.illuminance_lux
    assert low.colour_k < noon.colour_k
    night = sun_at(latitude_deg=60, longitude_deg=0, when=datetime(2024, 12, 21, 0, tzinfo=UTC))
    assert night.illuminance_lux == 0


@pytest.mark.parametrize("wrong", [
    lambda: lamp(head=HEAD["candle"], doors=(1, 1, 1, 1)), lambda: lamp(gate=Gate()), lambda: lamp(pops=0),
    lambda: lamp(pops=3, emission=replace(FULL, continuous=True)), lambda: lamp(doors=(-1, 0, 0, 0)),
    lambda: card("white card", 0, 0, 0, 0, hole_m=0.6), lambda: card("white card", 0, 0, 0, 0, bend_rad=1, hole_m=0.1),
    lambda: replace(FULL, saturation=2), lambda: Gate(mask="puce"), lambda: Gate(blades=(2, 0, 0, 0)),
    lambda: sun_at(latitude_deg=100, longitude_deg=0, when=datetime(2024, 1, 1, tzinfo=UTC)),
    lambda: sun_at(latitude_deg=0, longitude_deg=0, when=datetime(1492, 1, 1, tzinfo=UTC)),
    lambda: replace(scenes.panel("box"), wrinkles=2.0),
])  # fmt: skip
def test_what_no_set_has_is_refused(wrong):
    with pytest.raises(DomainError):
        wrong()

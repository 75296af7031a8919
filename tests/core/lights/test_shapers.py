"""Heads, gels, sheets, nets and grids: what they cost, what colour they make, what they leave of the light."""

import math
from dataclasses import replace

import numpy as np
import pytest
from pytest import approx

from fotaxis.core.camera.exposure import incident_f_number
from fotaxis.core.errors import DomainError
from fotaxis.core.lights.beam_patterns import BELL, FLAT_TOP, TABLE, Pattern
from fotaxis.core.lights.calibration import Candela, GuideNumber, MeterReading
from fotaxis.core.lights.card_finishes import FINISH, NETS, SHEETS, Finish, passing, reflecting
from fotaxis.core.lights.colour import temperature_xy, tint
from fotaxis.core.lights.fixtures import Card, Emission, Lamp
from fotaxis.core.lights.gels import GEL, known_gels, shifted_kelvin
from fotaxis.core.lights.heads import HEAD, HEADS
from fotaxis.core.metering import incident
from fotaxis.core.render.final.final_render import predict
from fotaxis.core.render.layers import layer_gains, mixed
from fotaxis.core.values import Reflectance
from tests import scenes

FLASH = Emission(calibration=GuideNumber(metres=40), power_stops=0)
SPECK = scenes.cylinder(radius=0.001, height=0.002)


def lamp(head="dish 65°", *, x=0.0, y=1.0, z=-1.0, turn=0.0, tilt=0.0, grid=0.0, emission=FLASH, diameter=None) -> Lamp:
    return Lamp(
        key="lamp", name="Lamp", stance=scenes.stance(x, y, z, turn, tilt), head=HEAD[head],
        diameter_m=diameter or HEAD[head].diameter_m, grid_angle_rad=math.radians(grid), emission=emission,
    )  # fmt: skip


def thing(finish, *, z=-0.97, width=1.2, height=1.2, turn=0.0, tilt=0.0, y=1.0) -> Card:
    finish = FINISH[finish] if isinstance(finish, str) else finish
    return Card(
        key="thing", name="Thing", stance=scenes.stance(0, y, z, turn, tilt), width_m=width, height_m=height, finish=finish
    )


def metered(*lights, cards=(), at=(0.0, 1.0, 0.0), facing=(0.0, 0.0, -1.0)) -> float:
    """What a flat incident meter reads of all lights at full power, lux s."""
    plan = scenes.bare(SPECK, lights=lights, cards=cards)
    return float(incident.arriving_lux_s(plan, place=np.array(at), normal=np.array(facing)).sum())


# Stops lost, common practice as measured by photographers: sheets on the front of a box, nets in a beam.
STOPS = {
    "half white": 1, "quarter white": 2 / 3, "full white": 1, "dense white": 1.5, "light frost": 1 / 3, "opal frost": 4 / 3,
    "quarter grid cloth": 1, "light grid cloth": 1.5, "full grid cloth": 2, "dense diffusion": 5 / 3, "quarter silk": 0.5,
    "full silk": 1.5, "single net": 0.5, "double net": 1, "triple net": 1.5,
}  # fmt: skip


@pytest.mark.parametrize("name", STOPS)
def test_stops_lost_as_metered(name):
    box = scenes.panel("box", x=0, y=1.0, z=-1.0, turn=0, width=0.9, height=0.9)
    loss = math.log2(metered(box) / metered(box, cards=(thing(name),)))
    assert loss == approx(STOPS[name], abs=1 / 6)


def test_every_sheet_and_net_has_its_loss_written_down():
    assert {f.name for f in (*SHEETS, *NETS)} - {*STOPS} == {"opal acrylic"}


def test_a_net_turned_to_the_beam_takes_more():
    # Optical depth goes with 1 / cos: at 60 degrees a half-stop net takes a stop.
    straight = metered(lamp()) / metered(lamp(), cards=(thing("single net", z=-0.5),))
    turned = metered(lamp()) / metered(lamp(), cards=(thing("single net", z=-0.5, turn=60.0, width=3.0),))
    assert math.log2(straight) == approx(0.5, abs=0.01)
    assert math.log2(turned) == approx(1.0, abs=0.02)


def test_two_double_nets_take_two_stops():
    nets = thing("double net", z=-0.5), replace(thing("double net", z=-0.4), key="other")
    assert math.log2(metered(lamp()) / metered(lamp(), cards=nets)) == approx(2.0, abs=0.02)


def test_a_tight_grid_on_a_wide_dish_costs_three_stops_or_more_near_by():
    # Common practice: a 55 cm dish behind a tight grid, 1.2 m away. The loss follows from geometry: most of the dish lies
    # outside what the cells let through towards the place.
    emission = Emission(calibration=Candela(value=1000), power_stops=0)
    wide = lamp("plain dish", diameter=0.55, emission=emission)
    at = (0.0, 1.0, 0.2)
    loss = math.log2(metered(wide, at=at) / metered(replace(wide, grid_angle_rad=math.radians(10)), at=at))
    assert loss > 3
    far = math.log2(
        metered(wide, at=(0, 1, 19.0)) / metered(replace(wide, grid_angle_rad=math.radians(10)), at=(0, 1, 19.0))
    )
    assert far < 0.3  # far away the whole dish is on the axis


@pytest.mark.parametrize("head", [head.name for head in HEADS])
def test_a_head_is_as_bright_as_it_says(head):
    # Inverse square far away: I / d^2 on the axis.
    kind = HEAD[head]
    calibration = Candela(value=kind.candela) if kind.continuous else GuideNumber(metres=kind.guide_number_m)
    light = lamp(head, emission=Emission(calibration=calibration, power_stops=0, continuous=kind.continuous))
    intensity = kind.candela or kind.guide_number_m**2 * 2.5
    assert metered(light, at=(0, 1, 19.0)) == approx(intensity / 400, rel=0.01)


@pytest.mark.parametrize("head", ["dish 65°", "snoot", "bare head", "focusing spot"])
@pytest.mark.parametrize("grid", [0.0, 20.0])
def test_a_reading_is_read_back_with_grid_and_gel(head, grid):
    if HEAD[head].ball and grid:
        pytest.skip("a bare bulb takes no grid")
    reading = MeterReading(distance_m=1.0, f_number=11.0, iso=100, power_stops=0)
    emission = Emission(calibration=reading, power_stops=0, gels=known_gels(("ND 1 stop",)))
    arriving = metered(lamp(head, emission=emission, grid=grid))
    assert incident_f_number(exposure_lux_s=arriving, iso=100) == approx(11.0, rel=0.02)


def test_patterns_have_half_their_light_at_half_their_angle():
    half = math.radians(20)
    for pattern in (Pattern(kind=BELL, half_rad=half), Pattern(kind=FLAT_TOP, half_rad=half, soft_rad=0.05)):
        assert pattern.intensity(np.array([0.0, half])) == approx([1.0, 0.5])
    table = Pattern(kind=TABLE, table=((0.0, 0.5, 1.0), (1.0, 0.8, 0.0)))
    assert table.intensity(np.array([0.25, 0.75, 1.2])) == approx([0.9, 0.4, 0.0])
    with pytest.raises(DomainError, match="0° to 90°"):
        Pattern(half_rad=0.0)


def test_a_dish_lights_half_as_much_at_half_its_beam_angle():
    aside = 2 * math.tan(math.radians(32.5))
    light = lamp(z=-2.0)
    direct = metered(light)
    toward = np.array([aside, 0, 2.0]) / math.hypot(aside, 2.0)
    off = metered(light, at=(aside, 1.0, 0.0), facing=tuple(-toward))
    assert off * (4 + aside**2) / (direct * 4) == approx(0.5, rel=0.01)


@pytest.mark.filterwarnings("ignore")
def test_colour_of_heat_against_colour_science():
    import colour

    for kelvin in (1900, 2700, 3200, 4500, 5600, 6500, 10_000):
        assert temperature_xy(kelvin) == approx(colour.temperature.CCT_to_xy_Kang2002(kelvin), abs=1e-6)
        spectrum = colour.sd_blackbody(kelvin, colour.SpectralShape(360, 780, 5))
        xy = colour.XYZ_to_xy(colour.sd_to_XYZ(spectrum))
        assert temperature_xy(kelvin) == approx(xy, abs=0.002)


@pytest.mark.filterwarnings("ignore")
@pytest.mark.parametrize(("gels", "kelvin", "expected"), [
    (("full warm",), 6500, 3200), (("half warm", "half warm"), 6500, 3170), (("quarter warm", "quarter warm"), 5600, 3809),
    (("full cool",), 3200, 5510), (("ND 2 stops",), 5600, 5600),
])  # fmt: skip
def test_gels_shift_by_mired_and_add(gels, kelvin, expected):
    # Mired add; 6500 K to 3200 K is 159. colour-science reads the temperature back from the chromaticity.
    import colour

    shifted = shifted_kelvin(kelvin, sum(GEL[name].mired for name in gels))
    assert shifted == approx(expected, rel=0.01)
    if shifted < 5500:
        seen = colour.temperature.xy_to_CCT_Hernandez1999(np.array(temperature_xy(shifted)))
        assert 1e6 / seen == approx(1e6 / shifted, abs=3)  # mired


def test_a_light_at_the_camera_s_white_is_neutral_and_a_gel_takes_its_stops():
    assert tint(kelvin=5600, white_k=5600) == approx([1, 1, 1])
    warm = tint(kelvin=5600, gels=known_gels(("full warm",)), white_k=5600)
    assert warm[0] > 1 > warm[2]
    assert warm @ np.array([0.2126, 0.7152, 0.0722]) == approx(1.0)
    gelled = replace(FLASH, gels=known_gels(("full warm", "ND 1 stop")))
    assert metered(lamp()) / metered(lamp(emission=replace(FLASH, gels=known_gels(("ND 1 stop",))))) == approx(2.0)
    assert gelled.colour(5600) @ np.array([0.2126, 0.7152, 0.0722]) == approx(2.0 ** -(5 / 3))


def test_no_finish_gives_back_more_than_it_gets():
    with pytest.raises(DomainError, match="no more than 1"):
        Finish(reflectance=Reflectance.grey(0.7), through=Reflectance.grey(0.4))
    for finish in FINISH.values():
        assert finish.passed + finish.reflectance.green + finish.gloss.green <= 1


@pytest.mark.parametrize("share", [0.05, 0.5, 0.7])
def test_a_card_of_measured_reflectance_gives_back_that(share):
    for name in ("white card", "silver card", "gold card"):
        own, measured = FINISH[name], reflecting(FINISH[name], share)
        assert measured.reflectance.green + measured.gloss.green == approx(share)
        assert measured.gloss.green * own.reflectance.green == approx(own.gloss.green * measured.reflectance.green)
    assert reflecting(FINISH["gold card"], 1.0).gloss.array().max() <= 1 + 1e-9
    assert reflecting(FINISH["white card"], 0.0) == FINISH["white card"]


@pytest.mark.parametrize("stops", [0.2, 1.0, 3.5])
def test_a_sheet_of_measured_loss_takes_that_and_creates_no_light(stops):
    for sheet in SHEETS:
        measured = passing(sheet, stops)
        assert measured.stops == approx(stops)
        assert measured.passed + measured.reflectance.green <= 1 + 1e-9
        if sheet.straight:
            assert measured.straight / measured.passed == approx(sheet.straight / sheet.passed)
    assert passing(SHEETS[0], 0.0) == SHEETS[0]


def test_layers_add_up_and_only_what_burns_on_follows_the_shutter():
    candle = lamp(
        "candle", x=0.3, y=0.2, z=0.3, emission=Emission(calibration=Candela(value=1), power_stops=0, continuous=True)
    )
    plan = scenes.plan(lights=(candle, replace(lamp(x=0.8, y=0.8, z=0.8, turn=-135, tilt=-30), key="flash")))
    layers = predict(plan, long_side=100)
    slow = replace(plan, exposure=replace(plan.exposure, shutter_s=4.0))
    fast, longer = layer_gains(plan), layer_gains(slow)
    assert longer[1:] / fast[1:] == approx([4.0 / plan.exposure.shutter_s, 1.0])
    whole = mixed(layers, longer)
    parts = sum(mixed(layers, longer * (np.arange(3) == i)) for i in range(3))
    assert whole == approx(parts, rel=1e-6, abs=1e-6 * float(whole.max()))


def test_a_sheet_lit_from_behind_shows_the_lamp_s_illuminance():
    # Lambert: L = tau E / pi at the middle, E of a disc on its axis (closed form), for a sheet that scatters evenly.
    emission = Emission(calibration=Candela(value=1000), power_stops=0)
    head = lamp("plain dish", y=0.2, z=-0.6, emission=emission)
    sheet = thing("dense white", z=-0.2, width=0.5, height=0.5, y=0.2)
    plan = scenes.bare(SPECK, lights=(head,), cards=(sheet,), cam=scenes.camera(height=0.2, aim=0.2))
    picture = predict(plan, long_side=200).pictures[1, ..., 1]
    radius, far = head.diameter_m / 2, 0.4
    expected = FINISH["dense white"].through.green * head.full_luminance * radius**2 / (radius**2 + far**2)
    assert float(picture[100, 80]) == approx(expected, rel=0.01)


def test_furnace_sheets_and_cards_create_no_light():
    # In even room light every thing shows at most that light.
    for name in ("opal frost", "half white", "silver card", "gold card", "white card"):
        plan = scenes.bare(SPECK, lights=(), cards=(thing(name, y=0.2, z=-0.2),), cam=scenes.camera(height=0.2, aim=0.2))
        room = predict(plan, long_side=80).pictures[0]
        assert room.max() <= (1 + 1e-6) / math.pi


def test_a_set_without_lights_is_drawn_dark():
    plan = scenes.plan(lights=(), cards=(), table=replace(scenes.plan().table, skin=scenes.PAPER))
    assert predict(plan, long_side=80).pictures.shape == (1, 80, 64, 3)

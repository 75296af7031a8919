"""Heads, packs, losses, pools, flags and cards: against standards, geometry done another way, and the core."""

import math

import numpy as np
import pytest
from pytest import approx

from fotaxis.core.camera.exposure import incident_f_number
from fotaxis.core.lights.beam_patterns import cell_transmission
from fotaxis.core.lights.calibration import guide_number_intensity_cd_s
from fotaxis.core.lights.card_finishes import NETS, SHEETS
from fotaxis.core.lights.gels import GEL
from fotaxis.core.placement.cylinder import light_angle_rad
from fotaxis.core.placement.edge import edge_panel
from tests.core.reckoner.asking import asked, problem, value, values

NEAR = 0.05


def test_a_guide_number_is_aperture_times_distance():
    # ISO 1230: the guide number is the product of f-number and distance; ISO 400 doubles it, two heads are one stop.
    assert value("guide-number", "f_number", guide="56 m", distance="7 m", power="1/1") == approx(8)
    assert value("guide-number", "distance", guide="56 m", f_number="8", power="1/1", iso=400) == approx(14)
    assert value("guide-number", "f_number", guide="56 m", distance="7 m", power="1/1", heads=2) == approx(8 * math.sqrt(2))
    assert asked("guide-number", "power", guide="32 m", distance="1 m", f_number="8").gives[0].text == "1/16"


@pytest.mark.parametrize(("guide", "distance", "power", "iso"), [(22, 0.55, -4, 100), (45, 1.3, -6, 64), (80, 3.0, 0, 400)])
def test_guide_numbers_agree_with_the_cores_light(guide, distance, power, iso):
    arrives = guide_number_intensity_cd_s(guide_number_m=guide) * 2.0**power / distance**2
    told = value("guide-number", "f_number", guide=guide, distance=distance, power=power, iso=iso)
    assert 2 * math.log2(told / incident_f_number(exposure_lux_s=arrives, iso=iso)) == approx(0, abs=NEAR)


def test_a_zoom_and_what_stands_before_the_head():
    # Common practice: the root of the ratio; a table of a usual small flash (from memory): 36 m at 35 mm, 58 m at 105 mm,
    # 1.61 times.
    wide, narrow = (value("guide-number", "f_number", guide=36, zoom=f"{mm} mm") for mm in (35, 105))
    assert 2 * math.log2(narrow / wide) == approx(2 * math.log2(58 / 36), abs=0.25)
    assert value("guide-number", "f_number", shaped=2) == approx(value("guide-number", "f_number") / 2)


def test_heads_on_one_surface_add():
    # Light adds: two equal heads one stop, four two; common practice.
    assert asked("heads-together", "total", readings="5.6, 5.6").gives[0].text == "f/8"
    assert value("heads-together", "total", readings="8, 8, 8, 8") == approx(16)
    assert value("heads-together", "total", readings="f/8, f/4") == approx(math.sqrt(80))
    assert value("heads-together", "more", readings="5.6", total="8") == approx(4 * math.sqrt(2))
    assert "turn them down first" in problem("heads-together", "more", readings="11, 8", total="8")
    assert "no head is listed" in problem("heads-together", "total", readings="").lower()


def test_packs_share_their_channels():
    # Common practice: two heads on 800 Ws get 400 each; from the 400 to the 1200 socket is 1.6 stops.
    assert values("pack", "difference", energy_a=800, heads_a=2, power_a="1/1")["each_a"] == approx(400)
    assert value("pack", "difference", energy_a=400, energy_b=1200, power_a="1/1") == approx(1.585, abs=0.001)
    assert any("discharge" in said for said in asked("pack", "difference").cautions)


def test_losses_are_those_of_the_catalogue_and_add():
    for finish in (*SHEETS, *NETS):
        assert values("losses", "after", things=finish.name)["total"] == approx(finish.stops, abs=NEAR)
    chain = values("losses", "after", things="full grid cloth, 2 x single net, full warm", before="22")
    assert chain["total"] == approx(2 + 0.5 + 0.5 + GEL["full warm"].stops)
    assert chain["passes"] == approx(2.0 ** -chain["total"])
    assert chain["after"] == approx(16 * math.sqrt(2) * 2.0 ** (-chain["total"] / 2), rel=1e-3)


def test_fall_off_is_the_inverse_square():
    # Textbook: twice as far is a fourth of the light, two stops; 1.414 times one stop.
    assert value("fall-off", "difference", distance="1 m", depth="1 m") == approx(2)
    assert value("fall-off", "difference", distance="1 m", depth="41.42 cm") == approx(1, abs=1e-4)
    assert value("fall-off", "distance", depth="30 cm", difference="1/3") == approx(0.3 / (2 ** (1 / 6) - 1))


def test_the_pool_of_a_grid():
    # By hand: 2 tan 10 degrees is 0.3527; common practice: the face's own width comes on top.
    assert value("pool", "diameter", angle="20", distance="1 m", face="18 cm") == approx(0.3527 + 0.18, abs=1e-4)
    assert value("pool", "diameter", kind="focusing spot", angle="20", distance="1 m") == approx(0.3527, abs=1e-4)
    assert "smaller face" in problem("pool", "angle", diameter="10 cm", face="18 cm")


def test_the_pools_fading_is_that_of_the_cores_grids():
    # One stop under the middle, where the core's cells pass a half; the cosine's fourth power is told within the pool alone.
    half = math.radians(10)
    bright = values("pool", "diameter", angle="20", distance="1 m")["bright"]
    assert float(cell_transmission(np.array([bright / 2]), math.tan(half))[0]) == approx(0.5, abs=0.002)
    rim = values("pool", "diameter", angle="20", distance="1 m")["rim"]
    core = (
        float(cell_transmission(np.array([math.tan(half) / 2]), math.tan(half))[0]) * (1 + (math.tan(half) / 2) ** 2) ** -2
    )
    assert rim == approx(math.log2(core), abs=NEAR)


def test_a_flags_soft_edge_by_looking_at_the_light_past_it():
    """Another way: from places on the surface, how much of the light is seen past the edge."""
    source, distance, flag = 0.3, 1.2, 0.3
    told = value("penumbra", "softness", source="30 cm", distance="120 cm", flag="30 cm")
    across = np.linspace(-0.2, 0.2, 40_001)
    # The line from a place y on the surface over the edge (height 0 at distance - flag) meets the light's plane at:
    edge = -across * (distance - flag) / flag
    share = np.clip((edge + source / 2) / source, 0, 1)
    soft = across[(share > 0) & (share < 1)]
    assert told == approx(float(np.ptp(soft)), abs=5e-5)
    # Common practice: the closer to the subject the sharper, the closer to the light the softer.
    assert value("penumbra", "softness", flag="5 cm") < 0.02 < 0.5 < value("penumbra", "softness", flag="100 cm")
    assert "nearer than the light" in problem("penumbra", "softness", flag="130 cm")


def test_the_card_for_a_highlight_stands_where_the_line_is_lit_from():
    # Law of reflection: 85 to 95 % of the half width needs 116.4 to 143.6 degrees, in the middle 130.
    found = values("highlight-card", "card", place="90 %", line="10 %")
    assert math.degrees(found["angle"]) == approx((116.4 + 143.6) / 2, abs=0.1)
    core = edge_panel(
        radius_m=0.037,
        foot_m=0,
        top_m=0.3,
        camera_height_m=0.15,
        camera_distance_m=1.2,
        distance_m=0.5,
        inner=0.85,
        outer=0.95,
    )
    assert found["card"] == approx(core.width_m, rel=1e-9)
    assert (found["side"], -found["behind"]) == approx((core.x_m, core.z_m), rel=1e-9)


def test_every_ray_of_the_line_ends_on_the_card():
    """Traced: parallel rays from the camera, mirrored at the cylinder, meet the card between its ends, those beside it "
    "miss it."""
    found = values("highlight-card", "card", place="80 %", line="14 %", diameter="9 cm", distance="70 cm")
    radius, turn = 0.045, found["angle"] - math.pi
    centre = np.array([found["side"], -found["behind"]])
    along = np.array([math.cos(turn), -math.sin(turn)])
    facing = np.array([math.sin(turn), math.cos(turn)])
    for ratio in np.linspace(0.60, 0.95, 71):
        normal = np.array([ratio, math.sqrt(1 - ratio**2)])
        place = radius * normal
        ray = np.array([0.0, -1.0]) - 2 * (np.array([0.0, -1.0]) @ normal) * normal
        assert math.acos(ray @ [0, 1]) == approx(light_angle_rad(offset_ratio=ratio))
        meets = place + ray * ((centre - place) @ facing) / (ray @ facing)
        on_card = abs((meets - centre) @ along) < found["card"] / 2
        assert on_card == (0.73 < ratio < 0.87) or abs(ratio - 0.73) < 0.003 or abs(ratio - 0.87) < 0.003


def test_the_riser_that_a_line_to_the_foot_needs():
    # By hand: camera 15 cm high at 120 cm, a path of 50 cm from the foot: the panel must reach 6.25 cm below the table.
    found = asked("highlight-card", "card", camera="120 cm", camera_height="15 cm", distance="50 cm")
    low = next(one.value for one in found.gives if one.name == "low")
    assert low == approx(-0.0625, abs=0.003)
    assert "riser" in found.says[0]
    assert "between 0 and 100" in problem("highlight-card", "card", place="97 %", line="10 %")
    assert "inside the product" in problem("highlight-card", "card", distance="3 cm")

"""The sheet's figures, by trigonometry and the thin lens; and the cautions a set raises."""

import math
from dataclasses import replace

import pytest

from fotaxis.core.camera.exposure import Exposure
from fotaxis.services import sheet
from tests import scenes


def test_a_stance_reads_as_a_tape_and_a_protractor_read_it():
    at = sheet.measured(scenes.stance(0.3, 0.5, 0.4, -120.0, 60.0), half_height_m=0.2)
    # 3-4-5: 30 cm aside, 40 cm before; tilted by 60 degrees the lower edge is half of 20 cm below the middle.
    assert (at.side_cm, at.depth_cm, at.distance_cm, at.height_cm) == pytest.approx((30, 40, 50, 50))
    assert at.low_edge_cm == pytest.approx(40)
    assert at.bearing_deg == pytest.approx(math.degrees(math.atan2(3, 4)))
    assert (at.turn_deg, at.tilt_deg) == pytest.approx((-120, 60))


def test_lights_are_numbered_in_build_order_and_cards_lettered():
    plan = scenes.plan(lights=(scenes.panel("a"), scenes.panel("b", on=False, continuous=True)), cards=(scenes.card("c"),))
    rows = sheet.rows(plan)
    assert [(row.number, row.key) for row in rows] == [("1", "a"), ("2", "b"), ("A", "c")]
    assert [row.state for row in rows] == ["on", "off, continuous", ""]
    assert rows[0].power
    assert not rows[2].power


def test_camera_figures_follow_the_thin_lens():
    camera = scenes.camera(distance=1.5, focal=0.1)
    plan = replace(scenes.plan(lights=()), camera=camera, exposure=replace(scenes.plan(lights=()).exposure, f_number=11.0))
    figures = sheet.camera_figures(plan)
    w, h = camera.used_sensor_m
    # Thin lens, any textbook: m = f / (u - f); the field is the sensor over m; the Airy disc is 2.44 lambda N.
    magnification = 0.1 / (1.5 - 0.1)
    assert figures.magnification == pytest.approx(magnification)
    assert figures.field_width_cm == pytest.approx(100 * w / magnification, rel=1e-6)
    assert figures.airy_um == pytest.approx(2.44 * 0.55 * 11, rel=0.01)
    circle = math.hypot(w, h) / 1500
    # H = f^2 / (N c) + f; near = u (H - f) / (H + u - 2 f), far = u (H - f) / (H - u).
    hyper = 0.1**2 / (11 * circle) + 0.1
    assert figures.near_cm == pytest.approx(100 * (1.5 - 1.5 * (hyper - 0.1) / (hyper + 1.5 - 0.2)), rel=0.01)
    assert figures.far_cm == pytest.approx(100 * (1.5 * (hyper - 0.1) / (hyper - 1.5) - 1.5), rel=0.01)


@pytest.mark.parametrize(("f_number", "softened"), [(5.6, False), (32.0, True)])
def test_diffraction_is_told_where_it_exceeds_the_circle(f_number, softened):
    plan = scenes.plan(lights=())
    plan = replace(plan, exposure=replace(plan.exposure, f_number=f_number))
    assert isinstance(plan.exposure, Exposure)
    assert ("softens everything" in sheet.lens_words(plan)) is softened


def test_each_hazard_of_a_set_raises_its_caution_and_no_other():
    def words(*lights, **more):
        return " ".join(sheet.cautions(scenes.plan(lights=lights, **more)))

    flash = words(scenes.panel("a"))
    assert "packs off" in flash
    assert "hot lamps" not in flash
    assert "Counterweight" not in flash
    lamp = words(scenes.panel("a", continuous=True))
    assert "hot lamps" in lamp
    assert "packs off" not in lamp
    assert "Panel a: high over the product. Counterweight" in words(scenes.panel("a", y=0.9))
    assert "within 25 cm" in words(scenes.panel("a", x=-0.2, z=0.0, width=0.05))
    assert words() == ""
    assert "licensed people" in flash
    assert "licensed people" in lamp


def test_a_light_inside_the_product_is_named_with_what_to_do():
    plan = scenes.plan(lights=(scenes.panel("a", x=0.0, y=0.2, z=0.0, width=0.3, height=0.1),))
    assert sheet.stands_in(plan)["a"].startswith("Panel a runs through the product. Move it")

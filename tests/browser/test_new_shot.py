"""A shot begun from pictures, framed and lit; the frame set anew."""

from __future__ import annotations

import numpy as np
import pytest

from fotaxis.core.placement.framing import filled
from fotaxis.services.presets import start_document
from tests.browser.test_bench import exported, import_shot

pytestmark = pytest.mark.browser


def share(desk):
    plan = exported(desk).plan()
    return filled(plan, plan.camera)


def test_from_nothing_to_a_lit_bench_by_pictures(desk):
    desk.go("/jobs")
    desk.page.get_by_role("link", name="Brindlemoor winter range").click()
    desk.page.get_by_role("link", name="New shot from pictures").click()
    desk.page.locator("label.tile:has(input[value=beer])").click()
    assert desk.page.get_by_label("Height, measured").input_value() == "23.2"
    desk.page.get_by_label("Height, measured").fill("22")
    # A size that was set stays when another shape is looked at.
    desk.page.locator("label.tile:has(input[value=burgundy])").click()
    assert desk.page.get_by_label("Height, measured").input_value() == "22"
    desk.page.locator("label.tile:has(input[value=beer])").click()
    desk.page.get_by_role("button", name="Begin").click()
    desk.page.wait_for_url("**/shots/*")
    desk.settled()
    document = exported(desk)
    assert 100 * document.plan().product.height_m == pytest.approx(22, abs=0.1)
    assert len(document.lights) == 2
    assert share(desk) == pytest.approx(0.7, abs=0.02)
    pixels = desk.page.evaluate("""(() => { const c = document.getElementById('frame');
      return Array.from(c.getContext('2d').getImageData(0, 0, c.width, c.height).data.filter((_, i) => i % 4 === 1)); })()""")
    assert np.quantile(pixels, 0.999) > 120


def test_the_frame_is_set_anew_and_a_lens_may_keep_it(desk, tmp_path):
    import_shot(desk, start_document("bottle"), tmp_path)
    desk.page.get_by_role("tab", name="Camera").click()
    fills = desk.page.locator("#fills")
    fills.fill("50")
    fills.press("Enter")
    desk.after_saved(lambda: desk.page.keyboard.press("h"))
    assert share(desk) == pytest.approx(0.5, abs=0.01)
    desk.page.locator("#keep-framing").check()
    focal = desk.page.locator("#panel-camera [data-path='camera.focal_length_mm']")
    focal.fill("50")
    desk.after_saved(lambda: focal.press("Enter"))
    camera = exported(desk).camera
    assert camera.focal_length_mm == 50
    assert share(desk) == pytest.approx(0.5, abs=0.01)
    assert "Reframed" in desk.page.locator("#undo").get_attribute("title")


def test_another_outline_offers_to_be_framed(desk, tmp_path):
    import_shot(desk, start_document("bottle"), tmp_path)
    desk.page.get_by_role("tab", name="Product").click()
    desk.page.locator("#shape-choice").select_option("ball")
    offer = desk.page.get_by_role("button", name="Frame it anew")
    desk.after_saved(lambda: offer.click())
    assert share(desk) == pytest.approx(0.7, abs=0.02)

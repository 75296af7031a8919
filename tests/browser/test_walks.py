"""Whole jobs at the bench by hand, every key, click and entry counted: from an empty shot to a set that can be shot.

A count is one key or key combination, one click or choice in a list, one value typed with its Enter; a field is clicked first.
What comes out is read from the finished picture, not from the page's words.
"""

from __future__ import annotations

import math
from dataclasses import replace

import numpy as np
import pytest

from fotaxis.core.constants import MIDDLE_GREY, REC709_LUMINANCE
from fotaxis.core.frames.faults import things_in_frame
from fotaxis.core.frames.readings import NamedReading
from fotaxis.core.frames.readings.edge import EdgeLine
from fotaxis.core.materials.material import KIND, METAL
from fotaxis.core.render.arrays.pack_static_scene import pack_static_scene
from fotaxis.core.render.arrays.path_records import SKINS_PER_SURFACE
from fotaxis.core.render.preview.traced_scene import trace_scene
from fotaxis.core.scene.checks import collisions
from fotaxis.services.pictures import Pictures
from fotaxis.services.presets import start_document
from tests.browser.test_bench import exported, import_shot

pytestmark = pytest.mark.browser


class Hand:
    """A hand at the desk that counts what it does."""

    def __init__(self, desk):
        self.desk, self.actions = desk, 0

    def key(self, key):
        self.actions += 1
        self.desk.page.keyboard.press(key)
        self.desk.page.wait_for_timeout(350)

    def click(self, selector):
        self.actions += 1
        self.desk.page.locator(selector).first.click()
        self.desk.page.wait_for_timeout(350)

    def choose(self, selector, value):
        self.actions += 1
        self.desk.page.locator(selector).first.select_option(value)
        self.desk.page.wait_for_timeout(900)

    def enter(self, selector, value):
        self.actions += 2
        field = self.desk.page.locator(selector).first
        field.fill(value)
        field.press("Enter")
        self.desk.page.wait_for_timeout(600)

    def types(self, words):
        self.actions += 1
        self.desk.page.keyboard.type(words)
        self.desk.page.keyboard.press("Enter")
        self.desk.page.wait_for_timeout(900)

    def rests(self):
        self.desk.until("document.getElementById('saved').textContent === 'saved'", seconds=30)


def begun(desk, tmp_path):
    import_shot(desk, start_document("empty"), tmp_path)
    return Hand(desk)


def seen(desk):
    """The finished picture of what stands on the bench: plan, layers at their powers, product."""
    plan = exported(desk).plan()
    return plan, Pictures().fine(plan, long_side=320)


def level_stops(picture, mask, quantile=0.5):
    luminance = picture.astype(np.float64) @ np.array(REC709_LUMINANCE)
    return math.log2(max(float(np.quantile(luminance[mask], quantile)), 1e-9) / MIDDLE_GREY)


def stands(plan):
    assert collisions(plan) == {}
    assert things_in_frame(plan, pack_static_scene(plan)) == []


def test_a_dark_bottle_with_two_lines_and_a_label_light(desk, tmp_path):
    hand = begun(desk, tmp_path)
    hand.key("n")
    hand.key("1")
    hand.rests()
    hand.key("n")
    hand.key("g")
    hand.rests()
    assert hand.actions <= 15
    plan, made = seen(desk)
    stands(plan)
    pictures = Pictures()
    pictures.fine(plan, long_side=320)
    sides = [NamedReading(key=s, name=s, at=EdgeLine(left=s == "left", low=0.05, high=0.55)) for s in ("left", "right")]
    lines = pictures.named(plan, tuple(sides))
    assert all(line is not None and line.peak_stops > 0.8 for line in lines.values())
    assert abs(lines["left"].peak_stops - lines["right"].peak_stops) < 0.3
    rows = np.flatnonzero(made.is_product.any(axis=1))
    label = made.is_product.copy()
    low, high = (rows[-1] - part * (rows[-1] - rows[0]) for part in (0.16, 0.4))
    label[: int(high)] = label[int(low) :] = False
    columns = np.flatnonzero(label.any(axis=0))
    label[:, : columns[0] + len(columns) // 3] = label[:, columns[-1] - len(columns) // 3 :] = False
    assert level_stops(made.levels(), label) == pytest.approx(0.8, abs=0.8)


def test_a_pack_from_above_with_raking_light_and_a_lit_logo(desk, tmp_path):
    hand = begun(desk, tmp_path)
    hand.click("#tab-product")
    hand.choose("#shape-choice", "box")
    hand.rests()
    hand.click("[data-add-band]:has-text('Foil')")
    hand.rests()
    hand.choose("[data-path='subject.bands.0.face']", "top")
    hand.enter("[data-path='subject.bands.0.low_cm']", "-1.2")
    hand.enter("[data-path='subject.bands.0.high_cm']", "1.2")
    hand.rests()
    hand.click("#tab-camera")
    hand.enter("[data-path='camera.height_cm']", "80")
    hand.enter("[data-path='camera.aim_height_cm']", "9")
    hand.key("n")
    hand.key("6")
    hand.rests()
    assert hand.actions <= 18
    plan, made = seen(desk)
    stands(plan)
    names = [light.key for light in plan.lights]
    assert "rake" in names
    assert plan.camera.place.y_m == pytest.approx(0.8)
    # The card throws light onto the logo: near grey with it, black without it.
    stage = trace_scene(plan, width=made.layers.size[0], height=made.layers.size[1])
    skins = np.array([row[KIND] == METAL for row in stage.scene.skins])
    skin = np.where(stage.traced.product == 0, stage.traced.first % SKINS_PER_SURFACE, 0).reshape(made.is_product.shape)
    logo = made.is_product & skins[skin]
    assert logo.sum() > 50
    bare = Pictures().fine(replace(plan, cards=()), long_side=320)
    assert level_stops(made.levels(), logo) > -1.0
    assert level_stops(bare.levels(), logo) < level_stops(made.levels(), logo) - 2


def test_a_glass_and_a_bottle_before_a_glow_with_flag_and_mask(desk, tmp_path):
    hand = begun(desk, tmp_path)
    hand.click("#tab-product")
    hand.choose("[data-kind=glass]", "green glass")
    hand.rests()
    hand.choose("[data-kind=liquid]", "white wine")
    hand.rests()
    hand.key("n")
    hand.key("8")
    hand.rests()
    hand.key("n")
    hand.key("/")
    hand.types("stem glass")
    hand.rests()
    hand.click("#tab-camera")
    hand.click("[data-path='lens.mask']")
    hand.rests()
    hand.key("n")
    hand.key("f")
    hand.rests()
    assert hand.actions <= 25
    plan, made = seen(desk)
    assert collisions(plan) == {}
    assert len(plan.others) == 1
    assert plan.before_lens.mask is not None
    assert any("lack card" in card.name or card.name == "Black card" for card in plan.cards)
    # The glow comes through the liquid: the middle of the product is brighter than its edges.
    rows = np.flatnonzero(made.is_product.any(axis=1))
    row = int(rows[0] + 0.5 * (rows[-1] - rows[0]))
    columns = np.flatnonzero(made.is_product[row])
    luminance = made.levels()[row].astype(np.float64) @ np.array(REC709_LUMINANCE)
    middle = luminance[columns[len(columns) // 2 - 3 : len(columns) // 2 + 3]].mean()
    assert middle > 0.1


def test_a_can_with_a_kicker_and_a_gelled_background(desk, tmp_path):
    hand = begun(desk, tmp_path)
    hand.click("#tab-product")
    hand.choose("#shape-choice", "can")
    hand.rests()
    hand.key("n")
    hand.key("7")
    hand.rests()
    hand.key("n")
    hand.key("b")
    hand.rests()
    hand.click("#tab-set")
    hand.click("[data-to-segment=light]")
    hand.choose("[data-item='0']", "full warm")
    hand.rests()
    assert hand.actions <= 18
    plan, made = seen(desk)
    stands(plan)
    keys = [light.key for light in plan.lights]
    assert "kicker" in keys
    assert plan.lights[-1].emission.gels
    behind = made.levels()[:20].reshape(-1, 3).mean(axis=0)
    assert behind.max() > 1.15 * behind.min()
    assert level_stops(made.levels(), made.is_product, 0.99) > 0

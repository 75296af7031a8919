"""Every page in windows of four sizes: nothing runs over the window's side, and the page may be used by all (axe-core)."""

import json
from pathlib import Path

import pytest

from tests.browser.desk import box_of
from tests.browser.test_products import brought_in
from tests.formats.samples import DEMO

pytestmark = pytest.mark.browser

LANDSCAPE = json.loads((DEMO / "gift-carton.json").read_text())["camera"] | {"crop_width": 3, "crop_height": 2}
SIZES = [(1280, 800), (1024, 768), (2560, 1440), (390, 844)]
AXE = Path(__file__).parents[2] / "node_modules/axe-core/axe.min.js"
OVER = """() => {
  const wide = document.documentElement.clientWidth;
  const clips = (part) => /(auto|scroll|hidden|clip)/.test(getComputedStyle(part).overflowX);
  const within = (part) => part && part !== document.documentElement && (clips(part) || within(part.parentElement));
  const over = (part) => {
    const box = part.getBoundingClientRect();
    return box.width && box.height && box.right > wide + 1 && !part.closest("[hidden], .sr-only, svg") && !within(part.parentElement);
  };
  const told = (part) => `${part.tagName} ${part.id || part.className} ${Math.round(part.getBoundingClientRect().right)}`;
  return [...document.querySelectorAll("body *")].filter(over).map(told).slice(0, 5);
}"""
AXED = """axe.run(document, { resultTypes: ["violations"] }).then((found) =>
  found.violations.map((one) => [one.id, one.nodes.map((node) => node.target.join(" ")).slice(0, 4)]))"""


def shot_address(desk):
    desk.go("/jobs")
    return desk.page.locator(".job-pictures a").first.get_attribute("href")


def pages(desk):
    shot = shot_address(desk)
    job = desk.page.locator(".job-cards a").first.get_attribute("href")
    return [
        "/jobs", job, f"{job}/new", "/kit", "/materials", "/lights", "/account", "/studio", "/history",
        f"{shot}/frames", f"{shot}/finals", f"{shot}/sheet",
        "/reckoner", f"/reckoner?shot={shot.rsplit('/', 1)[-1]}#boom",
    ]  # fmt: skip


@pytest.mark.parametrize("size", SIZES)
def test_no_page_runs_over_the_window(desk, size):
    found = pages(desk)
    desk.page.set_viewport_size({"width": size[0], "height": size[1]})
    for address in found:
        desk.go(address)
        desk.page.wait_for_load_state("domcontentloaded")
        wide = desk.page.evaluate("document.documentElement.scrollWidth - document.documentElement.clientWidth")
        assert wide <= 0, address
        assert desk.page.evaluate(OVER) == [], address


@pytest.mark.parametrize("size", SIZES)
def test_the_bench_fits_and_its_picture_is_the_largest_thing(desk, size):
    address = shot_address(desk)
    desk.page.set_viewport_size({"width": size[0], "height": size[1]})
    desk.go(address)
    desk.settled()
    for tab in ("Set", "Product", "Camera", "Surface", "Readings", "States"):
        desk.page.get_by_role("tab", name=tab).click()
        desk.page.wait_for_timeout(300)
        assert desk.page.evaluate("document.documentElement.scrollWidth - document.documentElement.clientWidth") <= 0, tab
        assert desk.page.evaluate(OVER) == [], tab
    frame = box_of(desk.page.locator("#frame"))
    area = box_of(desk.page.locator("#frame-area"))
    if size[0] > 720:
        assert area["width"] >= 0.45 * size[0] - 1
        assert area["height"] >= size[1] - 50
        assert max(frame["width"] / area["width"], frame["height"] / area["height"]) > 0.98
    else:
        assert frame["height"] > 0.4 * size[1]
        for button in desk.page.locator(".light .steps button").all():
            box = box_of(button)
            assert min(box["width"], box["height"]) >= 44  # what a thumb meets


def test_a_thumb_sets_a_light_on_a_phone(desk):
    address = shot_address(desk)
    desk.page.set_viewport_size({"width": 390, "height": 844})
    desk.go(address)
    desk.settled()
    power = desk.page.locator(".light .power").first
    before = power.inner_text()
    desk.after_saved(lambda: desk.page.locator(".light [data-do=up]").first.click())
    assert power.inner_text() != before
    desk.after_saved(lambda: desk.page.locator(".light [data-do=down]").first.click())
    assert power.inner_text() == before


def test_axe_finds_nothing_on_any_page(desk):
    for address in [*pages(desk), shot_address(desk)]:
        desk.go(address)
        desk.page.wait_for_load_state("domcontentloaded")
        desk.page.evaluate(AXE.read_text())
        wrong = desk.page.evaluate(AXED)
        assert wrong == [], address
    for tab in ("Product", "Camera", "Surface", "Readings", "States"):
        desk.page.get_by_role("tab", name=tab).click()
        desk.page.wait_for_timeout(500)
        wrong = desk.page.evaluate(AXED)
        assert wrong == [], tab


@pytest.mark.parametrize("size", [(1280, 800), (1024, 768), (2560, 1440)])
def test_a_picture_wider_than_high_has_more_of_the_window(desk, tmp_path, size):
    desk.page.set_viewport_size({"width": size[0], "height": size[1]})
    brought_in(desk, tmp_path, "gift-carton", camera=LANDSCAPE)
    frame = box_of(desk.page.locator("#frame"))
    assert frame["width"] > 0.5 * size[0]
    assert frame["width"] / frame["height"] == pytest.approx(1.5, rel=0.02)
    assert desk.page.evaluate("document.documentElement.scrollWidth - document.documentElement.clientWidth") <= 0
    assert desk.page.evaluate(OVER) == []
    for name in ("floor", "side", "trace", "lights-area"):
        box = box_of(desk.page.locator(f"#{name}"))
        assert box["y"] + box["height"] <= size[1] + 1, name

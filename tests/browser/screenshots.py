"""Pictures of the main views from the demo, for the README: `./run screenshots` writes docs/screenshots/."""

from __future__ import annotations

import io
from collections.abc import Callable
from pathlib import Path

import pypdfium2 as pdfium
from PIL import Image

from tests.browser.desk import Desk, running_browser, running_site
from tests.conftest import running_postgres

OUT = Path(__file__).parents[2] / "docs/screenshots"


def main() -> None:
    with running_postgres() as postgres, running_site(postgres.url) as site, running_browser() as browser:
        desk = Desk.opened(browser, site)
        desk.sign_in()
        _take(desk)


def _take(desk: Desk) -> None:
    OUT.mkdir(parents=True, exist_ok=True)
    page = desk.page

    def keep(name: str, *, full: bool = False) -> None:
        desk.pictures_loaded()
        page.wait_for_timeout(500)
        page.mouse.move(1270, 790)
        page.screenshot(path=OUT / f"{name}.png", full_page=full)

    page.get_by_role("link", name="Brindlemoor winter range").click()
    desk.pictures_loaded()
    keep("job")
    desk.shot("Elder cordial, 70 cl")
    page.keyboard.press("1")
    page.wait_for_timeout(400)
    keep("bench")
    page.keyboard.press("Escape")
    page.keyboard.press("n")
    page.wait_for_selector("#adding[open]")
    page.wait_for_timeout(4000)
    keep("adding")
    page.keyboard.press("Escape")
    page.get_by_role("tab", name="States").click()
    page.keyboard.press("p")
    page.wait_for_timeout(800)
    page.keyboard.press("n")
    page.wait_for_selector("#adding[open]")
    page.keyboard.press("2")
    page.wait_for_timeout(2500)
    desk.settled()
    page.locator("[data-compare=split]").click()
    desk.until("document.body.dataset.compared !== undefined", seconds=60)
    page.wait_for_timeout(1500)
    keep("states")
    page.keyboard.press("Escape")
    page.locator("#states [data-go='1']").click()
    page.wait_for_timeout(1500)
    desk.settled()
    desk.shot("Gooseberry cordial")
    page.wait_for_timeout(400)
    keep("glass")
    page.get_by_role("tab", name="Product").click()
    page.get_by_role("button", name="Product", exact=True).wait_for()
    keep("product-glass")
    desk.shot("Gooseberry, glow behind acrylic")
    page.get_by_role("tab", name="Readings").click()
    desk.judged()
    keep("readings")
    for name in ("materials",):
        desk.go(f"/{name}")
        for group in page.locator("section").all():
            group.scroll_into_view_if_needed()
            page.wait_for_timeout(700)
        page.evaluate("scrollTo(0, 0)")
        desk.until("[...document.images].every((image) => image.complete)", seconds=120)
        keep(name)
    desk.go("/jobs")
    page.get_by_role("link", name="Brindlemoor winter range").click()
    page.get_by_role("link", name="New shot from pictures").click()
    desk.until(
        "[...document.querySelectorAll('#begin img')].every((image) => image.complete && image.naturalWidth)", seconds=120
    )
    keep("begin")
    page.get_by_role("button", name="Light / dark").click()
    desk.shot("Plum preserve")
    page.keyboard.press("2")
    page.wait_for_timeout(400)
    keep("bench-light")
    page.get_by_role("button", name="Light / dark").click()
    desk.shot("first try")
    desk.until("document.querySelectorAll('#wish-list [data-state=open]').length > 1")
    desk.until("document.querySelectorAll('#balance-words li').length > 0")
    page.locator("#wish-list [data-key=left-place]").get_by_role("button", name="Ways").click()
    desk.until("document.querySelectorAll('#ways-list [data-state]').length > 2", seconds=60)
    page.locator("#ways").scroll_into_view_if_needed()
    keep("wishes")
    page.get_by_role("link", name="Frames").click()
    page.locator("ul.shots a").last.click()
    keep("frame")
    _captures(desk, keep)
    desk.go("/kit")
    keep("kit")
    _reckoner(desk, keep)
    page.set_viewport_size({"width": 390, "height": 844})
    desk.shot("Elder cordial, 70 cl")
    desk.pictures_loaded()
    _keep_side_by_side(desk, "phone")


PHONES: list[Image.Image] = []
"""What a phone shows, gathered on the way and kept as one picture."""


def _on_phone(desk: Desk) -> None:
    desk.page.wait_for_timeout(500)
    PHONES.append(Image.open(io.BytesIO(desk.page.screenshot())).convert("RGB"))


def _keep_side_by_side(desk: Desk, name: str) -> None:
    _on_phone(desk)
    shown = [PHONES[-1], *PHONES[:-1]]
    whole = Image.new("RGB", (sum(one.width for one in shown) + 20 * (len(shown) - 1), shown[0].height), "#808080")
    for i, one in enumerate(shown):
        whole.paste(one, (i * (one.width + 20), 0))
    whole.save(OUT / f"{name}.png")


def _reckoner(desk: Desk, keep: Callable[[str], None]) -> None:
    """On the bench, filled in with the shot; on a phone in dark red."""
    page = desk.page
    desk.shot("Elder cordial, 70 cl")
    shot = page.url.split("#")[0].rsplit("/", 1)[-1]
    page.keyboard.press("1")
    page.keyboard.press("s")
    page.locator("#reckoning[open]").wait_for()
    page.keyboard.type("dof")
    page.keyboard.press("Enter")
    desk.until("document.querySelector('[data-value=distance]')?.value === '150 cm'")
    page.wait_for_timeout(500)
    keep("reckoner")
    page.keyboard.press("Escape")
    page.set_viewport_size({"width": 390, "height": 844})
    desk.go(f"/reckoner?shot={shot}#guide-number")
    page.locator("[data-theme-switch]").click()
    desk.until("document.querySelector('.ask.in-shot') !== null")
    _on_phone(desk)


def _captures(desk: Desk, keep: Callable[[str], None]) -> None:
    """Captures, the composites by themselves, the sheet, the list on a phone, a series."""
    page = desk.page
    composites = []
    for name in ("Gooseberry and its glass, five captures", "Gift carton, three captures"):
        desk.shot(name)
        address = page.url.split("#")[0]
        page.goto(f"{address}/captures")
        desk.until("document.getElementById('picture-state').textContent === 'Fine'", seconds=280)
        if not composites:
            page.locator("[data-capture=label]").click()
            page.locator("#tab-join").click()
            desk.until("document.getElementById('picture-state').textContent === 'Fine'", seconds=60)
            keep("captures")
            sheet = pdfium.PdfDocument(page.request.get(f"{address}/sheet.pdf").body())
            sheet[0].render(scale=1.6).to_pil().save(OUT / "sheet.png")
            page.set_viewport_size({"width": 390, "height": 844})
            page.goto(f"{address}/shooting")
            page.locator("#tick-black-frame").click()
            page.locator("li.done").wait_for()
            _on_phone(desk)
            page.locator("#tick-black-frame").click()
            page.set_viewport_size({"width": 1280, "height": 800})
        picture = page.request.get(f"{address}/composite.jpg?fine=1&side=800").body()
        composites.append(Image.open(io.BytesIO(picture)).convert("RGB"))
    both = Image.new("RGB", (sum(one.width for one in composites) + 8, composites[0].height), (20, 20, 20))
    for i, one in enumerate(composites):
        both.paste(one, (i * (composites[0].width + 8), 0))
    both.save(OUT / "composites.png")
    desk.shot("Elder cordial, 70 cl")
    page.goto(f"{page.url.split('#')[0]}/series")
    for name, height, width in (("Elder cordial, half", "23", "6"), ("Elder cordial, magnum", "36", "9")):
        page.get_by_label("Name of the next product").fill(name)
        page.get_by_label("Height, cm").fill(height)
        page.get_by_label("Width, cm").fill(width)
        page.get_by_role("button", name="Make it").click()
        page.locator(f".series li:has-text('{name}')").first.wait_for(timeout=120_000)
    page.wait_for_timeout(12_000)
    page.reload()
    keep("series")


if __name__ == "__main__":
    main()

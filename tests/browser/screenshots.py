"""Pictures of the main views from the demo, for the README: `./run screenshots` writes docs/screenshots/."""

from __future__ import annotations

from pathlib import Path

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
    page.get_by_role("tab", name="Product").click()
    keep("product")
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
    desk.shot("Gift carton")
    page.get_by_role("tab", name="Product").click()
    page.get_by_role("button", name="Product", exact=True).wait_for()
    keep("carton")
    desk.shot("Gooseberry, glow behind acrylic")
    page.get_by_role("tab", name="Readings").click()
    desk.judged()
    keep("readings")
    desk.shot("Gooseberry, pool of light on wood")
    page.keyboard.press("1")
    page.wait_for_timeout(400)
    keep("pool")
    desk.shot("Gooseberry glass, dark field")
    page.get_by_role("tab", name="Camera").click()
    page.wait_for_timeout(400)
    keep("dark-field")
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
    desk.shot("Elder cordial, 70 cl")
    page.get_by_role("link", name="Set sheet").click()
    page.set_viewport_size({"width": 900, "height": 1200})
    keep("sheet", full=True)
    page.set_viewport_size({"width": 1280, "height": 800})
    desk.go("/kit")
    keep("kit")
    page.set_viewport_size({"width": 390, "height": 844})
    desk.shot("Elder cordial, 70 cl")
    keep("phone")


if __name__ == "__main__":
    main()

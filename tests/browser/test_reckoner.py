"""The reckoner as it is used: by keys on a laptop, with a thumb on a phone, without the server, and from the bench into "
"the set."""

import io
import re

import numpy as np
import pytest
from PIL import Image

from fotaxis.core.reckoner.asked import asked
from fotaxis.core.reckoner.calculations import CALCULATIONS
from tests.browser.desk import Desk, box_of
from tests.browser.test_products import brought_in

pytestmark = pytest.mark.browser

PHONE = {"width": 390, "height": 844}


def figure(page):
    return page.locator("[data-figure]").inner_text()


def opened(desk, address="/reckoner"):
    """The page, with a calculation answered or its list shown."""
    desk.go("/jobs")  # so that an address that differs in its hash alone is a page anew
    desk.go(address)
    desk.until("document.querySelector('#reckoner [data-found]').children.length > 0")
    if "#" in address:
        answered(desk)
    return desk.page


def answered(desk, text=None, *, seconds=15):
    desk.until("!['', '–'].includes(document.querySelector('[data-figure]').textContent)", seconds=seconds)
    if text is not None:
        desk.until(f"document.querySelector('[data-figure]').textContent === {text!r}")


def shot_id(desk):
    return re.search(r"/shots/([0-9a-f-]{36})", desk.page.url)[1]


@pytest.fixture
def phone(browser, site):
    phone = Desk.opened(browser, site, has_touch=True)
    phone.page.set_viewport_size(PHONE)
    phone.sign_in()
    yield phone
    phone.page.context.close()
    assert phone.errors == []
    assert phone.elsewhere == []


@pytest.mark.parametrize(
    ("typed", "key"),
    [("bel", "magnification"), ("dof", "depth-of-field"), ("watt", "circuit"), ("sandb", "boom"), ("gel", "mired")],
)
def test_a_calculation_is_found_by_typing(desk, typed, key):
    page = opened(desk)
    page.keyboard.press("/")
    page.keyboard.type(typed)
    shown = page.locator("[data-found] [data-key]").evaluate_all("rows => rows.map((row) => row.dataset.key)")
    assert key in shown[:2]
    page.locator(f"[data-found] [data-key={key}]").press("Enter")
    desk.until(f"location.hash === '#{key}'")


def test_by_keys_alone(desk):
    page = opened(desk)
    page.keyboard.press("/")
    page.keyboard.type("guide")
    page.keyboard.press("Enter")  # opens the first, its first field in hand
    answered(desk)
    page.keyboard.type("56 m")
    page.keyboard.press("Tab")
    page.keyboard.press("Tab")
    page.locator("[data-value=distance]").focus()
    page.keyboard.type("7 m")
    page.locator("[data-value=power]").focus()
    page.keyboard.type("1/1")
    answered(desk, "f/8")  # ISO 1230: 56 / 7
    page.locator("[data-value=iso]").focus()
    for _ in range(3):
        page.keyboard.press("ArrowUp")
    desk.until("document.querySelector('[data-value=iso]').value === '200'")
    answered(desk, "f/11")
    # A question mark asks for this field instead; what was asked for is known then.
    page.locator("[data-value=distance]").focus()
    page.keyboard.type("?")
    desk.until("document.querySelector('[data-what]').textContent === 'Head to product'")
    answered(desk, "7 m")
    assert page.locator("[data-value=f_number]").input_value() == "f/11"
    page.get_by_text("How it is reckoned").click()
    assert "N d = GN" in page.locator("[data-formula]").inner_text()
    assert "ISO 1230" in page.locator("[data-source]").inner_text()


def test_every_calculation_shows_an_answer_and_a_picture(desk):
    page = opened(desk, "/reckoner#stops")
    for one in CALCULATIONS:
        page.evaluate(f"location.hash = '{one.key}'")
        desk.until(f"document.querySelector('#reckoner').dataset.open === '{one.key}'")
        answered(desk, asked({"key": one.key})["gives"][0]["text"])
        desk.until("document.querySelector('[data-picture] svg') !== null")
        seen = np.asarray(Image.open(io.BytesIO(page.locator("[data-picture] svg").screenshot())).convert("L"), float)
        assert seen.std() > 4, f"{one.key}: nothing is drawn"
        over = page.locator("[data-picture] svg text").evaluate_all(
            "all => all.filter((text) => { const a = text.getBoundingClientRect(), b = "
            "text.ownerSVGElement.getBoundingClientRect();"
            " return a.left < b.left - 2 || a.right > b.right + 2; }).map((text) => text.textContent)"
        )
        assert over == [], one.key


def test_wrong_input_is_refused_at_its_field(desk):
    page = opened(desk, "/reckoner#depth-of-field")
    page.locator("[data-value=f_number]").fill("0")
    desk.until("!document.querySelector('[data-problem]').hidden")
    assert "it must be from f/0.5 to f/512" in page.locator("[data-problem]").inner_text()
    assert page.locator("[data-value=f_number]").get_attribute("aria-invalid") == "true"
    assert figure(page) == "–"
    page.locator("[data-value=f_number]").fill("11")
    answered(desk)
    assert page.locator("[data-problem]").is_hidden()


def test_the_browser_and_the_server_say_the_same(desk):
    """Every calculation by Python in the browser, against the core here."""
    page = opened(desk, "/reckoner#stops")
    desk.until("document.body.dataset.computes === 'here'", seconds=90)
    for one in CALCULATIONS:
        page.evaluate(f"location.hash = '{one.key}'")
        desk.until(f"document.querySelector('#reckoner').dataset.open === '{one.key}'")
        told = asked({"key": one.key})
        answered(desk, told["gives"][0]["text"])
        shown = page.locator("[data-gives] dd").all_inner_texts()
        assert shown == [give["text"] for give in told["gives"][1:]]
        assert page.locator("[data-cautions] li").all_inner_texts() == told["cautions"]


def test_what_was_typed_last_is_remembered_by_shot(desk):
    desk.shot("Elder cordial, 70 cl")
    first = shot_id(desk)
    desk.shot("Gooseberry cordial")
    second = shot_id(desk)
    page = opened(desk, f"/reckoner?shot={first}#guide-number")
    desk.until("document.querySelector('[data-value=iso]')?.value === '100'")
    page.locator("[data-value=heads]").fill("3")
    desk.until("localStorage.getItem(Object.keys(localStorage).find((key) => key.startsWith('fotaxis-reckoner:'))) !== null")
    opened(desk, f"/reckoner?shot={second}#guide-number")
    desk.until("document.querySelector('#reckoner-shot').hidden === false")
    assert page.locator("[data-value=heads]").input_value() == "1"
    opened(desk, f"/reckoner?shot={first}#guide-number")
    desk.until("document.querySelector('[data-value=heads]')?.value === '3'")
    page.locator("[data-again]").click()
    desk.until("document.querySelector('[data-value=heads]')?.value === '1'")


def test_with_a_thumb_on_a_phone(phone):
    page = opened(phone)
    assert page.locator("[data-one]").is_hidden()
    page.get_by_role("button", name="Depth of field", exact=True).tap()
    answered(phone, "8.7 cm")
    shown = box_of(page.locator("[data-figure]"))
    assert shown["height"] >= 60  # read at arm's length
    for button in page.locator(".ask .less, .ask .more, .reckoner-bar button:visible").all():
        box = box_of(button)
        assert min(box["width"], box["height"]) >= 44, button.inner_text()
    page.get_by_role("button", name="Aperture: more").tap()
    phone.until("document.querySelector('[data-value=f_number]').value === 'f/13'")
    assert float(figure(page).split()[0]) > 8.7
    page.get_by_role("button", name="Ask for Aperture").tap()
    phone.until("document.querySelector('[data-what]').textContent === 'Aperture'")
    answered(phone, "f/13")
    # Scrolled to the end, the answer still stands above the fields.
    page.locator("[data-one]").evaluate("(one) => { one.scrollTop = one.scrollHeight; }")
    assert box_of(page.locator("[data-figure]"))["y"] < 200
    assert page.evaluate("document.documentElement.scrollWidth <= innerWidth")
    page.locator("[data-all]").tap()
    assert page.locator("[data-find]").is_visible()
    assert box_of(page.locator("[data-find]"))["y"] > 700  # where the thumb is


@pytest.mark.parametrize("size", [PHONE, {"width": 1280, "height": 800}])
def test_no_figure_and_no_field_is_cut_off(desk, size):
    desk.page.set_viewport_size(size)
    page = opened(desk, "/reckoner#stops")
    for one in CALCULATIONS:
        page.evaluate(f"location.hash = '{one.key}'")
        desk.until(f"document.querySelector('#reckoner').dataset.open === '{one.key}'")
        answered(desk, asked({"key": one.key})["gives"][0]["text"])
        cut = page.evaluate(
            "[...document.querySelectorAll('.ask input:not([data-kind=list]), .is, [data-figure], [data-gives] dd')]"
            ".filter((part) => part.scrollWidth > part.clientWidth + 1).map((part) => part.value || part.textContent)"
        )
        assert cut == [], one.key


def light_of(page):
    """Mean levels of the window, red, green, blue."""
    picture = Image.open(io.BytesIO(page.screenshot())).convert("RGB")
    return np.asarray(picture, float).reshape(-1, 3).mean(axis=0)


def test_dark_red_for_a_dark_room(phone):
    page = opened(phone, "/reckoner#guide-number")
    dark = light_of(page)
    page.get_by_role("button", name="Theme").tap()
    assert page.evaluate("document.documentElement.dataset.theme") == "red"
    red, green, blue = light_of(page)
    assert red > 3 * max(green, blue)
    assert (red + green + blue) < dark.sum()
    assert _contrast(page, "[data-figure]") > 4.5
    assert _contrast(page, ".ask small:not(:empty), .ask label") > 4.5
    page.reload()
    assert page.evaluate("document.documentElement.dataset.theme") == "red"
    phone.go("/jobs")  # the pages where pictures are judged stay grey
    assert page.evaluate("document.documentElement.dataset.theme") == "dark"


def _contrast(page, selector):
    """WCAG contrast of an element's text against the page's ground."""
    shades = page.evaluate(
        f"[getComputedStyle(document.querySelector('{selector}')).color, "
        "getComputedStyle(document.documentElement).backgroundColor]"
    )

    def luminance(shade):
        levels = np.array([float(n) for n in re.findall(r"[\d.]+", shade)[:3]]) / 255
        linear = np.where(levels <= 0.04045, levels / 12.92, ((levels + 0.055) / 1.055) ** 2.4)
        return float(linear @ [0.2126, 0.7152, 0.0722])

    high, low = sorted((luminance(shade) for shade in shades), reverse=True)
    return (high + 0.05) / (low + 0.05)


@pytest.mark.parametrize("size", [PHONE, {"width": 1280, "height": 800}])
def test_once_opened_it_works_without_the_server(browser, site, size, tmp_path):
    desk = Desk.opened(browser, site)
    desk.sign_in()
    brought_in(desk, tmp_path, "elder-cordial")  # the demo's own is moved about by other tests
    shot = shot_id(desk)
    desk.page.set_viewport_size(size)
    page = opened(desk, f"/reckoner?shot={shot}#depth-of-field")
    desk.until("document.body.dataset.keeps === 'yes'", seconds=90)
    desk.until("document.querySelector('[data-value=f_number]').value === 'f/8'")
    page.context.set_offline(True)
    page.reload()
    answered(desk, seconds=90)  # Python begins anew
    desk.until("document.querySelector('[data-value=distance]').value === '150 cm'")  # the shot's numbers of the last time
    page.locator("[data-value=f_number]").fill("16")
    told = asked(
        {
            "key": "depth-of-field",
            "texts": {"focal": "100 mm", "distance": "150 cm", "f_number": "16", "circle": "0.026 mm"},
        }
    )
    answered(desk, told["gives"][0]["text"])
    # Another calculation, its picture too, and back again after the browser was closed on it.
    page.evaluate("location.hash = 'circuit'")
    desk.until("document.querySelector('[data-cautions] li') !== null")
    assert page.locator("[data-picture] svg").is_visible()
    page.reload()
    answered(desk, seconds=90)  # Python begins anew
    page.context.set_offline(False)
    page.context.close()
    assert [said for said in desk.errors if "ERR_INTERNET_DISCONNECTED" not in said] == []


def picture(page):
    return np.asarray(Image.open(io.BytesIO(page.locator("#frame").screenshot())).convert("L"), float)


def test_from_the_bench_into_the_set_and_onto_its_sheet(desk, tmp_path):
    """The job of the handbook that is done most: the picture is a stop too bright at this aperture; three keys and a word take it."""
    brought_in(desk, tmp_path, "elder-cordial")
    page, address = desk.page, desk.page.url
    before = picture(page)
    page.keyboard.press("1")
    page.keyboard.press("s")  # the reckoner, filled in
    page.locator("#reckoning[open]").wait_for()
    desk.until("document.activeElement.matches('[data-find]')")
    page.keyboard.type("stops from")
    page.keyboard.press("Enter")
    desk.until("document.querySelector('[data-value=f_number]')?.value === 'f/8'")
    assert page.locator(".ask.in-shot").count() >= 5
    page.locator("[data-value=new_f_number]").fill("11")
    answered(desk, "−1 stop")
    desk.after_saved(lambda: page.keyboard.press("Enter"))  # one key takes it
    assert page.locator("#reckoning[open]").count() == 0
    page.get_by_text("Taken: aperture f/11. It stands on the set sheet.").wait_for()
    assert float(page.locator("#exposure select").nth(2).input_value()) == pytest.approx(8 * 2**0.5)
    assert picture(page).mean() < before.mean() - 1  # pixels that change: a stop less
    # What makes up for it: ISO, asked for first, then told that nothing may change.
    page.keyboard.press("s")
    page.locator("#reckoning[open]").wait_for()
    page.get_by_role("button", name="Ask for ISO now").click()
    desk.until("document.querySelector('[data-value=f_number]')?.value === 'f/11'")
    page.locator("[data-value=difference]").fill("+1")
    answered(desk, "200")
    page.locator("[data-value=difference]").focus()
    desk.after_saved(lambda: page.keyboard.press("Enter"))
    assert float(page.locator("#exposure select").nth(0).input_value()) == 200
    assert abs(picture(page) - before).mean() < 1
    page.goto(f"{address}/sheet")
    told = page.locator(".reckoned").inner_text()
    assert "Brighter or darker by −1 stop" in told
    assert "ISO now 200" in told
    page.goto(address)
    desk.settled()
    for _ in range(2):
        desk.after_saved(lambda: page.keyboard.press("Control+z"))
    assert float(page.locator("#exposure select").nth(0).input_value()) == 100
    page.goto(f"{address}/sheet")
    assert page.locator(".reckoned").count() == 0


def test_the_phone_takes_an_answer_into_the_shot_and_off_its_sheet(phone):
    phone.shot("Gooseberry cordial")
    shot = shot_id(phone)
    page = opened(phone, f"/reckoner?shot={shot}#boom")
    phone.until("document.querySelector('[data-sheet]').hidden === false")
    page.locator("[data-sheet]").tap()
    page.locator("[data-kept-list] li").wait_for()
    assert "Boom" in page.locator("[data-kept-list] li").inner_text()
    # What stands on the sheet is asked again as it was, whatever was typed since.
    page.locator("[data-value=load]").fill("9 kg")
    page.locator("[data-kept-list] button").first.tap()
    phone.until("document.querySelector('[data-value=load]').value === '3.5 kg'")
    page.get_by_role("button", name="off the sheet").tap()
    phone.until("document.querySelector('.reckoner-kept').hidden")

"""People, two at one shot, and a line that breaks: the real pages in a real browser."""

import re

import pytest

from fotaxis.demo.scenario import LOGIN, PASSWORD
from tests.browser.desk import Desk

pytestmark = pytest.mark.browser


def opened(browser, site, login=LOGIN, password=PASSWORD):
    made = Desk.opened(browser, site)
    made.sign_in(login=login, password=password)
    return made


def iso(desk):
    return desk.page.locator("#iso").input_value()


def choose_iso(desk, value):
    desk.page.locator("#iso").select_option(value)


def test_what_is_changed_while_the_server_is_away_waits_and_is_saved_once(desk):
    desk.shot("Elder cordial, 70 cl")
    before = int(desk.page.evaluate("document.body.dataset.revision"))
    desk.page.route("**/changes", lambda route: route.abort())
    desk.page.route("**/health", lambda route: route.abort())
    choose_iso(desk, "200.0")
    desk.until("document.getElementById('frame-note').textContent.includes('cannot be reached')")
    assert desk.page.locator("#saved").text_content().startswith("offline")
    choose_iso(desk, "400.0")
    assert "2 waiting" in desk.page.locator("#saved").text_content()
    assert "waits" in desk.page.evaluate("getComputedStyle(document.getElementById('undo'), '::after').content")
    desk.page.unroute("**/changes")
    desk.page.unroute("**/health")
    desk.until(f"document.body.dataset.revision === '{before + 2}'")
    desk.until("document.getElementById('saved').textContent === 'saved'")
    assert desk.page.locator("#frame-note").is_hidden()
    desk.errors[:] = [e for e in desk.errors if "ERR_FAILED" not in e]  # the line that was cut, as the browser says it


def test_a_save_that_was_kept_but_not_answered_is_not_doubled(desk):
    desk.shot("Elder cordial, 70 cl")
    before = desk.page.locator("#lights .light").count()
    dropped = []

    def lose_the_first_answer(route):
        if dropped:
            route.continue_()
            return
        dropped.append(route.fetch())  # the server keeps it
        route.abort()

    desk.page.route("**/things", lose_the_first_answer)
    desk.page.keyboard.press("n")
    desk.page.locator("#adding [data-add]").first.click()
    desk.until(f"document.querySelectorAll('#lights .light').length > {before}", seconds=20)
    desk.settled()
    assert len(dropped) == 1
    assert desk.page.locator("#lights .light").count() == before + 1
    desk.page.keyboard.press("Control+z")
    desk.until(f"document.querySelectorAll('#lights .light').length === {before}")
    desk.errors[:] = [e for e in desk.errors if "ERR_FAILED" not in e]


def test_after_signing_out_elsewhere_work_waits_and_goes_on_after_signing_in_in_another_tab(browser, site):
    desk = opened(browser, site)
    desk.shot("Elder cordial, 70 cl")
    before = int(desk.page.evaluate("document.body.dataset.revision"))
    other = desk.page.context.new_page()
    other.goto(f"{site}/account")
    other.get_by_role("button", name="Sign out").first.click()
    other.wait_for_url("**/sign-in")
    desk.until("document.getElementById('frame-note').textContent.includes('signed out')")
    choose_iso(desk, "320.0")
    desk.until("document.getElementById('saved').textContent.startsWith('signed out')")
    other.fill("[name=login]", LOGIN)
    other.fill("[name=password]", PASSWORD)
    other.locator("button.main").click()
    other.wait_for_url("**/jobs")
    desk.until(f"Number(document.body.dataset.revision) > {before}", seconds=20)
    assert iso(desk) == "320.0"
    desk.page.context.close()


def test_the_loser_of_two_at_one_field_is_told_and_can_set_it_all_the_same(browser, site):
    one, two = opened(browser, site), opened(browser, site)
    one.shot("Plum preserve, squat jar")
    two.go(one.page.url.removeprefix(site))
    two.settled()
    one.until("document.getElementById('people').textContent.includes('is here')")
    start = int(one.page.evaluate("document.body.dataset.revision"))
    # The first one's change is on its way while the second one's is kept.
    held = []
    one.page.route("**/changes", lambda route: held.append(route))
    choose_iso(one, "200.0")
    one.wait(lambda: held, "the change is on its way")
    choose_iso(two, "400.0")
    two.until(f"document.body.dataset.revision === '{start + 1}'")
    held[0].continue_()
    one.page.unroute("**/changes")
    one.until("document.getElementById('frame-note').textContent.includes('meanwhile, to 400')")
    assert "yours (200)" in one.page.locator("#frame-note").text_content()
    one.until("document.getElementById('iso').value === '400.0'")
    one.page.get_by_role("button", name="Set mine all the same").click()
    two.until("document.getElementById('iso').value === '200.0'", seconds=20)
    for desk in (one, two):
        desk.page.context.close()


def test_others_at_the_shot_are_named_with_what_they_hold(browser, site):
    one, two = opened(browser, site), opened(browser, site)
    one.shot("Elder cordial, 70 cl")
    two.go(one.page.url.removeprefix(site))
    two.settled()
    two.page.keyboard.press("1")
    one.until("document.getElementById('people').textContent.includes('holds Left panel')")
    assert one.page.locator(".light.held-elsewhere").count() == 1
    two.page.close()
    one.until("document.getElementById('people').textContent === ''")
    one.page.context.close()
    two.page.context.close()


def test_a_shot_that_was_open_before_shows_its_last_picture_at_once(desk):
    desk.shot("Gooseberry cordial with its glass")
    desk.settled()
    desk.page.wait_for_timeout(500)  # the picture is kept after it is shown
    address = desk.page.url
    desk.page.goto("about:blank")
    desk.page.route("**/layers*", lambda route: None)  # nothing new comes
    desk.page.route_web_socket(re.compile("/live"), lambda socket: None)
    desk.page.goto(address)
    desk.until("document.body.dataset.last === 'present'")
    lit = """() => { const c = document.getElementById('frame'), d = c.getContext('2d').getImageData(0, 0, c.width, c.height).data;
      let n = 0; for (let i = 0; i < d.length; i += 4) n += d[i] > 60; return n / (d.length / 4); }"""
    assert desk.page.evaluate(lit) > 0.1
    desk.page.unroute_all(behavior="ignoreErrors")


def test_somebody_is_invited_by_link_in_the_browser(desk, browser, site):
    desk.go("/studio")
    desk.page.locator("form.add select[name=role]").select_option("client")
    desk.page.get_by_role("button", name="Make a link").click()
    desk.page.wait_for_selector("#told input")
    link = desk.page.locator("#told input").input_value()
    guest = Desk.opened(browser, site)
    guest.page.goto(link)
    for name, value in (("name", "Visiting client"), ("login", "client@visit.example"), ("password", "a long enough one")):
        guest.page.fill(f"[name={name}]", value)
    guest.page.get_by_role("button", name="Join").click()
    guest.page.wait_for_url("**/sign-in")
    guest.sign_in(login="client@visit.example", password="a long enough one")
    guest.page.get_by_text("Brindlemoor winter range").click()
    guest.page.wait_for_url("**/jobs/*")
    assert guest.page.get_by_role("button", name="Remove").count() == 0
    guest.page.get_by_text("Elder cordial, 70 cl").first.click()
    guest.page.wait_for_url("**/look")
    guest.until("document.body.dataset.state !== undefined")
    assert guest.errors == []
    guest.page.context.close()
    desk.go("/studio")
    row = desk.page.locator("li", has_text="client@visit.example")
    desk.page.once("dialog", lambda dialog: dialog.accept())
    row.get_by_role("button", name="Remove").click()
    desk.wait(lambda: desk.page.locator("li", has_text="client@visit.example").count() == 0, "the client is gone")


def test_a_passkey_is_added_and_opens_the_door(browser, site):
    site = site.replace("127.0.0.1", "localhost")  # passkeys are bound to names, not to numbers
    desk = Desk.opened(browser, site)
    tool = desk.page.context.new_cdp_session(desk.page)
    tool.send("WebAuthn.enable")
    tool.send("WebAuthn.addVirtualAuthenticator", {"options": {
        "protocol": "ctap2", "transport": "internal", "hasResidentKey": True, "hasUserVerification": True, "isUserVerified": True,
    }})  # fmt: skip
    desk.sign_in()
    desk.go("/account")
    desk.page.fill("#passkey-name", "Test key")
    desk.page.get_by_role("button", name="Add a passkey").click()
    desk.page.wait_for_selector("text=Test key")
    desk.page.get_by_role("button", name="Sign out").last.click()
    desk.page.wait_for_url("**/sign-in")
    desk.page.get_by_role("button", name="Use a passkey").click()
    desk.page.wait_for_url("**/jobs")
    desk.go("/account")
    assert "last used" in desk.page.locator("li", has_text="Test key").text_content()
    desk.page.locator("li", has_text="Test key").get_by_role("button", name="Remove").click()
    desk.wait(lambda: desk.page.get_by_text("Test key").count() == 0, "the key is gone")
    assert desk.errors == []
    desk.page.context.close()


def test_a_form_waits_while_the_server_is_away(desk):
    desk.go("/jobs")
    desk.page.route("**/jobs", lambda route: route.abort() if route.request.method == "POST" else route.continue_())
    desk.page.route("**/health", lambda route: route.abort())
    desk.page.fill("form.add [name=name]", "Made offline")
    desk.page.get_by_role("button", name="Create").click()
    desk.page.wait_for_selector("#offline:not([hidden])")
    desk.page.unroute("**/jobs")
    desk.page.unroute("**/health")
    desk.page.wait_for_url("**/jobs/*", timeout=15000)
    desk.go("/jobs")
    assert desk.page.get_by_text("Made offline").count() == 1
    desk.page.locator("li", has_text="Made offline").get_by_role("button", name="Archive").click()
    desk.page.wait_for_load_state()
    desk.errors[:] = [e for e in desk.errors if "ERR_FAILED" not in e and "Failed to fetch" not in e]


def test_the_set_sheet_shows_a_quick_picture_and_swaps_to_the_fine_one(desk):
    desk.shot("Elder cordial, 70 cl")
    address = desk.page.url
    choose_iso(desk, "125.0")  # nothing of this exposure has been made yet
    desk.until("document.getElementById('saved').textContent === 'saved'")
    desk.page.goto(f"{address}/sheet")
    desk.until("document.querySelector('img[data-fine]').dataset.swapped === 'yes'", seconds=60)
    assert "fine=1" in desk.page.locator("img[data-fine]").get_attribute("src")
    assert desk.page.locator("[data-fine-note]").is_hidden()
    tall = desk.page.evaluate("document.querySelector('img[data-fine]').naturalHeight")
    assert tall == 920  # 900 asked for; sizes are 40 apart

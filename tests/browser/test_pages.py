"""Every page: no serious accessibility fault, one sheet of paper, jobs and frames as a photographer uses them."""

import io
from pathlib import Path

import pytest
from PIL import Image

from tests.browser.desk import Desk
from tests.formats import samples

pytestmark = pytest.mark.browser

AXE = (Path(__file__).parents[2] / "node_modules/axe-core/axe.min.js").read_text()


def serious_faults(page):
    """What axe-core calls serious or critical, as 'rule: first element'."""
    page.evaluate(AXE)
    found = page.evaluate("() => axe.run(document, { resultTypes: ['violations'] }).then((r) => r.violations)")
    return [f"{v['id']}: {v['nodes'][0]['html'][:120]}" for v in found if v["impact"] in ("serious", "critical")]


def pages(desk):
    yield "/jobs"
    yield "/jobs?archived=true"
    desk.go("/jobs")
    desk.page.get_by_role("link", name="Brindlemoor winter range").click()
    yield desk.page.url.removeprefix(desk.site)
    desk.shot("first try")
    shot = desk.page.url.removeprefix(desk.site)
    yield shot
    yield f"{shot}/sheet"
    yield f"{shot}/frames"
    desk.go(f"{shot}/frames")
    desk.page.locator("ul.shots a").first.click()
    yield desk.page.url.removeprefix(desk.site)


@pytest.mark.parametrize("theme", ["dark", "light"])
def test_no_page_has_a_serious_fault(desk, theme):
    desk.page.add_init_script(f"localStorage.setItem('fotaxis-theme', '{theme}')")
    seen = 0
    for address in pages(desk):
        desk.go(address)
        if "/shots/" in address and address.count("/") == 2:
            desk.settled()
        assert serious_faults(desk.page) == [], f"{address} ({theme})"
        seen += 1
    assert seen == 7


def test_every_part_of_the_bench_has_no_serious_fault(desk):
    desk.shot("Elder cordial, 70 cl")
    for tab in ("Product", "Camera", "Surface", "Readings", "States", "Set"):
        desk.page.get_by_role("tab", name=tab).click()
        desk.page.wait_for_timeout(400)
        if tab == "Readings":
            if desk.page.locator("#usual-readings").is_enabled():
                desk.page.locator("#usual-readings").click()
            desk.until("document.querySelectorAll('#readings-table tbody tr').length >= 4")
        assert serious_faults(desk.page) == [], tab
    for key in ("1", "3"):
        desk.page.keyboard.press(key)
        desk.page.wait_for_timeout(200)
        assert serious_faults(desk.page) == [], f"light {key} selected"
    desk.page.keyboard.press("n")
    desk.page.wait_for_selector("#adding[open]")
    assert serious_faults(desk.page) == [], "adding"


def test_pages_before_sign_in_have_no_serious_fault(browser, site):
    desk = Desk.opened(browser, site)
    desk.go("/sign-in")
    assert serious_faults(desk.page) == []
    desk.page.get_by_label("Name or e-mail").fill("nobody@ostrel.example")
    desk.page.get_by_label("Password").fill("wrong")
    desk.page.get_by_role("button", name="Sign in").click()
    assert "do not belong together" in desk.page.get_by_role("alert").inner_text()
    assert serious_faults(desk.page) == []
    desk.page.context.close()


@pytest.mark.parametrize("name", ["Elder cordial, 70 cl", "first try", "Plum preserve"])
@pytest.mark.parametrize("paper", ["A4", "Letter"])
def test_the_sheet_prints_on_one_page(desk, name, paper):
    desk.shot(name)
    desk.page.get_by_role("link", name="Set sheet").click()
    desk.page.wait_for_load_state("networkidle")
    pdf = desk.page.pdf(format=paper, prefer_css_page_size=False, print_background=True)
    assert pdf.count(b"/Type /Page\n") + pdf.count(b"/Type /Page ") + pdf.count(b"/Type /Page>") == 1


def test_the_sheet_holds_what_rebuilds_the_set(desk):
    desk.shot("Elder cordial, 70 cl")
    desk.page.get_by_role("link", name="Set sheet").click()
    desk.pictures_loaded()
    desk.page.emulate_media(media="print")
    text = desk.page.locator("main").inner_text()
    for words in ("ISO 100", "100 mm", "Left", "Right", "cm", "f/", "°", "Predicted frame", "Plan, from above", "Elevation"):
        assert words in text, words
    assert desk.page.locator("table tbody tr").count() >= 3
    assert desk.page.locator("figure svg").count() == 2
    assert desk.page.evaluate("document.querySelector('figure img').naturalWidth") >= 480
    assert not desk.page.get_by_role("button", name="Print").is_visible()


def test_a_job_from_nothing_to_a_shot_in_the_archive(desk):
    page = desk.page
    desk.go("/jobs")
    page.get_by_label("New job").fill("Test range")
    page.get_by_role("button", name="Create").click()
    page.wait_for_url("**/jobs/*-*")
    assert "No shots yet" in page.locator(".empty").inner_text()
    page.get_by_label("New shot").fill("Small jar")
    page.get_by_label("Begin with").select_option("jar")
    page.get_by_role("button", name="Create").click()
    page.wait_for_url("**/shots/*")
    desk.settled()
    page.get_by_role("link", name="Test range").click()
    page.get_by_role("button", name="Duplicate").click()
    page.wait_for_selector("text=Small jar (copy)")
    card = page.locator("li", has_text="(copy)")
    card.locator("summary").click()
    card.get_by_label("New name").fill("Jar from the left")
    card.get_by_role("button", name="Rename").click()
    page.wait_for_selector("text=Jar from the left")
    page.locator("li", has_text="Jar from the left").get_by_role("button", name="Archive").click()
    page.wait_for_selector("text=Jar from the left", state="detached")
    page.get_by_role("link", name="Archived shots").click()
    page.get_by_role("button", name="Restore").click()
    page.wait_for_selector("text=Small jar")
    desk.pictures_loaded()


def test_export_gives_the_file_that_import_takes(desk, tmp_path):
    desk.shot("Plum preserve")
    with desk.page.expect_download() as waiting:
        desk.page.get_by_role("link", name="Export").click()
    file = tmp_path / waiting.value.suggested_filename
    waiting.value.save_as(file)
    assert file.suffix == ".json"
    desk.import_file(file)
    desk.page.wait_for_url("**/shots/*")
    desk.settled()
    again = desk.page.request.get(desk.page.url + "/export").body()
    assert again == file.read_bytes()


def test_a_picture_given_as_a_shot_file_is_refused_in_place(desk, tmp_path):
    file = tmp_path / "picture.json"
    file.write_bytes(samples.encoded("PNG"))
    desk.import_file(file)
    assert "this is not text" in desk.page.locator("#problem [role=alert]").inner_text()
    desk.errors[:] = [text for text in desk.errors if "422" not in text]


def test_a_test_frame_stands_beside_the_prediction(desk, tmp_path):
    """A photograph half clipped, wider than the crop: shown at the shot's crop, its clipped part marked."""
    image = Image.new("RGB", (1500, 1000), (40, 40, 40))
    image.paste((255, 255, 255), (700, 0, 1500, 1000))
    data = io.BytesIO()
    image.save(data, "JPEG", quality=95)
    file = tmp_path / "frame.jpg"
    file.write_bytes(data.getvalue())
    desk.shot("Plum preserve")
    desk.page.get_by_role("link", name="Frames").click()
    desk.page.get_by_label("Photograph").set_input_files(file)
    desk.page.get_by_label("Note").fill("half white")
    desk.page.get_by_role("button", name="Attach").click()
    desk.page.wait_for_url("**/frames/*")
    desk.pictures_loaded()
    shapes = desk.page.evaluate("[...document.images].map((i) => i.naturalWidth / i.naturalHeight)")
    assert len(shapes) >= 2
    assert shapes[0] == pytest.approx(shapes[1], rel=0.01)
    text = desk.page.locator("main").inner_text()
    assert desk.page.get_by_label("Note").input_value() == "half white"
    assert "%" in text
    assert "stops" in text
    with desk.page.expect_download() as waiting:
        desk.page.get_by_role("link", name="The file as it came").click()
    assert Path(waiting.value.path()).read_bytes() == data.getvalue()


def test_signing_out(desk):
    desk.go("/jobs")
    desk.page.get_by_role("button", name="Sign out").click()
    desk.page.wait_for_url("**/sign-in")
    desk.go("/jobs")
    assert desk.page.url.endswith("/sign-in")

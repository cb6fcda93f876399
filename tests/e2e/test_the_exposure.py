"""A night's exposures as a person settles them: handle, schools, ISO, filter, Moon, a test picture, the camera, the card."""

import re
from datetime import UTC, datetime
from pathlib import Path

import numpy as np
import pytest
from playwright.sync_api import Page, expect

from tests.e2e.conftest import MEASURED_MS, choose
from tests.e2e.journeys import violations
from tests.invented import write_test_picture
from widedusk.core.simulate.camera import CardHeader, as_fits
from widedusk.core.simulate.lens import InventedLens, Shot, picture
from widedusk.core.simulate.readout import Readout

NEW_MOON = datetime(2026, 11, 10, 20, 0, tzinfo=UTC)


def open_exposure(page: Page, tab: str = "") -> None:
    page.get_by_role("link", name="Exposure", exact=True).click()
    page.get_by_role("slider", name="Length of a sub").wait_for()
    if tab:
        page.locator(".tabs").get_by_role("link", name=tab, exact=True).click()


def sub_sentence(page: Page):
    return page.get_by_role("region", name="Exposure", exact=True).locator(".sentence")


def set_to(page: Page, label: str, option: str) -> None:
    choose(page, label, option)
    page.keyboard.press("Escape")


def handle(page: Page):
    return page.get_by_role("slider", name="Length of a sub")


def test_the_handle_by_mouse_and_by_keys_and_every_control(signed_in):
    page = signed_in()
    open_exposure(page)
    expect(sub_sentence(page)).to_contain_text("90 s")
    # By keys: two steps shorter, read out at once, taken when they rest.
    handle(page).focus()
    page.keyboard.press("ArrowLeft")
    page.keyboard.press("ArrowLeft")
    expect(handle(page)).to_have_attribute("aria-valuetext", re.compile(r"^40 s: keeps 99 %"))
    expect(sub_sentence(page)).to_contain_text("40 s")
    expect(page).to_have_url(re.compile("sub_school=fixed.*fixed_sub_s=40|fixed_sub_s=40.*sub_school=fixed"))
    # By mouse: dragged far to the right the frames are lost, and the page says so before the server is asked.
    box = handle(page).bounding_box()
    page.mouse.move(box["x"] + 500, box["y"] + 100)
    page.mouse.down()
    page.mouse.move(box["x"] + box["width"] - 60, box["y"] + 100, steps=4)
    expect(page.locator(".subwindow figcaption")).to_contain_text("kept 0 %")
    page.mouse.up()
    expect(sub_sentence(page)).to_contain_text("10 min")
    expect(page.get_by_role("region", name="Exposure", exact=True)).to_contain_text("Only 0 % of frames stay sharp")
    # Back, and through the schools.
    page.get_by_role("button", name="Back to the advice").click()
    expect(sub_sentence(page)).to_contain_text("90 s")
    page.get_by_role("button", name="Always 30 s").click()
    expect(sub_sentence(page)).to_contain_text("30 s")
    set_to(page, "Length", "sky-limited minimum")
    expect(page.get_by_role("row", name=re.compile("Sky-limited minimum"))).to_have_class(re.compile("chosen"))
    # Each control changes the answer without a reload.
    page.evaluate("window.still = true")
    set_to(page, "ISO", "ISO 400")
    expect(sub_sentence(page)).to_contain_text("ISO 400")
    set_to(page, "Aperture", "f/5.6")
    expect(sub_sentence(page)).to_contain_text("f/5.6")
    set_to(page, "Filter", "Dual-band filter")
    expect(page.get_by_role("button", name=re.compile("Sky in a pixel: 0.0"))).to_be_visible()
    set_to(page, "Wind", "fresh")
    expect(page.locator(".names")).to_contain_text("Wind")
    set_to(page, "The camera is", "untracked")
    expect(page.locator(".names")).to_contain_text("No tracker")
    set_to(page, "Untracked by", "500 over focal length")
    expect(sub_sentence(page)).to_contain_text(re.compile(r"1\.8 s|2 s"))
    set_to(page, "The camera is", "guided, both axes")
    expect(page.locator(".names")).to_contain_text("Field rotation about the guide star")
    assert page.evaluate("window.still") is True
    # A working opens from a span; the table stands behind the drawing.
    page.locator(".names").get_by_role("button", name="Field rotation about the guide star").click()
    expect(page.locator("dialog[open]")).to_contain_text("Rotation of frames")
    page.keyboard.press("Escape")
    page.get_by_role("button", name="As a table").click()
    expect(page.get_by_role("dialog")).to_contain_text("Hours to the goal")


def test_light_counts_and_comparison(signed_in):
    page = signed_in()
    open_exposure(page, "ISO, aperture, filter")
    expect(page.get_by_role("row", name=re.compile("^1600 "))).to_be_visible()
    page.get_by_role("button", name="1600", exact=True).click()
    expect(page).to_have_url(re.compile("iso=1600"))
    filters = page.get_by_role("row", name=re.compile("Dual-band filter"))
    expect(filters).to_contain_text("pays")
    moonless = filters.inner_text()
    usual = page.get_by_role("row", name=re.compile("An Hα filter"))
    expect(usual).to_contain_text("not yours")
    usual.get_by_role("button").last.click()
    expect(page.get_by_role("dialog")).to_contain_text("An Hα filter of 7 nm: ")
    expect(page.get_by_role("dialog").locator("article")).to_have_count(1)
    page.keyboard.press("Escape")
    # A fortnight on, the Moon is up: the same filter saves more.
    page.get_by_role("textbox", name="Night").fill("20 Dec 2026")
    page.keyboard.press("Enter")
    expect(filters).not_to_have_text(moonless)
    page.go_back()
    page.locator(".tabs").get_by_role("link", name="How many").click()
    sentence = page.locator(".sentence").first
    expect(sentence).to_contain_text("frames to shoot")
    before = sentence.inner_text()
    page.get_by_label("Frames kept").fill("0")
    page.get_by_label("Each (s)").fill("60")
    page.get_by_role("textbox", name="f-number").fill("5.6")
    page.get_by_role("button", name="Add this night").click()
    expect(page.get_by_role("alert").first).to_contain_text("0 cannot be right")
    page.get_by_label("Frames kept").fill("60")
    page.get_by_role("button", name="Add this night").click()
    expect(page.locator("tfoot")).to_contain_text("0.51")  # an hour at f/5.6 at f/4
    expect(sentence).not_to_have_text(before)
    page.get_by_role("button", name=re.compile("Delete the night")).click()
    expect(sentence).to_have_text(before)
    page.get_by_role("button", name="Undo").click()
    expect(page.locator("tfoot")).to_contain_text("0.51")
    page.locator(".tabs").get_by_role("link", name="Compare").click()
    page.get_by_label("Sub (s)").fill("30")
    row = page.get_by_role("row", name=re.compile("^Sub "))
    expect(row).to_contain_text("30 s")
    page.get_by_role("textbox", name="f-number").fill("0.5")
    expect(page.get_by_role("alert").first).to_contain_text("from 0.7 to 64")
    expect(row).to_contain_text("30 s")  # the last good answer stays


@pytest.fixture(scope="module")
def brighter(tmp_path_factory) -> Path:
    """Taken at new Moon, by the camera's clock in UTC."""
    return write_test_picture(tmp_path_factory.mktemp("trial") / "test-picture.jpg", NEW_MOON)


def test_a_test_picture_brighter_than_planned_is_accepted(signed_in, measuring, brighter, tmp_path):
    page = signed_in()
    open_exposure(page, "Test picture")
    page.get_by_role("textbox", name="Night").fill("2026-11-10")
    page.keyboard.press("Enter")
    text = tmp_path / "notes.jpg"
    text.write_text("no picture at all, " * 20)
    page.get_by_label("Test picture", exact=True).set_input_files(text)
    expect(page.get_by_role("alert").first).to_contain_text("holds text, whatever its name says")
    page.get_by_label("Test picture", exact=True).set_input_files(brighter)
    expect(page.get_by_label("ISO", exact=True).last).to_have_value("800")
    page.get_by_role("button", name="Measure it").click()
    card = page.get_by_role("region", name="Test picture", exact=True)
    expect(card.locator(".sentence")).to_contain_text("brighter than planned", timeout=MEASURED_MS)
    expect(page.get_by_role("row", name=re.compile("Sky where it looks"))).to_contain_text(re.compile(r"20\.[56]\d ±"))
    page.get_by_role("button", name="Use this sky").click()
    expect(page.get_by_role("status").filter(has_text="The place’s sky is")).to_be_visible()
    expect(page.get_by_role("row", name=re.compile("Sky where it looks"))).to_contain_text("as planned")
    page.locator(".tabs").get_by_role("link", name="Sub window").click()
    expect(page.get_by_role("button", name=re.compile(r"Sky in a pixel: 0\.[6-9]"))).to_be_visible()
    page.get_by_role("button", name="Undo").click()
    expect(page.get_by_role("button", name=re.compile(r"Sky in a pixel: 0\.2"))).to_be_visible()


def test_a_camera_measured_from_flats_of_an_invented_sensor(signed_in, measuring, tmp_path):
    page = signed_in()
    open_exposure(page, "My camera")
    readout, rng = Readout(640, 500, 0.5, 2.4, iso=800), np.random.default_rng(5)
    counts = (*readout.flats(3_500, rng), readout.bias(rng), readout.bias(rng))
    paths = []
    for name, frame, seconds in zip(("flat-1", "flat-2", "bias-1", "bias-2"), counts, (0.5, 0.5, 1e-4, 1e-4), strict=True):
        path = tmp_path / f"{name}.fits"
        path.write_bytes(readout.as_fits(frame, seconds))
        paths.append(path)
    page.get_by_label("Flats and bias frames").set_input_files(paths)
    expect(page.get_by_role("row", name=re.compile("bias-2.fits"))).to_contain_text("bias frame")
    page.get_by_role("button", name="Measure the camera").click()
    region = page.get_by_role("region", name="Measurement of the camera")
    expect(region).to_contain_text("Gain", timeout=MEASURED_MS)
    gain = float(re.search(r"([\d.]+) ±", region.get_by_role("row", name=re.compile("Gain")).inner_text())[1])
    assert gain == pytest.approx(0.5, rel=0.03)
    page.get_by_role("button", name="Keep it with the camera").click()
    expect(page.locator(".isotable tbody tr").filter(has_text="800")).to_contain_text(re.compile(r"2\.[34]\d e⁻"))
    page.get_by_role("button", name="Undo").click()
    expect(page.locator(".isotable tbody tr").filter(has_text="800")).to_contain_text("1.80 e⁻")


def test_a_lens_measured_at_two_stops_changes_the_plan_and_goes_back(signed_in, measuring, tmp_path):
    page = signed_in()
    open_exposure(page, "My lens")
    lens, paths = InventedLens(open_f=2.8, coma_px=2.4, focus_px=(1.0, 0.0, 1.8), fall=0.4), []
    for place, stop in enumerate((2.8, 5.6)):
        drawn = picture(lens, Shot(stop, 1500, 1000, 700, exposed=1.0 + place), np.random.default_rng(place))
        paths.append(tmp_path / f"at-{stop}.fits")
        header = CardHeader(datetime(2026, 12, 1), 8.0, 180.0, f_number=stop if place else None)
        paths[-1].write_bytes(as_fits(drawn, 60_000.0, header))
    page.get_by_label("Pictures of stars", exact=True).set_input_files(paths)
    expect(page.get_by_role("row", name=re.compile("at-5.6.fits"))).to_contain_text("the iris")
    page.get_by_role("button", name="Measure the lens").click()
    expect(page.get_by_text("“at-2.8.fits” does not say its f-number; type it.")).to_be_visible()
    page.get_by_label("f-number of at-2.8.fits").fill("2.8")
    page.get_by_role("button", name="Measure the lens").click()
    card = page.get_by_role("region", name="My lens", exact=True)
    expect(card.locator(".sentence")).to_contain_text("Good for stars from f/5.6 on in broadband", timeout=MEASURED_MS)
    expect(page.get_by_role("img", name="at f/2.8: corners drawn out away from the middle")).to_be_visible()
    card.get_by_role("button", name=re.compile("Sharpest middle")).click()
    expect(page.get_by_role("dialog")).to_contain_text("median of a zone's stars")
    page.keyboard.press("Escape")
    assert violations(page) == []
    page.get_by_role("button", name="Use what was measured").click()
    expect(card).to_contain_text("They agree.")
    undo = page.get_by_role("status").filter(has_text="is planned from f/5.6 on")
    undo.get_by_role("button", name="Undo").click()
    expect(card).to_contain_text("Planned with f/4 in broadband, f/3.2 in narrowband")


def test_both_kinds_of_card_on_paper(signed_in):
    page = signed_in()
    open_exposure(page, "Card")
    page.get_by_label("Mirror lock-up (s)").fill("2")
    plain = page.locator("pre.fixed")
    expect(plain).to_contain_text("Interval  4 s (the pause after a frame)")
    sheet = page.locator(".cardsheet")
    page.emulate_media(media="print")
    expect(sheet).to_be_visible()
    expect(sheet).to_contain_text("Interval  4 s (the pause after a frame)")
    expect(sheet).to_contain_text("ISO 12800 × 5.6 s = ISO 6400 × 11.3 s")
    pages = page.pdf(format="A4").count(b"/Type /Page\n")
    assert pages == 1
    page.emulate_media(media="screen")
    page.get_by_text("Start to start", exact=True).click()
    expect(plain).to_contain_text("Interval  94 s (from start to start)")
    page.emulate_media(media="print")
    expect(sheet).to_contain_text("Interval  94 s (from start to start)")
    page.emulate_media(media="screen")
    set_to(page, "Noise reduction in the body", "on, counted")
    expect(plain).to_contain_text("Interval  184 s")
    expect(page.get_by_role("region", name="Card", exact=True)).to_contain_text("switch it off and take darks instead")
    page.context.grant_permissions(["clipboard-read", "clipboard-write"])
    page.get_by_role("button", name="Copy").click()
    expect(page.get_by_role("status").filter(has_text="Copied")).to_be_visible()

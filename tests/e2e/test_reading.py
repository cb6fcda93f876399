"""The strip by keyboard, the key sheet, the themes, and what a screen reader gets."""

import io

import numpy as np
import pytest
from PIL import Image
from playwright.sync_api import expect

from tests.e2e.journeys import violations, wait_at_rest
from tests.nightly import nightly


def test_the_strip_reads_out_minutes_by_keyboard(signed_in):
    page = signed_in()
    strip = page.get_by_role("slider", name="Minute of the night")
    strip.focus()
    strip.press("Home")
    expect(strip).to_have_attribute("aria-valuenow", "0")
    first = strip.get_attribute("aria-valuetext")
    strip.press("ArrowRight")
    strip.press("Shift+ArrowRight")
    expect(strip).to_have_attribute("aria-valuenow", "16")
    assert first is not None and first.split(",")[1].strip() == "day"
    strip.press("End")
    strip.press("PageDown")
    assert "mag/arcsec²" in (strip.get_attribute("aria-valuetext") or "")
    page.get_by_role("button", name="As a table").click()
    assert page.locator(".rows tbody tr").count() > 15


def test_the_question_mark_shows_the_keys(signed_in):
    page = signed_in()
    page.keyboard.press("?")
    expect(page.get_by_role("dialog")).to_contain_text("night before, night after")


def test_the_instrument_fits_a_small_laptop(signed_in):
    page = signed_in()
    for region in ("Payload", "Pole", "Exposure", "Card"):
        box = page.get_by_role("region", name=region, exact=True).locator(".sentence").bounding_box()
        assert box is not None and box["y"] + box["height"] < 800
    strip = page.locator(".strip").bounding_box()
    assert strip is not None and strip["y"] + strip["height"] < 300
    page.get_by_role("link", name="Bench").click()
    page.get_by_role("region", name="Complete", exact=True).wait_for()  # the first page has a Payload too
    for region in ("Payload", "Balance", "Mounting", "Optics", "Back focus", "Power", "Dew", "Complete"):
        box = page.get_by_role("region", name=region, exact=True).bounding_box()
        assert box is not None and box["y"] + box["height"] <= 800, region
    drawing = page.locator(".drawing").bounding_box()
    assert drawing is not None and drawing["y"] + drawing["height"] < 600


def test_drawings_can_be_read_as_tables(signed_in, served):
    page = signed_in()
    tables = (
        ("/grounds", "As a table", "usable"),
        ("/nights", "Lanes as a table", "usable, "),
        ("/nights/season", "As a table", "h"),
        ("/exposure", "As a table", "min"),
    )
    for path, button, words in tables:
        page.goto(served.address + path)
        page.get_by_role("button", name=button).last.click()
        table = page.get_by_role("dialog").locator("tbody").last
        assert table.locator("tr").count() > 12
        expect(table).to_contain_text(words)


@pytest.mark.parametrize("theme", [nightly("day"), "field"])
def test_what_the_components_paint_can_be_read_in_the_other_themes(signed_in, served, theme):
    page = signed_in()
    page.evaluate(f"localStorage.setItem('wide-dusk-theme', '{theme}')")
    for path, ready in (("/exposure", ".subwindow .free"), ("/pole/drift", ".star"), ("/bench/parts", ".inventory tbody")):
        page.goto(served.address + path)
        page.locator(ready).first.wait_for()
        assert not violations(page), path


def test_the_field_theme_keeps_night_eyes(signed_in):
    page = signed_in()
    page.evaluate("localStorage.setItem('wide-dusk-theme', 'field')")
    page.reload()
    page.get_by_role("region", name="Card").wait_for()
    wait_at_rest(page)
    pixels = np.asarray(Image.open(io.BytesIO(page.screenshot())).convert("RGB")).astype(int)
    assert pixels[..., 0].max() > 150
    assert pixels[..., 1].max() <= 48 and pixels[..., 2].max() <= 48

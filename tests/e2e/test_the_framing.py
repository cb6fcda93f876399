"""Framing in both hemispheres: three things in one frame, turned by keys, cut into panels, kept, and found again."""

import re

import pytest
from playwright.sync_api import expect

from tests.e2e.journeys import chosen, three_questions


@pytest.mark.parametrize(("name", "coordinates"), [("south", "24.58 S, 16.42 E"), ("north", "61.2 N, 25.1 E")])
def test_composed_turned_cut_into_panels_and_found_again(page, served, name, coordinates):
    three_questions(page, served.address, f"fritz-{name}", coordinates)
    page.goto(f"{served.address}/framing?{chosen(page)}")
    picture = page.get_by_role("region", name="In the picture")
    picture.get_by_text("Around it, the largest first").click()
    around = picture.locator("details input[type=checkbox]")
    for _ in range(2):
        before = picture.locator("ul").first.locator("li").count()
        around.first.click()
        expect(picture.locator("ul").first.locator("li")).to_have_count(before + 1)
    picture.get_by_role("button", name="Compose it").click()
    expect(picture.get_by_role("status")).to_contain_text(re.compile("All 3 fit|cut"))
    frame = page.get_by_role("slider", name="The frame")

    def angle() -> float:
        return float(re.search(r"edge at ([\d.]+)°", frame.get_attribute("aria-valuetext"))[1])

    start = angle()
    frame.focus()
    page.keyboard.press(",")
    expect(frame).not_to_have_attribute("aria-valuetext", re.compile(rf"edge at {start}°"))
    assert (angle() - start) % 360 == pytest.approx(1, abs=0.11)
    page.keyboard.press("Shift+Comma")
    expect(frame).not_to_have_attribute("aria-valuetext", re.compile(rf"edge at {start + 1:.1f}°"))
    assert (angle() - start) % 360 == pytest.approx(11, abs=0.11)
    for key in ("ArrowRight", "Shift+ArrowUp", "+"):
        page.keyboard.press(key)
    panels = page.get_by_role("region", name="Panels")
    panels.get_by_label("Columns").fill("3")
    panels.get_by_label("Rows").fill("2")
    expect(panels.get_by_role("status")).to_contain_text("6 panels, neighbours share 20 %")
    panels.get_by_text("Centres, in the order to shoot them").click()
    panels.get_by_label("Panel 2·2").click()
    expect(panels.get_by_role("status")).to_contain_text("5 panels")
    panels.get_by_label("Overlap").fill("60")
    expect(panels.get_by_role("alert")).to_contain_text("15 to 25 %")
    panels.get_by_label("Overlap").fill("25")
    expect(panels.get_by_role("status")).to_contain_text("share 25 %")
    page.get_by_role("button", name="Keep this framing").click()
    expect(page.get_by_role("button", name="Save this framing")).to_be_visible()
    told = frame.get_attribute("aria-valuetext")
    page.reload()
    expect(page.get_by_role("slider", name="The frame")).to_have_attribute("aria-valuetext", told)
    expect(panels.get_by_role("status")).to_contain_text("5 panels")

"""Where to stand, when, and what is worth it, as a person finds out; in both hemispheres."""

import re
from pathlib import Path

import icalendar
import pytest
from playwright.sync_api import Page, expect

from tests.e2e.conftest import choose, weather_is_known
from tests.nightly import nightly

HOURS = re.compile(r"(?:(\d+) h )?(\d+) min")


def minutes(words: str) -> int:
    found = HOURS.search(words)
    assert found, words
    return 60 * int(found[1] or 0) + int(found[2])


def window(page: Page):
    return page.get_by_role("region", name="Window", exact=True).locator(".sentence")


def tab(page: Page, name: str) -> None:
    page.locator(".tabs").get_by_role("link", name=name, exact=True).click()


def draw_a_tree_line(page: Page, altitude_deg: float) -> None:
    """Once across the middle of the panorama, by hand."""
    page.get_by_role("button", name="Draw", exact=True).click()
    box = page.get_by_role("slider", name="Direction on the horizon").bounding_box()
    assert box
    level = box["y"] + 8 + (box["height"] - 38) * (1 - altitude_deg / 90)
    page.mouse.move(box["x"] + box["width"] * 0.1, level)
    page.mouse.down()
    for step in range(1, 41):
        page.mouse.move(box["x"] + box["width"] * (0.1 + 0.02 * step), level)
    page.mouse.up()


@pytest.mark.parametrize(
    ("coordinate", "name", "target", "said"),
    [
        ("30°15'S 137°54'E", "Saltpan camp", "Vela", "30.2500° S, 137.9000° E, Australia/Adelaide"),
        nightly("geo:54.62,-3.05", "Fell bothy", "California", "54.6200° N, 3.0500° W, Europe/London"),
    ],
)
def test_from_a_pasted_coordinate_to_cues_on_the_phone(signed_in, tmp_path: Path, coordinate, name, target, said):
    page = signed_in()
    page.get_by_role("link", name="Grounds").click()
    tab(page, "Places")
    page.get_by_role("button", name="New place").last.click()
    page.get_by_label("Name of the place").fill(name)
    page.get_by_label("Coordinates as you have them").fill(coordinate)
    page.get_by_label("Coordinates as you have them").press("Enter")
    expect(page.get_by_role("status").filter(has_text=said)).to_be_visible()
    expect(page.get_by_role("dialog").get_by_role("img", name=re.compile("World outline"))).to_be_visible()
    page.get_by_label("Access and local rules").fill("Ask at the gate")
    page.get_by_label("Where one stands").fill("by the car")
    page.get_by_role("button", name="Add a spot").click()
    page.get_by_label("Where one stands").last.fill("up the bank")
    page.get_by_role("button", name="Save", exact=True).last.click()
    expect(page.get_by_role("rowheader", name=re.compile(name))).to_contain_text("Ask at the gate")
    choose(page, "on target", target)

    # A tree line drawn by hand shortens the window; undone, it is as it was; drawn again it stays.
    tab(page, "Spot")
    expect(window(page)).to_contain_text(re.compile(f"{target}.* is usable"))
    weather_is_known(page)
    expect(window(page)).to_contain_text(re.compile(f"{target}.* is usable"))
    free = minutes(window(page).inner_text())
    draw_a_tree_line(page, 50)
    expect(window(page)).not_to_contain_text(f"{free // 60} h {free % 60:02d} min")
    expect(window(page)).to_contain_text(" is usable")
    shorter = minutes(window(page).inner_text())
    assert shorter < free - 30
    page.get_by_role("button", name="Undo").click()
    expect(window(page)).to_contain_text(f"{free // 60} h {free % 60:02d} min")
    page.get_by_role("button", name="Draw", exact=True).click()
    draw_a_tree_line(page, 50)
    expect(window(page)).to_contain_text(f"{shorter // 60} h {shorter % 60:02d} min" if shorter >= 60 else "min")

    # The other spot of the place wins that back.
    tab(page, "Side by side")
    verdict = page.get_by_role("region", name="Where to stand").locator(".sentence")
    expect(verdict).to_contain_text("Standing at “up the bank” wins")
    assert minutes(verdict.inner_text()) == pytest.approx(free - shorter, abs=2)
    page.get_by_role("button", name="Stand here").click()
    expect(page.get_by_role("columnheader", name=re.compile("up the bank"))).to_contain_text("you stand here")

    # What suits: two more for this night.
    page.get_by_role("link", name="Nights", exact=True).click()
    tab(page, "What suits")
    rows = page.locator(".suits tbody tr")
    expect(rows.first).to_be_visible()
    worths = [int(one) for one in rows.locator(".worth").all_inner_texts()]
    assert len(worths) > 5 and worths == sorted(worths, reverse=True)
    page.get_by_role("button", name=re.compile(r"^Worth \d+\. Open the working")).first.click()
    expect(page.get_by_role("dialog")).to_contain_text("Our own weighting, no published figure")
    page.keyboard.press("Escape")
    expect(page.get_by_role("dialog")).to_have_count(0)
    added = []
    for _ in range(2):
        button = page.get_by_role("button", name=re.compile("^Add .* to this night$")).and_(page.locator(":enabled")).first
        words = button.get_attribute("aria-label") or ""
        added.append(words.removeprefix("Add ").removesuffix(" to this night"))
        with page.expect_response(lambda answer: "/api/nights/targets" in answer.url):
            button.click()
        expect(page.get_by_role("button", name=words)).to_be_disabled()

    # Lanes: three targets; the next night shows them too; the cues go to the phone.
    tab(page, "Lanes")
    lanes = page.locator(".lanes ol > li")
    expect(lanes).to_have_count(3)
    for one in added:
        expect(lanes.filter(has_text=one)).to_contain_text("usable")
    page.get_by_role("region", name="Fortnight").get_by_role("button", name=re.compile("Most moonless darkness")).click()
    expect(page.get_by_role("dialog").last).to_contain_text("Dark and moonless hours of a night")
    page.keyboard.press("Escape")
    before = page.get_by_label("Night, date of the evening").input_value()
    strip = page.get_by_role("slider", name="Minute of the night")
    first = strip.get_attribute("aria-valuetext")
    page.get_by_role("button", name="Night after").click()
    expect(page.get_by_label("Night, date of the evening")).not_to_have_value(before)
    expect(strip).not_to_have_attribute("aria-valuetext", first or "")
    expect(lanes).to_have_count(3)
    with page.expect_download() as download:
        page.get_by_role("button", name="Cues for my calendar").click()
    download.value.save_as(tmp_path / "cues.ics")
    events = list(icalendar.Calendar.from_ical((tmp_path / "cues.ics").read_bytes()).walk("VEVENT"))
    assert {"Dark", "Window opens", "Window closes"} <= {str(event["summary"]) for event in events}
    assert all(name in str(event["location"]) for event in events)


def test_what_cannot_be_taken_is_told_and_nothing_typed_is_lost(signed_in, tmp_path: Path):
    page = signed_in()
    page.get_by_role("link", name="Grounds").click()
    page.get_by_role("button", name="Type", exact=True).click()
    text = page.get_by_label("Azimuth and altitude, one pair a line")
    text.fill("0 5\n90 95\n400 2")
    page.get_by_role("button", name="Keep it").click()
    alerts = page.get_by_role("dialog").get_by_role("alert")
    expect(alerts.first).to_contain_text("Line 2: 95° cannot be right")
    expect(alerts.last).to_contain_text("Line 3: 400° cannot be right")
    expect(text).to_have_value("0 5\n90 95\n400 2")
    page.keyboard.press("Escape")

    tab(page, "Places")
    page.get_by_role("button", name="Files in and out").click()
    empty = tmp_path / "track.gpx"
    empty.write_text('<gpx version="1.1"><trk><trkseg><trkpt lat="1" lon="2"/></trkseg></trk></gpx>')
    page.get_by_label("File", exact=True).set_input_files(empty)
    expect(page.get_by_role("dialog").get_by_role("alert")).to_contain_text("a track of 1 points")
    good = tmp_path / "camps.gpx"
    good.write_text('<gpx version="1.1"><wpt lat="-31.5" lon="20.1"><name>Dolerite ridge</name></wpt></gpx>')
    page.get_by_label("File", exact=True).set_input_files(good)
    expect(page.get_by_role("dialog").get_by_role("status")).to_contain_text("Added: Dolerite ridge.")
    page.keyboard.press("Escape")
    expect(page.get_by_role("rowheader", name="Dolerite ridge")).to_be_visible()
    page.get_by_role("button", name="Undo").click()
    expect(page.get_by_role("rowheader", name="Dolerite ridge")).to_have_count(0)


def test_the_horizon_profile_is_drawn_with_keys_faster_than_the_server_answers(signed_in):
    page = signed_in()
    page.get_by_role("link", name="Grounds").click()
    choose(page, "at place and spot", "end of the boardwalk")
    around = page.get_by_role("slider", name="Direction on the horizon")
    expect(around).to_be_visible()
    page.get_by_role("button", name="Draw", exact=True).click()
    around.focus()
    around.press("ArrowRight")

    def height() -> int:
        found = re.search(r"horizon profile (\d+)° up", around.get_attribute("aria-valuetext") or "")
        assert found
        return int(found[1])

    before, where = height(), around.get_attribute("aria-valuenow")
    for _ in range(6):
        around.press("ArrowUp")
    expect(around).to_have_attribute("aria-valuetext", re.compile(f"horizon profile {before + 6}° up"))
    expect(page.get_by_role("button", name="Undo")).to_be_visible()  # offered once the last stroke is kept
    page.reload()
    expect(around).to_be_visible()
    around.focus()
    around.press("ArrowRight")
    assert around.get_attribute("aria-valuenow") == where
    expect(around).to_have_attribute("aria-valuetext", re.compile(f"horizon profile {before + 6}° up"))


def test_season_search_and_a_trip(signed_in):
    page = signed_in()
    page.get_by_role("link", name="Nights", exact=True).click()
    tab(page, "Targets")
    page.get_by_label("Search the catalogue").fill("m 83")
    expect(page.locator(".catalogue tbody tr").first).to_contain_text("NGC 5236")
    page.get_by_role("button", name="Take NGC 5236").click()
    expect(page.get_by_role("button", name="Take NGC 5236")).to_have_text("yours")

    tab(page, "Season")
    sentence = page.get_by_role("region", name="Season").locator(".sentence")
    expect(sentence).to_contain_text("NGC 5236 first clears the horizon profile before midnight on")
    year = page.get_by_role("slider", name="Night of the year")
    year.focus()
    year.press("PageUp")
    year.press("PageUp")
    later = (year.get_attribute("aria-valuetext") or "").split(":")[0]
    year.press("Enter")
    expect(page.get_by_label("Night, date of the evening")).to_have_value("Sat 6 Feb 2027")
    assert later == "Sat 6 Feb 2027"

    tab(page, "Trips")
    page.get_by_role("button", name="New trip").click()
    page.get_by_label("Name of the trip").fill("Autumn galaxies")
    page.get_by_label("Drive home after it").fill("3")
    page.get_by_role("button", name="Add a night").click()
    page.get_by_label("NGC 5236", exact=True).check()
    page.get_by_label("First night").fill("some day")
    page.get_by_role("button", name="Save", exact=True).last.click()
    expect(page.get_by_role("dialog").get_by_role("alert").filter(has_text="no date")).to_be_visible()
    expect(page.get_by_label("Name of the trip")).to_have_value("Autumn galaxies")
    page.get_by_label("First night").fill("2027-05-03")
    page.get_by_role("button", name="Save", exact=True).last.click()
    expect(page.locator(".trips tbody tr")).to_have_count(2)
    expect(page.locator(".trips tfoot")).to_contain_text("h")
    expect(page.get_by_role("region", name="Drive home")).to_contain_text("awake")


def test_the_page_lives_without_its_forecast_and_takes_it_up_again(signed_in, forecast, served):
    page = signed_in()
    strip = page.get_by_role("slider", name="Minute of the night")
    expect(strip).to_have_attribute("aria-valuetext", re.compile("cloud .* wind"))
    forecast.stop()
    page.goto(re.sub(r"night=[\d-]+", "night=2026-12-15", page.url))
    expect(page.get_by_role("status").filter(has_text="Weather missing.")).to_contain_text("cannot be reached")
    expect(window(page)).to_contain_text("usable")
    expect(page.get_by_role("region", name="Card").locator(".sentence")).to_contain_text("frames")
    expect(strip).not_to_have_attribute("aria-valuetext", re.compile("cloud"))
    forecast.start()
    expect(strip).to_have_attribute("aria-valuetext", re.compile("cloud .* wind"), timeout=60_000)
    expect(page.get_by_text("Weather missing.")).to_have_count(0)

"""From "how good must it be" to a true axis, as a person goes there at night with a card full of pictures."""

import re
import time
from dataclasses import replace
from datetime import UTC, datetime, timedelta
from pathlib import Path

import numpy as np
import pytest
from playwright.sync_api import Page, expect

from tests.e2e.conftest import MEASURED_MS, age_heartbeats, choose
from tests.invented import DEMO_SENSOR, EXPOSURE_S, a_pair, write_picture
from widedusk.core.simulate.camera import Shot, observed
from widedusk.core.simulate.mount import Mount

START = datetime(2026, 11, 23, 18, 55, tzinfo=UTC)


def rendered(folder: Path, high: float, east: float, minutes: int, turns: tuple[float, ...] = (0.0, 45.0)) -> list[Path]:
    """Pictures of one axis, the card's clock at the place's time."""
    pair = a_pair(high, east, focal_mm=180.0, sensor=DEMO_SENSOR, start=START + timedelta(minutes=minutes))
    paths = []
    for place, turn in enumerate(turns):
        shot = Shot(pair.start + timedelta(seconds=60 * place), EXPOSURE_S, 60.0 * place, turn)
        local = (shot.start + timedelta(hours=2)).replace(tzinfo=None)
        paths.append(write_picture(folder / f"axis-{minutes}-{place}.jpg", pair, shot, "+02:00", local_start=local))
    return paths


@pytest.fixture(scope="module")
def card(tmp_path_factory) -> Path:
    return tmp_path_factory.mktemp("card")


def open_pole(page: Page, tab: str = "") -> None:
    page.get_by_role("link", name="Pole", exact=True).click()
    if tab:
        page.locator(".tabs").get_by_role("link", name=tab, exact=True).click()


def sentence(page: Page, topic: str):
    return page.get_by_role("region", name=topic, exact=True).locator(".sentence")


def bring(page: Page, paths: list[Path]) -> None:
    page.get_by_label("Pictures off the card").set_input_files(paths)
    expect(page.locator(".hand tbody tr")).to_have_count(len(paths))


def measure(page: Page, paths: list[Path]) -> None:
    if page.get_by_role("button", name="Clear", exact=True).count():
        page.get_by_role("button", name="Clear", exact=True).click()
    bring(page, paths)
    page.get_by_role("button", name="Measure the axis").click()


def test_the_way_to_a_true_axis(signed_in, measuring, card):
    page = signed_in()
    open_pole(page)

    # How good: the quickest way that surely reaches it; its name leads there.
    expect(sentence(page, "How good")).to_contain_text("two photographs will do")
    rows = page.get_by_role("figure", name="Ways of aligning").locator("li")
    expect(rows.filter(has_text="Compass and latitude scale")).to_contain_text("not enough")
    expect(rows.filter(has_text="quickest")).to_contain_text("Two photographs")
    expect(sentence(page, "At this target")).to_contain_text("Expected")

    # By day, with a compass that lies.
    open_pole(page, "By day")
    page.get_by_label("A tick every").fill("3")
    expect(page.get_by_text("a quarter of the way from the third to the fourth tick past 15")).to_be_visible()
    page.get_by_label("Compass one reads").fill("195")
    page.get_by_label("Compass two reads").fill("196")
    expect(sentence(page, "Cross-check")).to_contain_text("agree")
    set_by = page.get_by_label("Azimuth was set by").locator("option:checked")
    expect(set_by).to_have_text("two compasses that agree")
    page.get_by_label("Compass two reads").fill("209")
    expect(sentence(page, "Cross-check")).to_have_text("The compasses differ by 14°: trust neither.")
    expect(set_by).to_have_text("one compass")
    page.get_by_label("A figure every").fill("10")
    expect(page.get_by_role("alert").filter(has_text="do not fall on ticks every 3°")).to_be_visible()
    expect(page.get_by_label("Compass two reads")).to_have_value("209")

    # Two pictures off the card: the cross, and which screw.
    open_pole(page, "Photographs")
    cross = page.get_by_role("img", name=re.compile("Axis and pole, facing south"))
    expect(cross).to_have_attribute("aria-label", re.compile("nothing measured yet"))
    measure(page, rendered(card, -38.0, 52.0, 0))
    expect(page.get_by_label("The camera's clock is on")).to_be_attached()
    expect(page.get_by_text("UTC+02:00", exact=True)).to_be_visible()
    expect(sentence(page, "Axis")).to_contain_text(re.compile(r"stands 6\d′ from the pole"), timeout=MEASURED_MS)
    moves = page.get_by_role("list", name="What to turn").get_by_role("listitem")
    expect(moves.nth(0)).to_contain_text("to the west (right, facing south)")
    expect(moves.nth(1)).to_contain_text("Tilt the axis up: 38′")
    expect(cross).to_have_attribute("aria-label", re.compile(r"1: 6\d\.\d′ off: 3\d\.\d′ too low, 5\d\.\d′ to the east"))
    expect(page.locator(".found img").first).to_be_visible()
    assert page.locator(".found img").first.evaluate("(image) => image.naturalWidth") > 500

    # The screws were turned; the next pair sees it converge, and the verdict opens to its working.
    measure(page, rendered(card, -3.0, 4.0, 9))
    enough = re.compile(
        r"stands 5\.\d′ from the pole; 1\d′ are enough"
    )  # for the sub of the card, whatever a longer one would need
    expect(sentence(page, "Axis")).to_contain_text(enough, timeout=MEASURED_MS)
    expect(cross).to_have_attribute("aria-label", re.compile(r"2: 5\.\d′ off"))
    page.get_by_role("button", name=re.compile("^Off the pole: 5.*Open the working")).click()
    expect(page.get_by_role("dialog")).to_contain_text("D = R2ᵀ R1")
    page.keyboard.press("Escape")
    page.get_by_role("button", name=re.compile("Use 5")).click()
    expect(page).to_have_url(re.compile("alignment_arcmin=5"))

    # It is in the record, and the pole now reckons with the measured direction.
    open_pole(page, "Record")
    expect(page.locator(".record tbody tr")).to_have_count(2)
    expect(sentence(page, "Keeping it")).to_contain_text("It moved")
    open_pole(page, "How good")
    expect(sentence(page, "At this target")).to_contain_text("Measured 5")


def test_the_dial_at_both_places(signed_in):
    page = signed_in()
    open_pole(page, "Polar scope")
    expect(page.get_by_role("img", name=re.compile("upright scope: σ Oct at .*; τ Oct at"))).to_be_visible()
    expect(page.get_by_text("matched as one figure")).to_be_visible()
    expect(page.get_by_text("Never point a laser near aircraft")).to_be_visible()
    page.get_by_role("button", name="I have read this; go on").click()
    expect(page.get_by_text("Reaches 30′ to 1°")).to_be_visible()
    choose(page, "at place and spot", "end of the boardwalk")
    north = page.get_by_role("img", name=re.compile(r"Polaris at \d+° clockwise from the top, 3\d arcminutes out"))
    expect(north).to_be_visible()
    expect(page.locator("figcaption").filter(has_text="anticlockwise")).to_be_visible()

    def angle() -> int:
        found = re.search(r"Polaris at (\d+)°", north.get_attribute("aria-label") or "")
        assert found
        return int(found[1])

    upright = angle()
    page.get_by_label("Minutes from now").fill("120")
    expect(page.locator("figcaption b")).not_to_contain_text("22:00")
    # Two hours turn the sky by 30°, anticlockwise as one faces north.
    expect(north).not_to_have_attribute("aria-label", re.compile(f"Polaris at {upright}°"))
    assert (upright - angle()) % 360 == pytest.approx(30, abs=2)
    page.get_by_text("Every ten minutes, for the print").click()
    expect(page.locator("details tbody tr")).to_have_count(37)


def test_where_am_i_pointing(signed_in, measuring, card):
    page = signed_in()
    pair = a_pair(0.5, 0.5, focal_mm=180.0, sensor=DEMO_SENSOR, start=START)
    # Short of the demo's galaxy pair by 2.4° of right ascension and 1.1° of declination.
    seen = observed(pair.site, pair.start, np.radians([63.02 - 2.4]), np.radians([-32.87 + 1.1]))[0]
    altitude, azimuth = np.degrees(np.arcsin(seen[2])), np.degrees(np.arctan2(-seen[1], seen[0])) % 360
    aimed = replace(
        pair,
        mount=Mount(pair.site, 0.5, 0.5),
        pointing=replace(pair.pointing, altitude_deg=float(altitude), azimuth_deg=float(azimuth)),
    )
    picture = write_picture(card / "look.jpg", aimed, aimed.shots[0])
    open_pole(page, "Photographs")
    choose(page, "on target", "NGC 1532")
    bring(page, [picture])
    expect(page.get_by_role("button", name="Measure the axis")).to_be_disabled()
    page.get_by_role("button", name="Where am I pointing?").click()
    told = sentence(page, "Pointing")
    expect(told).to_contain_text(
        re.compile(r"You are 2\.\d° short of NGC 1532.*: turn right ascension 9\.\d min \(2\.\d+°\) east"), timeout=MEASURED_MS
    )
    expect(told).to_contain_text(re.compile(r"declination 1\.\d\d° south"))


def test_spoilt_pictures_end_in_plain_sentences_and_nothing_typed_is_lost(signed_in, measuring, card):
    page = signed_in()
    open_pole(page, "Photographs")
    text = card / "night.jpg"
    text.write_text("seeing fair, wind from the east. " * 5)
    page.get_by_label("Pictures off the card").set_input_files([text, *rendered(card, 5.0, 5.0, 20)])
    expect(page.get_by_role("alert")).to_contain_text("“night.jpg” holds text, whatever its name says")
    expect(page.locator(".hand tbody tr")).to_have_count(2)
    page.get_by_label("Begun, camera’s clock").first.fill("yesterday")
    page.get_by_role("button", name="Measure the axis").click()
    expect(page.get_by_role("alert").filter(has_text="Write it like 8 Dec 2026")).to_be_visible()
    expect(page.get_by_label("Begun, camera’s clock").first).to_have_value("yesterday")
    page.get_by_label("Begun, camera’s clock").first.fill("Nov 23, 2026 15:10:00")
    page.get_by_label("Focal length").nth(1).fill("50")
    page.get_by_role("button", name="Measure the axis").click()
    failed = page.get_by_role("region", name="Measurement").get_by_role("alert")
    expect(failed).to_contain_text("Are 50 mm and the size of the sensor right?", timeout=MEASURED_MS)
    page.get_by_label("Focal length").nth(1).fill("180")
    page.get_by_role("button", name="Measure the axis").click()
    expect(failed).to_contain_text("with the Sun", timeout=MEASURED_MS)


def test_a_killed_worker_loses_nothing(signed_in, measuring, card, served):
    page = signed_in()
    open_pole(page, "Photographs")
    bring(page, rendered(card, 12.0, -7.0, 30, (0.0, 12.0, 24.0, 36.0, 48.0)))
    measuring.kill()
    page.get_by_role("button", name="Measure the axis").click()
    expect(page.get_by_text("Waiting for the worker")).to_be_visible()
    measuring.start()
    expect(page.get_by_text(re.compile("picture [1-4] of 5"))).to_be_visible(timeout=MEASURED_MS)
    measuring.kill()
    age_heartbeats(served)
    # The rest of the house does not notice.
    started = time.monotonic()
    assert page.request.get(f"{served.address}/health").ok and time.monotonic() - started < 3
    measuring.start()
    expect(sentence(page, "Axis")).to_contain_text(re.compile(r"stands 1[34](\.\d)?′ from the pole"), timeout=MEASURED_MS)

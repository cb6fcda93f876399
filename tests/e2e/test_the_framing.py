"""Framing as a person goes through it: composed, turned, cut, carried into another account, found in the dark, found again."""

import re
from dataclasses import replace
from datetime import UTC, datetime, timedelta

import astropy.units as u
import numpy as np
import pytest
from astropy.coordinates import AltAz, EarthLocation, SkyCoord
from astropy.time import Time
from playwright.sync_api import Page, expect

from tests.e2e.conftest import MEASURED_MS
from tests.e2e.journeys import POST, account_with_rig, chosen
from tests.invented import DEMO_SENSOR, EXPOSURE_S, Pair, a_pair, write_picture
from tests.nightly import nightly
from widedusk.core.simulate.camera import Pointing, Shot

TAB = ".tabs"


def side(page: Page, name: str) -> None:
    page.locator(TAB).get_by_role("link", name=name, exact=True).click()


def angle(page: Page) -> float:
    told = page.get_by_role("slider", name="The frame").get_attribute("aria-valuetext")
    return float(re.search(r"edge at ([\d.]+)°", told)[1])


@pytest.mark.parametrize(("name", "coordinates"), [("south", "24.58 S, 16.42 E"), nightly("north", "61.2 N, 25.1 E")])
def test_composed_turned_cut_carried_into_another_account_and_hopped_to(page, browser, served, tmp_path, name, coordinates):
    account_with_rig(page, served.address, f"fritz-{name}", coordinates)
    page.goto(f"{served.address}/framing?{chosen(page)}")
    picture = page.get_by_role("region", name="In the picture")
    picture.get_by_text("Around it, the largest first").click()
    around = picture.locator("details").first.locator("input[type=checkbox]")
    for _ in range(2):
        before = picture.locator("ul").first.locator("li").count()
        around.first.click()
        expect(picture.locator("ul").first.locator("li")).to_have_count(before + 1)
    picture.get_by_role("button", name="Compose it").click()
    composition = page.get_by_role("status", name="Composition")
    expect(composition).to_contain_text(re.compile("All 3 fit|cut"))
    composition.get_by_role("button", name=re.compile("^Margin: .*Open the working")).click()
    expect(page.get_by_role("dialog")).to_contain_text("convex hull")
    page.keyboard.press("Escape")

    frame = page.get_by_role("slider", name="The frame")
    start = angle(page)
    frame.focus()
    page.keyboard.press(",")
    expect(frame).not_to_have_attribute("aria-valuetext", re.compile(rf"edge at {start}°"))
    assert (angle(page) - start) % 360 == pytest.approx(1, abs=0.11)
    page.keyboard.press("Shift+Comma")
    expect(frame).not_to_have_attribute("aria-valuetext", re.compile(rf"edge at {start + 1:.1f}°"))
    assert (angle(page) - start) % 360 == pytest.approx(11, abs=0.11)
    for key in ("ArrowRight", "Shift+ArrowUp", "+"):
        page.keyboard.press(key)
    page.get_by_role("button", name="As a table").click()
    expect(page.get_by_role("table", name="Around the frame")).to_contain_text("yes")
    page.get_by_role("button", name="As a chart").click()

    side(page, "Panels")
    panels = page.get_by_role("region", name="Panels").first
    panels.get_by_label("Columns").fill("3")
    panels.get_by_role("textbox", name="Rows").fill("2")
    expect(panels.get_by_role("status")).to_contain_text("6 panels, neighbours share 20 %")
    page.get_by_label("Panel 2·2").click()
    expect(panels.get_by_role("status")).to_contain_text("5 panels")
    panels.get_by_label("Overlap").fill("60")
    expect(panels.get_by_role("alert")).to_contain_text("15 to 25 %")
    panels.get_by_label("Overlap").fill("25")
    expect(panels.get_by_role("status")).to_contain_text("share 25 %")
    each = page.get_by_role("region", name="Each panel")
    expect(each.locator("tbody tr")).to_have_count(6)
    expect(each).to_contain_text(re.compile(r"\d\d:\d\d–\d\d:\d\d"))
    each.get_by_role("button", name="Open the working").first.click()
    expect(page.get_by_role("dialog")).to_contain_text("The window of each panel")
    page.keyboard.press("Escape")
    page.get_by_role("button", name="Keep this framing").click()
    expect(page.get_by_role("button", name="Save this framing")).to_be_visible()
    expect(page).to_have_url(re.compile(r"framing=\d+"))

    # The centre is that of every page now; kept, it is found again.
    told = page.get_by_role("slider", name="The frame").get_attribute("aria-valuetext")
    page.reload()
    expect(page.get_by_role("slider", name="The frame")).to_have_attribute("aria-valuetext", told)
    expect(panels.get_by_role("status")).to_contain_text("5 panels")
    with page.expect_download() as saved:
        page.get_by_role("button", name="ECSV", exact=True).click()
    file = tmp_path / "panels.ecsv"
    saved.value.save_as(file)
    wrong = tmp_path / "wrong.csv"
    wrong.write_text("a,b\n1,2\n")

    other = browser.new_context(viewport={"width": 1280, "height": 800}, locale="en-GB").new_page()
    account_with_rig(other, served.address, f"frieda-{name}", coordinates)
    other.goto(f"{served.address}/framing/panels?{chosen(other)}")
    other.get_by_label("Bring panels from a file").set_input_files(file)
    expect(other.get_by_role("region", name="Panels").first.get_by_role("status")).to_contain_text("5 panels")
    expect(other.get_by_role("slider", name="The frame")).to_have_attribute("aria-valuetext", told)
    other.get_by_label("Bring panels from a file").set_input_files(wrong)
    expect(other.get_by_role("alert")).to_contain_text("is missing")
    other.context.close()

    side(page, "Way there")
    ways = page.get_by_role("region", name="Ways there")
    for way, begins in (("Hop over stars", "Find "), ("From a bright star", "Find "), ("Compass and inclinometer", "At ")):
        ways.get_by_role("button", name=way).click()
        expect(page.get_by_role("list", name="Steps").get_by_role("listitem").first).to_contain_text(begins)
    ways.get_by_role("row", name="From a bright star").get_by_role("button", name="Open the working").click()
    expect(page.get_by_role("dialog")).to_contain_text("How far off it leaves the frame")
    page.keyboard.press("Escape")
    ways.get_by_role("button", name="Hop over stars").click()
    ways.get_by_label("hop with").select_option(label="the bare eye")
    expect(page.get_by_role("region", name="Hop")).to_contain_text("o’clock")
    expect(page.locator(".waypoint")).not_to_have_count(0)
    ways.get_by_label("At", exact=True).fill("99:99")
    expect(ways.get_by_role("alert")).to_contain_text("no time of day")


def looks_at(pair: Pair) -> tuple[float, float, float]:
    """ICRS middle and position angle of the upper edge of an invented camera, by astropy and its own refraction."""
    site = pair.site
    place = EarthLocation(site.longitude_deg * u.deg, site.latitude_deg * u.deg, site.height_m * u.m)
    moment = Time(pair.start + timedelta(seconds=EXPOSURE_S / 2))
    air = {"pressure": site.pressure_hpa * u.hPa, "temperature": site.temperature_c * u.deg_C, "obswl": 0.55 * u.micron}
    frame = AltAz(obstime=moment, location=place, relative_humidity=site.humidity, **air)
    _, down, ahead = pair.camera.frame(pair.pointing, pair.mount, EXPOSURE_S / 2, 0.0)
    both = np.stack([ahead, ahead - 1e-3 * down])
    both /= np.linalg.norm(both, axis=1)[:, None]
    azimuth, altitude = np.degrees(np.arctan2(-both[:, 1], both[:, 0])), np.degrees(np.arcsin(both[:, 2]))
    middle, above = SkyCoord(az=azimuth * u.deg, alt=altitude * u.deg, frame=frame).icrs
    return middle.ra.deg, middle.dec.deg, middle.position_angle(above).deg


SIDEREAL_DAY = timedelta(seconds=86164.09)


@pytest.mark.parametrize("latitude", [-24.62, nightly(61.2)])
def test_a_test_picture_tells_the_nudge_and_another_night_comes_back_to_the_same_frame(signed_in, measuring, tmp_path, latitude):
    page = signed_in()
    start = datetime(2026, 11, 20, 20, 0, tzinfo=UTC)
    pair = a_pair(0.0, 0.0, latitude, 180.0, DEMO_SENSOR, start=start)
    ra, dec, turn = looks_at(pair)
    where = {"name": f"Somewhere at {latitude}", "ra_deg": ra, "dec_deg": dec}
    target = page.evaluate(POST, ["targets", {**where, "extent_deg": 1.0, "surface_mag": 22.0, "kind": "other", "light": "both"}])
    framing = page.evaluate(POST, ["framings", {**where, "target": target["id"], "angle_deg": turn}])
    query = re.sub(r"(target|night)=[^&]*&?|plan=\d+&?", "", chosen(page)) + f"&target={target['id']}&framing={framing['id']}"
    page.goto(f"{page.url.split('/tonight')[0]}/framing/way?{query}&night=2026-11-20")
    test = page.get_by_role("region", name="Test picture", exact=True)

    def drop(name: str, altitude: float, night: timedelta = timedelta(0)) -> None:
        there = replace(pair, pointing=Pointing(altitude, pair.pointing.azimuth_deg, pair.pointing.roll_deg), start=start + night)
        shot = Shot(there.start, EXPOSURE_S, 0.0)
        path = write_picture(tmp_path / f"{name}.jpg", there, shot)
        test.get_by_label("Test picture of the frame").set_input_files(path)

    nudge = page.get_by_role("region", name="Nudge")
    drop("off", 52.0)
    expect(nudge.locator(".sentence")).to_contain_text(
        re.compile(r"(2\.9|3\.0)\d° to go: turn right ascension"), timeout=MEASURED_MS
    )
    expect(page.locator(".try.last")).to_be_attached()
    nudge.get_by_role("button", name=re.compile("^Declination: .*Open the working")).click()
    expect(page.get_by_role("dialog")).to_contain_text("about the pole of date")
    page.keyboard.press("Escape")
    drop("there", 55.02)
    expect(nudge.locator(".sentence")).to_contain_text("There: you are on", timeout=MEASURED_MS)
    nudge.get_by_role("button", name="Come back to this very frame another night").click()
    expect(page.get_by_text("Remembered: another night brings you back")).to_be_visible()

    page.goto(page.url.replace("night=2026-11-20", "night=2026-11-21"))
    drop("beside", 55.4, SIDEREAL_DAY)
    expect(nudge.locator(".sentence")).to_contain_text("to go", timeout=MEASURED_MS)
    expect(nudge).to_contain_text(re.compile("Held against where this rig stood on .*20 Nov 2026"))
    drop("again", 55.03, SIDEREAL_DAY)
    expect(nudge.locator(".sentence")).to_contain_text("as on 20 Nov 2026", timeout=MEASURED_MS)

"""Entering one's own things from nothing, and being told plainly what is wrong without losing a letter."""

import re
from datetime import date, datetime

from playwright.sync_api import Page, expect

from tests.e2e.conftest import choose, sentence


def fill(page: Page, values: dict[str, str]) -> None:
    drawer = page.locator("dialog[open]").last
    for label, value in values.items():
        drawer.get_by_label(label, exact=True).first.fill(value)


def save(page: Page) -> None:
    page.locator("dialog[open]").last.get_by_role("button", name="Save", exact=True).click()


def empty_rig(page: Page, last: bool = False) -> None:
    """Begin a rig with nothing on it, from the sheet that asks how."""
    button = page.get_by_role("button", name="New rig", exact=True)
    (button.last if last else button.first).click()
    sheet = page.locator("dialog[open]")
    choose(page, "Start from", "an empty rig")
    sheet.get_by_role("button", name="Create rig").click()
    expect(page.locator("dialog[open]")).to_have_count(0)


def add_new_part(page: Page, kind: str, values: dict[str, str], refused: bool = False) -> None:
    """From the Bench: a new part out of nothing, straight onto the rig."""
    if not page.get_by_role("dialog", name="Add a part").is_visible():
        page.get_by_role("button", name="Add a part").click()
    page.get_by_role("button", name="New part").click()
    choose(page, "Kind of part", kind)
    fill(page, values)
    save(page)
    if not refused:
        expect(page.get_by_role("dialog", name="A new part")).to_be_hidden()


def test_a_new_person_enters_rig_place_and_target_and_gets_a_card(page, served):
    page.goto(served.address)
    page.get_by_role("button", name="No account yet? Make one").click()
    page.get_by_label("Name").fill("oona")
    page.get_by_label("Password").fill("short")
    page.get_by_role("button", name="Make the account").click()
    expect(page.get_by_role("alert").first).to_contain_text("too short")
    expect(page.get_by_label("Name")).to_have_value("oona")
    page.get_by_label("Password").fill("tape-and-tripod")
    page.get_by_role("button", name="Make the account").click()
    expect(page.get_by_role("heading", name="Three questions")).to_be_visible()
    for side in ("/grounds", "/grounds/side-by-side", "/nights", "/nights/what-suits", "/nights/season"):
        page.goto(served.address + side)
        expect(page.get_by_text("Make a rig, a place and a target first")).to_be_visible()
    for side, words in (("places", "No place yet."), ("targets", "None yet."), ("trips", "No trip yet.")):
        page.goto(f"{served.address}/{'grounds' if side == 'places' else 'nights'}/{side}")
        expect(page.get_by_text(words)).to_be_visible()
    page.goto(served.address)

    empty_rig(page)
    expect(page.get_by_label("Name of the rig")).to_have_value("New rig")
    expect(page.get_by_role("region", name="Complete").locator(".sentence")).to_contain_text("no camera, no lens, no tripod")
    sensor = {"Sensor, long side (mm)": "22.3", "Sensor, short side (mm)": "14.9", "Pixel pitch (µm)": "4.1"}
    optics = {"Focal length (mm)": "85", "Opens to f/": "1.8", "Good corners from f/": "3.2"}
    add_new_part(page, "camera", {"Name": "Hand-me-down", "Mass (g)": "430", **sensor})
    add_new_part(page, "lens", {"Name": "Old 85", "Mass (g)": "heavy", **optics, "Focal length (mm)": "0"}, refused=True)
    drawer = page.locator("dialog[open]").last
    expect(drawer.get_by_role("alert").filter(has_text="This is no mass; write it like 480 g")).to_be_visible()
    expect(drawer.get_by_role("alert").filter(has_text="0 mm cannot be right; give a value from 4 to 3000 mm.")).to_be_visible()
    expect(drawer.get_by_label("Name", exact=True)).to_have_value("Old 85")
    fill(page, {"Mass (g)": "1 lb 2 oz", "Focal length (mm)": "85"})
    save(page)
    add_new_part(page, "tracker", {"Name": "Borrowed", "Mass (g)": "900", "Rated payload (g)": "2500"})
    page.get_by_role("dialog", name="Add a part").get_by_role("button", name="Close").click()
    expect(page.get_by_role("region", name="Payload").locator(".sentence")).to_contain_text("940 g is 38 % of the rating: easy")
    page.get_by_role("link", name="Tonight").click()
    expect(page.locator("form.steps").get_by_label("Coordinates")).to_be_visible()
    expect(page.get_by_label("Opens to f/")).to_have_count(0)  # what is there is not asked for

    page.get_by_role("button", name="New place").click()
    fill(page, {"Name of the place": "Salt pan", "Latitude (°, south negative)": "95", "Longitude (°, west negative)": "16.1"})
    drawer.get_by_label(re.compile("What stands in the way")).fill("0 5\n90 120\n180 3")
    save(page)
    expect(drawer).to_contain_text("95° cannot be right; give a value from -90 to 90°.")
    expect(drawer).to_contain_text("Line 2: 120° cannot be right")
    expect(drawer.get_by_label(re.compile("What stands in the way"))).to_have_value("0 5\n90 120\n180 3")
    drawer.get_by_label("Coordinates as you have them").fill("-22,5,16,1")
    save(page)  # what was pasted is read first
    expect(drawer).to_contain_text("is no pair of coordinates")
    expect(drawer.get_by_label("Latitude (°, south negative)")).to_have_value("95")
    drawer.get_by_label("Coordinates as you have them").fill("22°30'S 16°6'E")
    drawer.get_by_role("button", name="Read", exact=True).click()
    expect(drawer.locator(".reading")).to_contain_text("Africa/Windhoek. The needle points")
    expect(drawer.get_by_label("Latitude (°, south negative)")).to_have_value("-22.5")
    drawer.get_by_label("Class", exact=True).fill("2")
    drawer.get_by_role("button", name="Set", exact=True).click()
    expect(drawer.get_by_label("Sky at the zenith (mag/arcsec²)")).to_have_value("21.8")
    drawer.get_by_label(re.compile("What stands in the way")).fill("0 5\n90 12\n180 3")
    save(page)
    expect(page.get_by_role("heading", name="What do you want to take?")).to_be_visible()

    page.get_by_role("button", name="New target").click()
    fill(
        page,
        {"Name of the target": "Large Magellanic Cloud", "Right ascension (J2000)": "05h23m36s", "Declination (J2000)": "−69°48′"},
    )
    save(page)
    page.get_by_role("region", name="Card").wait_for()
    # The clock stands at a full Moon, and the page says what to do about it.
    assert "the Moon (99 % lit) spoils it all night" in sentence(page, "Window")
    advice = page.get_by_role("region", name="Window", exact=True).locator(".advice").inner_text()
    free = datetime.strptime(advice.split("free of it: ")[1].split(".")[0], "%d %b %Y").date()
    assert date(2026, 11, 24) < free < date(2026, 12, 9)
    night = page.get_by_label("Night, date of the evening")
    night.fill(free.isoformat())
    night.press("Enter")
    expect(page.get_by_role("region", name="Window", exact=True).locator(".sentence")).to_contain_text(
        "Large Magellanic Cloud is usable"
    )
    assert re.search(r"f/3\.2, .* ISO \d+", sentence(page, "Exposure"))


def test_a_night_in_1850_is_refused_and_stays_typed(signed_in):
    page = signed_in()
    before = sentence(page, "Card")
    night = page.get_by_label("Night, date of the evening")
    night.fill("1850-06-01")
    night.press("Enter")
    expect(page.get_by_role("alert").first).to_contain_text("The night of 1 Jun 1850 is outside what can be computed")
    expect(night).to_have_value(re.compile("1 Jun 1850"))
    assert sentence(page, "Card") == before
    night.fill("2026-12-10")
    night.press("Enter")
    expect(page.get_by_role("alert")).to_have_count(0)


def test_an_impossible_aperture_is_told_at_its_field(signed_in):
    page = signed_in()
    page.get_by_role("button", name=re.compile("^How")).click()
    page.get_by_label("f-number").fill("0.5")
    page.get_by_role("button", name="Use these").click()
    drawer = page.get_by_role("dialog")
    expect(drawer.get_by_role("alert").filter(has_text="give a value from 0.7 to 64")).to_be_visible()
    expect(page.get_by_label("f-number")).to_have_value("0.5")
    page.get_by_label("f-number").fill("4")
    page.get_by_role("button", name="Use these").click()
    expect(drawer).to_be_hidden()


def test_the_server_away_says_so_and_comes_back(signed_in, served):
    page = signed_in()
    served.stop()
    page.get_by_role("button", name="Night after").click()
    expect(page.get_by_role("alert").first).to_contain_text("cannot be reached", timeout=60_000)
    expect(page.get_by_role("region", name="Card")).to_be_visible()
    served.start()
    expect(page.get_by_role("alert")).to_have_count(0)  # by itself

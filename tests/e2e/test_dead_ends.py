"""Where pages once contradicted each other or led nowhere: each walked as a journey, on a phone and on a laptop.

The tripod without a tracker and the first verdict of an empty account are in test_new_user.py; figures written wrongly in
test_three_sizes.py, which reads every page.
"""

import re

import pytest
from playwright.sync_api import expect

from tests.e2e.conftest import choose, sentence
from tests.e2e.journeys import BOTH, account_with_rig, chosen, navigate, new_account, sized, unfold, wait_at_rest


@BOTH
def test_one_count_of_frames_and_one_word_on_power(signed_in, served, size):
    page = sized(signed_in(), size)
    cold = f"{chosen(page)}&air_evening_c=-18&air_low_c=-25&humidity_percent=40"
    page.goto(f"{served.address}/tonight?{cold}")
    frames = re.match(r"(\d+) frames", sentence(page, "Card"))[1]
    power = page.get_by_role("region", name="What else can end the night").get_by_role("link", name=re.compile("Power:"))
    told = power.inner_text().split(". ", 1)[1]
    for side in ("exposure", "exposure/card"):
        navigate(page, f"/{side}?{cold}")
        page.get_by_text(re.compile(rf"\b{frames} frames")).filter(visible=True).first.wait_for()
    navigate(page, f"/exposure/how-many?{cold}")
    page.get_by_text(f"Tonight’s {frames} frames").wait_for()
    decides = page.locator("tr.chosen", has_text="decides")
    expect(decides).to_contain_text(f"{frames} frames")
    for few, many in ((16, 32), (32, 64)):
        noise = [page.get_by_role("row", name=re.compile(rf"^{count} ")).last.inner_text() for count in (few, many)]
        more, less = (float(re.findall(r"([\d.]+) %", row)[-1]) for row in noise)
        assert more / less == pytest.approx(2**0.5, abs=0.08)
    navigate(page, f"/bench?{cold}")
    expect(page.get_by_role("region", name="Power", exact=True).locator(".sentence")).to_have_text(told)


@BOTH
def test_a_hidden_pole_is_hidden_on_every_page(page, served, size):
    sized(page, size)
    account_with_rig(page, served.address, f"kiri-{size}", "22.4 S, 16.1 E")
    where = chosen(page)
    navigate(page, f"/grounds?{where}")
    page.get_by_role("button", name="Type", exact=True).click()
    page.get_by_label("Azimuth and altitude, one pair a line").fill("0 5\n150 35\n210 35\n250 5")
    page.get_by_role("button", name="Keep it").click()
    expect(page.locator("dialog[open]")).to_have_count(0)
    hidden = page.get_by_role("region", name="Pole in sight", exact=True).locator(".sentence")
    expect(hidden).to_contain_text(re.compile("hidden|behind"))
    navigate(page, f"/pole?{where}")
    scope = page.locator(".reach li", has_text="polar scope")
    expect(scope).to_contain_text("not here")
    best = page.locator(".reach li", has_text="quickest").locator(".name").inner_text()
    navigate(page, f"/tonight?{where}")
    pole = page.get_by_role("region", name="Pole", exact=True)
    expect(pole.locator(".sentence")).to_contain_text(best.lower())
    assert "scope" not in pole.locator(".sentence").inner_text()
    navigate(page, f"/pole/by-day?{where}")
    page.locator("main .panel").first.wait_for()
    assert "then the polar scope" not in page.locator("main").inner_text()


@BOTH
def test_under_a_full_moon_the_filter_decides(signed_in, served, size):
    page = sized(signed_in(), size)
    full = re.sub(r"night=[\d-]+", "night=2026-11-24", chosen(page))
    page.goto(f"{served.address}/tonight?{full}")
    assert "spoils it all night" in sentence(page, "Window")
    navigate(page, f"/exposure/light?{full}")
    row = page.get_by_role("row", name=re.compile("Dual-band filter"))
    bare = page.get_by_role("row", name=re.compile("No filter"))
    expect(bare).to_contain_text("no time")
    expect(row).to_contain_text(re.compile(r"\d\.\d h"))
    row.get_by_role("button", name="Dual-band filter").click()
    page.wait_for_url(re.compile("filter_name="))
    page.goto(f"{served.address}/tonight?{chosen(page)}")
    assert "spoils it all night" not in sentence(page, "Window")
    assert re.match(r"[1-9]\d* frames", sentence(page, "Card"))


@BOTH
def test_what_a_field_shows_is_what_it_keeps(page, served, size):
    sized(page, size)
    account_with_rig(page, served.address, f"senna-{size}", "24.58 S, 16.42 E")
    where = chosen(page)
    navigate(page, f"/bench/parts?{where}")
    page.get_by_role("button", name="Light tracker", exact=True).click()
    drawer = page.locator("dialog[open]").last
    drawer.get_by_label("Name", exact=True).wait_for()
    shown = drawer.locator("select, input").evaluate_all("all => all.map((one) => [one.id, one.placeholder ?? ''])")
    assert not [words for _, words in shown if words.strip().lower() in {"yes", "no"}]
    box = drawer.get_by_label(re.compile("rating includes", re.IGNORECASE))
    before = box.evaluate("one => one.selectedOptions[0].textContent.trim()")
    drawer.get_by_role("button", name="Save", exact=True).click()
    expect(drawer).to_be_hidden()
    page.get_by_role("button", name="Light tracker", exact=True).click()
    assert box.evaluate("one => one.selectedOptions[0].textContent.trim()") == before
    page.keyboard.press("Escape")
    # The camera's table is an estimate, says so, and reaches as high as cameras do.
    navigate(page, f"/exposure/light?{where}")
    expect(page.locator(".iso .note")).to_contain_text("estimate by the size of the pixels")
    page.get_by_role("row", name=re.compile("^3200")).get_by_role("button", name="3200").click()
    page.wait_for_url(re.compile("iso=3200"))
    page.get_by_role("link", name="Measure yours").click()
    expect(page.get_by_text("Two flats").or_(page.get_by_text("two flats")).first).to_be_visible()


@BOTH
def test_choices_outlive_what_is_not_chosen_yet(page, served, size):
    sized(page, size)
    new_account(page, served.address, f"ebba-{size}")
    page.goto(served.address)
    page.get_by_role("button", name=re.compile("^How")).click()
    drawer = page.get_by_role("dialog", name="How you work")
    choose(page, "Masses in", "lb and oz")
    drawer.get_by_label("f-number").fill("0.5")
    drawer.get_by_role("button", name="Use these").click()
    expect(drawer.get_by_role("alert").filter(has_text="give a value from 0.7 to 64")).to_be_visible()
    drawer.get_by_role("button", name="Cancel").click()
    expect(page).not_to_have_url(re.compile("f_number"))
    page.get_by_role("button", name=re.compile("^How")).click()
    drawer.get_by_label("f-number").fill("2.8")
    drawer.get_by_role("button", name="Use these").click()
    expect(drawer).to_be_hidden()
    page.wait_for_url(re.compile("f_number=2.8"))
    for place in ("My nights", "About"):
        rail = page.get_by_role("navigation", name="Workspaces")
        if size == "phone":
            rail.get_by_role("button", name={"My nights": "Afterwards", "About": "More"}[place]).click()
        rail.get_by_role("link", name=place).click()
        expect(page).to_have_title(f"{place} · Wide Dusk")
        rail.get_by_role("link", name="Tonight").click()
        assert "f_number=2.8" in page.url
    # A place alone, without rig or target: its profile can be drawn, and the class of its sky counts as typed.
    navigate(page, "/grounds/places")
    page.get_by_role("button", name="New place").last.click()
    place = page.get_by_role("dialog", name=re.compile("place"))
    place.get_by_label("Name of the place").fill("Slate ridge")
    place.get_by_label("Coordinates as you have them").fill("24 35 00 S 16 25 12 E")
    place.get_by_label("Coordinates as you have them").press("Enter")
    choose(page, "or told by", "its class")
    place.get_by_label("Class", exact=True).fill("3")
    place.get_by_label("Where one stands").fill("by the wall")
    place.get_by_role("button", name="Save", exact=True).click()
    expect(place).to_be_hidden()
    row = page.get_by_role("row", name=re.compile("Slate ridge"))
    expect(row).to_contain_text(re.compile(r"21\.[3-7]"))
    unfold(page)
    choose(page, "at place and spot", "Slate ridge, by the wall")
    navigate(page, f"/grounds?{chosen(page)}")
    page.get_by_role("button", name="Draw", exact=True).click()
    around = page.get_by_role("slider", name="Direction on the horizon")
    around.press("ArrowUp")
    undo = page.get_by_role("button", name="Undo")
    undo.wait_for()
    bar, drawn, below = undo.bounding_box(), around.bounding_box(), page.locator("nav[aria-label=Workspaces]").bounding_box()
    ends = drawn["y"] + drawn["height"]
    if below["width"] > below["height"]:  # on a phone a bar at the bottom, under which the page goes on
        ends = min(ends, below["y"])
    assert bar["y"] + bar["height"] <= drawn["y"] + 1 or bar["y"] >= ends - 1, "it covers what was changed"


@BOTH
def test_angles_and_dates_are_read_as_people_write_them(page, served, size):
    sized(page, size)
    account_with_rig(page, served.address, f"levi-{size}", "24.58 S, 16.42 E")
    navigate(page, f"/nights/targets?{chosen(page)}")
    for name, ra, dec in (("By hand", "00h42m44s", "+41°16′09″"), ("By colons", "00:42:44", "41:16:09")):
        page.get_by_role("button", name="New", exact=True).click()
        drawer = page.get_by_role("dialog", name=re.compile("target"))
        drawer.get_by_label("Name of the target").fill(name)
        drawer.get_by_label("Right ascension").fill(ra)
        drawer.get_by_label("Declination").fill(dec)
        drawer.get_by_label("Long side", exact=False).first.fill("3")
        drawer.get_by_role("button", name="Save", exact=True).click()
        expect(drawer).to_be_hidden()
    read = []
    for name in ("By hand", "By colons"):
        page.get_by_role("button", name=f"Change {name}").click()
        drawer = page.get_by_role("dialog", name=re.compile("target|Change"))
        read.append([drawer.get_by_label(label).input_value() for label in ("Right ascension", "Declination")])
        page.keyboard.press("Escape")
    assert read[0] == read[1]
    unfold(page)
    night = page.get_by_label("Night, date of the evening")
    for day, typed in (("10", "Dec 10, 2026"), ("11", "2026-12-11"), ("12", "Sat 12 December 2026")):
        night.fill(typed)
        night.press("Enter")
        page.wait_for_url(re.compile(f"night=2026-12-{day}"))
        expect(night).to_have_value(re.compile(rf"^\w{{3}} {day} Dec 2026$"))
    night.fill("10/12/2026")  # which of two it may be, the page does not guess
    night.press("Enter")
    expect(page.get_by_role("alert").first).to_contain_text("write it like 9 Dec 2026")
    # One object, one brightness, whichever of its names is asked for.
    rows = []
    for words in ("m 42", "ngc 1976"):
        page.goto(f"{served.address}/nights/targets")
        page.get_by_label("Search the catalogue").fill(words)
        row = page.locator(".catalogue tbody tr", has_text="NGC 1976").first
        row.wait_for()
        rows.append(row.inner_text())
    assert rows[0] == rows[1] and re.search(r"\d\d\.\d", rows[0])


@BOTH
def test_a_measured_axis_counts_on_every_page(page, served, size):
    sized(page, size)
    account_with_rig(page, served.address, f"runa-{size}", "24.58 S, 16.42 E")
    where = chosen(page)
    navigate(page, f"/pole/drift?{where}")
    for place, (amount, towards) in enumerate((("6", "north"), ("4", "south")), 1):
        star = page.get_by_role("group", name=f"Star {place}")
        star.get_by_label("It moved by").fill(amount)
        star.get_by_label("towards").select_option(label=towards)
    axis = page.get_by_role("button", name="Write it down")
    axis.wait_for()
    axis.click()
    page.get_by_text("Written into the record.").wait_for()
    navigate(page, f"/pole/record?{where}")
    off = re.search(r"([\d.]+)[′°]", page.locator("main table tbody tr").first.inner_text())[0]
    navigate(page, f"/tonight?{where}")
    pole = page.get_by_role("region", name="Pole", exact=True)
    expect(pole).not_to_contain_text("You expect")
    expect(pole).to_contain_text(re.compile("measured|Measured|stands|stood"))
    assert off


@BOTH
def test_sheets_print_black_on_white_with_one_press(signed_in, served, size):
    page = sized(signed_in(), size)
    where = chosen(page)
    page.evaluate("() => { window.printed = 0; window.print = () => { window.printed += 1 } }")
    page.get_by_role("button", name="Print", exact=True).click()
    page.wait_for_function("() => window.printed === 1")
    page.emulate_media(media="print")
    assert page.get_by_role("columnheader", name="f-number").or_(page.get_by_text("f/4.0")).first.is_visible()
    for side in ("tonight", "bench/packing", "grounds"):
        page.goto(f"{served.address}/{side}?{where}")
        page.locator("main").wait_for()
        wait_at_rest(page)
        page.emulate_media(media="print")
        paper, ink = page.evaluate(
            "() => { const one = document.querySelector('.paper:not([hidden])') ?? document.querySelector('main');"
            " const look = getComputedStyle(one); return [getComputedStyle(document.body).backgroundColor, look.color] }"
        )
        assert paper in {"rgb(255, 255, 255)", "rgba(0, 0, 0, 0)"} and ink == "rgb(0, 0, 0)", side
        assert page.evaluate("() => document.documentElement.scrollWidth <= document.documentElement.clientWidth + 1"), side
        page.emulate_media(media="screen")


@BOTH
def test_an_unused_guide_scope_says_what_it_would_bring(signed_in, served, size):
    page = sized(signed_in(), size)
    navigate(page, f"/bench?{chosen(page)}")
    page.get_by_role("button", name="Add a part").click()
    adding = page.get_by_role("dialog", name="Add a part")
    adding.get_by_role("button", name=re.compile("Guide scope")).first.click()
    page.keyboard.press("Escape")
    page.get_by_role("button", name="Take Guide scope and camera off").wait_for()
    navigate(page, f"/exposure?{chosen(page)}")
    expect(page.get_by_role("region", name="Exposure", exact=True).locator(".advice")).to_contain_text(re.compile("[Gg]uid"))
    navigate(page, f"/bench?{chosen(page)}")
    page.get_by_role("button", name="Take Guide scope and camera off").click()
    expect(page.get_by_role("button", name="Take Guide scope and camera off")).to_have_count(0)

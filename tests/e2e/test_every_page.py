"""One walk over every page, as links lead there, at three sizes of the screen and then without a connection. What is seen on it
is recorded once; each test holds one promise against the record."""

import re
from collections.abc import Iterator
from dataclasses import dataclass, field

import pytest
from playwright.sync_api import Browser, Page, expect

from tests.e2e.conftest import choose, new_context, sign_in_as_demo
from tests.e2e.journeys import navigate, violations, wait_at_rest
from tests.e2e.sizes import SIDES, SIZES, WITHOUT_SCROLLING, wrong_with
from widedusk.command import postgres

# More digits than anybody knows, a nought with a minus, or what a program says to itself.
MISWRITTEN = re.compile(r"\d\.\d{5,}|[-−]0(?:\.0+)?(?![\d.])|\bNaN\b|\bundefined\b|\bnull\b|\d{4}-\d\d-\d\d")
OF_THIS_MACHINE = ("http://127.0.0.1:", "data:", "blob:")
# What these show is chosen on this device, and is no answer of the server.
OF_THE_DEVICE = {"pole/photographs", "exposure/test-picture", "exposure/my-camera", "exposure/my-lens"}


@dataclass
class PageRecord:
    """What one page was like. By size of the screen: text, what audit.js finds wrong, and how many first headings there are."""

    text: dict[str, str] = field(default_factory=dict)
    wrong: dict[str, list[str]] = field(default_factory=dict)
    headings: dict[str, int] = field(default_factory=dict)
    laptop_px: tuple[int, int] = (0, 0)  # width and height of the page on a laptop
    violations: list[str] = field(default_factory=list)
    complaints: list[str] = field(default_factory=list)  # of the console, and errors nobody caught
    strangers: list[str] = field(default_factory=list)  # requests to anybody but our server


@dataclass
class Walk:
    page: Page  # it stays open: what it was answered is still there
    chosen: str  # by the address: rig, spot, night, target
    records: dict[str, PageRecord]


def _visit(page: Page, side: str, chosen: str, contrast: bool) -> PageRecord:
    record = PageRecord()
    page.set_viewport_size(dict(zip(("width", "height"), SIZES["phone"], strict=True)))
    navigate(page, f"/{side}{chosen}")
    page.locator(SIDES[side]).first.wait_for(state="attached")
    for size, (width, height) in SIZES.items():
        page.set_viewport_size({"width": width, "height": height})
        wait_at_rest(page)
        record.wrong[size] = wrong_with(page, size)
        record.headings[size] = page.locator("h1:not(.paper *)").count()
        record.text[size] = page.locator("main").inner_text()
    record.violations = violations(page, contrast)
    record.laptop_px = page.evaluate("() => [document.documentElement.scrollWidth, document.documentElement.scrollHeight]")
    return record


@pytest.fixture(scope="module")
def walk(browser: Browser, served, workers) -> Iterator[Walk]:
    context = new_context(browser)
    page = context.new_page()
    page.set_default_timeout(30_000)
    sign_in_as_demo(page, served.address)
    # What tests before this one measured: pages say more of it.
    postgres.query("delete from pole_alignment; delete from pictures_measurement;", served.env["WIDE_DUSK_DB_NAME"])
    page.reload()
    page.get_by_role("region", name="Card").wait_for()
    chosen, records, coloured = page.evaluate("location.search"), {}, set()
    complaints: list[str] = []
    strangers: list[str] = []
    page.on("pageerror", lambda error: complaints.append(str(error)))
    page.on("console", lambda message: complaints.append(message.text) if message.type in {"error", "warning"} else None)
    page.on("request", lambda request: strangers.append(request.url) if not request.url.startswith(OF_THIS_MACHINE) else None)
    for side in SIDES:
        workspace = side.partition("/")[0]
        records[side] = _visit(page, side, chosen, contrast=workspace not in coloured)
        coloured.add(workspace)
        records[side].complaints, records[side].strangers = complaints[:], strangers[:]
        complaints.clear()
        strangers.clear()
    yield Walk(page, chosen, records)
    context.close()


def test_every_page_fits_a_phone_a_tablet_and_a_laptop(walk):
    assert {side: record.wrong for side, record in walk.records.items() if any(record.wrong.values())} == {}
    assert {side: record.headings for side, record in walk.records.items() if set(record.headings.values()) != {1}} == {}


def test_no_page_writes_a_number_that_nobody_would_read(walk):
    found = {side: MISWRITTEN.findall(" ".join(record.text.values())) for side, record in walk.records.items()}
    assert {side: words for side, words in found.items() if words} == {}


def test_no_page_has_a_serious_violation_of_wcag(walk):
    assert {side: record.violations for side, record in walk.records.items() if record.violations} == {}


def test_instruments_are_seen_on_a_small_laptop_without_scrolling(walk):
    width, height = SIZES["laptop"]
    assert {side: record.laptop_px for side, record in walk.records.items() if record.laptop_px[0] > width} == {}
    assert {side: walk.records[side].laptop_px for side in WITHOUT_SCROLLING if walk.records[side].laptop_px[1] > height} == {}


def test_no_page_complains_or_asks_anybody_but_our_server(walk):
    assert {side: record.complaints for side, record in walk.records.items() if record.complaints} == {}
    assert {side: record.strangers for side, record in walk.records.items() if record.strangers} == {}


def test_without_a_connection_nothing_empties_and_nothing_is_lost(walk):
    """The last of this file: it goes on with the page that has been everywhere."""
    page, chosen = walk.page, walk.chosen
    page.context.set_offline(True)
    navigate(page, f"/tonight{chosen}")
    choose(page, "on target", "Chamaeleon")  # what was never asked cannot be answered; what was stays
    note = page.get_by_role("status").filter(has_text="No connection")
    expect(note).to_contain_text(re.compile(r"answered at \d\d:\d\d, (just now|\d+ min ago)"))
    page.go_back()
    empty = []
    for side in SIDES.keys() - OF_THE_DEVICE:
        navigate(page, f"/{side}{chosen}")
        page.locator(SIDES[side]).first.wait_for(state="attached")
        wait_at_rest(page)
        before, now = len(walk.records[side].text["laptop"]), len(page.locator("main").inner_text())
        if now < 0.7 * before or not note.is_visible():
            empty.append((side, before, now, note.is_visible()))
    assert not empty
    navigate(page, f"/grounds/places{chosen}")
    page.get_by_role("button", name="Change Harjula Mire").click()
    drawer = page.get_by_role("dialog", name="Change “Harjula Mire”")
    drawer.get_by_label("Name of the place").fill("Harjula, renamed")
    drawer.get_by_role("button", name="Save", exact=True).click()
    expect(drawer.get_by_role("alert").first).to_contain_text("cannot be reached")
    expect(drawer.get_by_label("Name of the place")).to_have_value("Harjula, renamed")
    page.context.set_offline(False)
    expect(note).to_be_hidden()
    drawer.get_by_role("button", name="Save", exact=True).click()
    expect(drawer).to_be_hidden()
    page.get_by_role("button", name="Change Harjula, renamed").click()
    again = page.get_by_role("dialog", name="Change “Harjula, renamed”")
    again.get_by_label("Name of the place").fill("Harjula Mire")  # as the other tests know it
    again.get_by_role("button", name="Save", exact=True).click()
    expect(again).to_be_hidden()

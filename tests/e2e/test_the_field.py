"""A night in the field on a phone, from walk-in to drive home with no connection; then what was taken down comes home, once."""

import contextlib
import io
import os
import signal
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from datetime import datetime, timedelta
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from PIL import Image
from playwright.sync_api import BrowserContext, Page, Playwright, TimeoutError, expect

from tests.e2e.conftest import BROWSER, FLAGS, PAGE_MS, READ_ONCE, Served, a_site, own
from tests.e2e.journeys import POST, violations, wait_until
from tests.nightly import nightly

DATABASE = "widedusk_field"
BEFORE_SUNSET, MORNING = "2026-12-08T14:00:00+00:00", "2026-12-09T09:00:00+00:00"
MOST_COLOUR, LEAST_PX, LEAST_APART_PX = 24, 48, 16
# Everything that can be pressed and seen: its size, and how close the nearest other one comes.
TARGETS = """() => {
  const top = document.querySelector('[role=alertdialog], .over')
  const all = [...document.querySelectorAll('button, a[href], input, textarea')]
  const cut = (one) => {  // what scrolls away inside a list is not there
    const frame = one.closest('.scrolls')?.getBoundingClientRect()
    const box = one.getBoundingClientRect()
    return frame && (box.top < frame.top - 1 || box.bottom > frame.bottom + 1)
  }
  const boxes = all.filter((one) => one.checkVisibility() && (!top || top.contains(one)) && !cut(one))
    .map((one) => ({ name: one.textContent.trim().slice(0, 30), box: one.getBoundingClientRect() }))
    .filter(({ box }) => box.bottom > 0 && box.top < innerHeight)
  const apart = (a, b) => Math.max(a.left - b.right, b.left - a.right, a.top - b.bottom, b.top - a.bottom)
  return boxes.map((one, n) => ({
    name: one.name, width: one.box.width, height: one.box.height,
    apart: Math.min(...boxes.filter((_, other) => other !== n).map((other) => apart(one.box, other.box)), 1000),
  }))
}"""
SCROLLS = """() => {
  const step = document.querySelector('.step')
  return document.documentElement.scrollHeight > innerHeight + 1 || (step && step.scrollHeight > step.clientHeight + 1)
}"""
# How many files the service worker has put by.
PUT_BY = """async () => {
  const stores = await Promise.all((await caches.keys()).map((key) => caches.open(key)))
  return (await Promise.all(stores.map(async (one) => (await one.keys()).length))).reduce((a, b) => a + b, 0)
}"""
# On a slow disk, at the very moment that another sentence stands there.
RELOADS_WHEN_SHOWN = """() => {
  const put = IDBObjectStore.prototype.put
  IDBObjectStore.prototype.put = function (...given) {
    const asked = put.apply(this, given)
    let left = 500
    const again = () => { if (left-- > 0) this.count().onsuccess = again }
    asked.addEventListener('success', again)
    return asked
  }
  new MutationObserver((_, seen) => { seen.disconnect(); location.reload() })
    .observe(document.querySelector('.step'), { childList: true, characterData: true, subtree: true })
}"""
DRAWN = "() => new Promise((done) => requestAnimationFrame(() => requestAnimationFrame(done)))"
SAYS_SOMETHING_ELSE = "(words) => document.querySelector('[role=alertdialog] .words')?.innerText !== words"
GONE_MS = 3000
ASK = "(path) => fetch(path).then((answer) => answer.json())"


def looked_at(page: Page) -> None:
    """No pixel with green or blue, nothing too small or too near to press, nothing to scroll."""
    picture = np.asarray(Image.open(io.BytesIO(page.screenshot())).convert("RGB"))
    assert picture[..., 1:].max() <= MOST_COLOUR, picture[..., 1:].reshape(-1, 2).max(axis=0)
    for one in page.evaluate(TARGETS):
        assert min(one["width"], one["height"]) >= LEAST_PX, one
        assert one["apart"] >= LEAST_APART_PX - 0.6, one
    assert not page.evaluate(SCROLLS), page.locator("main").inner_text()[:80]


RUN = ("rig", "wish", "panel", "begins_at", "ends_at", "frames")


class Phone:
    """A phone with a browser of its own, whose profile outlives the browser."""

    def __init__(self, playwright: Playwright, folder: Path, address: str) -> None:
        self.playwright, self.folder, self.address = playwright, folder, address
        self.clock, self.ahead = BEFORE_SUNSET, 0
        self.context: BrowserContext | None = None
        self.cookies: list = []
        self.start()

    def start(self) -> None:
        self.context = self.playwright.chromium.launch_persistent_context(
            str(self.folder),
            executable_path=BROWSER,
            args=FLAGS + READ_ONCE,
            viewport={"width": 390, "height": 844},
            has_touch=True,
            locale="en-GB",
            timezone_id="America/Lima",  # set to another zone than the place's
        )
        self.context.add_cookies(self.cookies)
        self.context.set_default_timeout(PAGE_MS)
        self.page = self.context.pages[0] if self.context.pages else self.context.new_page()
        self.page.clock.set_fixed_time(self.clock)

    def at(self, moment: str) -> None:
        """The hour moves on, never back; whatever calls meanwhile is seen."""
        self.clock = max(self.clock, moment)
        self.page.clock.set_fixed_time(later(self.clock, minutes=self.ahead))
        self.page.evaluate("() => document.dispatchEvent(new Event('visibilitychange'))")  # as when it is taken out of a pocket
        self.page.evaluate(DRAWN)
        self.seen()

    def seen(self) -> list[str]:
        found = []
        call = self.page.get_by_role("alertdialog")
        for _ in range(30):
            if not call.is_visible():
                return found
            with contextlib.suppress(TimeoutError):  # the other phone saw it, and told this one meanwhile
                words = call.locator(".words").inner_text(timeout=GONE_MS)
                call.get_by_role("button", name="OK, got it").click(timeout=GONE_MS)
                self.page.wait_for_function(SAYS_SOMETHING_ELSE, arg=words)
                found.append(words)
        raise AssertionError(f"still calling: {found}")

    def killed(self) -> None:
        """As by an empty battery: the browser has no time for anything.

        It writes its cookies every half minute only, and the person signed in longer ago than that."""
        self.cookies = self.context.cookies()
        for process in Path("/proc").glob("[0-9]*"):
            with contextlib.suppress(OSError):
                if str(self.folder).encode() in (process / "cmdline").read_bytes():
                    os.kill(int(process.name), signal.SIGKILL)

    def new_page(self) -> None:
        assert self.context
        self.page.close()
        self.page = self.context.new_page()
        self.page.clock.set_fixed_time(self.clock)

    def opens(self, night: int) -> None:
        self.page.goto(f"{self.address}/field/#/{night}")
        self.page.locator("h2").first.wait_for()


@dataclass
class FieldSite(Served):
    """A server whose clock is in a file: it goes on while the server runs."""

    clock: Path = Path()

    def at(self, moment: str) -> None:
        self.clock.write_text(moment)


@pytest.fixture(scope="module")
def server(demo_copy: Callable[[str], None], tmp_path_factory: pytest.TempPathFactory) -> Iterator[FieldSite]:
    clock = tmp_path_factory.mktemp("clock") / "now"
    clock.write_text(BEFORE_SUNSET)
    with a_site(demo_copy, DATABASE, f"@{clock}") as one:
        field = FieldSite(one.env, one.port, one.process, clock)
        yield field
        field.stop()


@pytest.fixture
def site(server: FieldSite, demo_copy: Callable[[str], None]) -> FieldSite:
    """The demo as it begins, before sunset."""
    server.at(BEFORE_SUNSET)
    demo_copy(own(DATABASE))
    if server.process is None or server.process.poll() is not None:
        server.start()
    return server


def later(moment: str, **more: float) -> str:
    return (datetime.fromisoformat(moment) + timedelta(**more)).isoformat()


def planned(page: Page, hemisphere: str) -> int:
    """A night of the demo, planned: in the south two rigs as a whole night, in the north one plan."""
    places = page.evaluate(ASK, "/api/places")["items"]
    targets = page.evaluate(ASK, "/api/targets")["items"]
    rigs = page.evaluate(ASK, "/api/rigs")["items"]
    spot = next(one for one in places if (one["latitude_deg"] < 0) == (hemisphere == "south"))["spots"][0]["id"]
    for rig in rigs:  # as it was aligned the last time, by what the pole view draws
        context = {"rig": rig["id"], "spot": spot, "night": "2026-12-01", "target": targets[0]["id"]}
        assert "id" in page.evaluate(POST, ["alignments", {"context": context, "method": "scope"}])
    if hemisphere == "north":
        target = next(one for one in targets if "California" in one["name"])["id"]
        context = {"rig": rigs[0]["id"], "spot": spot, "night": "2026-12-08", "target": target}
        told = page.evaluate(POST, ["plans", {"name": "Nebula over the mire", **context, "choices": {"mirror_s": 2}}])
        assert "id" in told, told
    else:
        wishes = [{"target": one["id"]} for one in targets if one["name"].startswith(("Vela", "Chamaeleon"))]
        asked = {"spot": spot, "night": "2026-12-08", "rigs": [one["id"] for one in rigs[:2]], "wishes": wishes}
        whole = page.evaluate(POST, ["nights/whole", asked])["whole"]
        names = {
            "rig": "stand",
            "wish": "wish",
            "panel": "panel",
            "begins_at": "held_from",
            "ends_at": "held_to",
            "frames": "frames",
        }
        runs = [{name: one["run"][of] for name, of in names.items()} for one in whole["runs"]]
        assert page.evaluate(POST.replace("'POST'", "'PUT'"), ["nights/whole", {**asked, "runs": runs}]) == {"done": True}
    return page.evaluate(ASK, f"/api/nights/field?spot={spot}&night=2026-12-08")["night"]


def taken_along(phone: Phone, hemisphere: str) -> tuple[int, dict[str, Any]]:
    """Sign in on the phone, plan, open the night; it stays when the service worker has everything."""
    page = phone.page
    page.goto(f"{phone.address}/sign-in")
    page.get_by_role("button", name="Look around with the demo account").click()
    page.wait_for_url("**/tonight**")
    night = planned(page, hemisphere)
    phone.opens(night)
    page.evaluate("() => navigator.serviceWorker.ready.then(() => true)")
    expect(page.locator("header")).to_contain_text("all sent")
    wait_until(page, PUT_BY, lambda count: count >= 7)
    return night, page.evaluate(ASK, f"/api/nights/{night}/pack")


def end_runs(phone: Phone, rig: int | None, pack: dict[str, Any], ended: dict[str, int]) -> None:
    """End what runs with a rig, or with any: two frames fewer than were counted."""
    page = phone.page
    while page.locator(".running button").count():
        names = page.locator(".running button").all_inner_texts()
        mine = [n for n, text in enumerate(names) if rig is None or len(pack["rigs"]) < 2 or pack["rigs"][rig]["name"] in text]
        if not mine:
            return
        page.locator(".running button").nth(mine[0]).click()
        page.get_by_role("button", name="It ended now").click()
        counted = int(page.locator(".count").inner_text())
        page.get_by_role("button", name="−1 frames").click()
        page.get_by_role("button", name="−1 frames").click()
        looked_at(page)
        page.get_by_role("button", name="Save", exact=True).click()
        ended[names[mine[0]].split(":")[0]] = max(counted - 2, 0)
        page.locator(".step").wait_for()


def goes_to(page: Page, pack: dict[str, Any], number: int) -> None:
    """What stands there is the step; where this person is late, the night asks about something else, and the step is looked up."""
    heading, step = page.locator("h2"), pack["steps"][number]
    heading.wait_for()
    if heading.inner_text() != step["sentence"]:
        page.locator(".foot .all").click()
        page.locator("ol .line").nth(number).click()
    expect(heading).to_have_text(step["sentence"])


def _turns_with_the_clock(phone: Phone) -> None:
    """The star that is drawn stands elsewhere eight minutes later, while the step is still the one that is due."""
    star = phone.page.locator("figure circle.now").first
    before = star.get_attribute("cx")
    phone.page.clock.set_fixed_time(later(phone.clock, minutes=8))
    expect(star).not_to_have_attribute("cx", before or "")
    phone.page.clock.set_fixed_time(phone.clock)
    expect(star).to_have_attribute("cx", before or "")
    phone.page.locator(".drawing").click()
    looked_at(phone.page)
    phone.page.locator(".over").get_by_role("button", name="Back").click()


@pytest.mark.parametrize("hemisphere", ["south", nightly("north")])
def test_a_night_with_no_connection_comes_home_once(site, playwright, tmp_path, hemisphere):
    phone = Phone(playwright, tmp_path / "phone", site.address)
    night, pack = taken_along(phone, hemisphere)
    site.stop()  # nobody answers from here on, and no network either
    phone.context.set_offline(True)
    seen_kinds, ended, pressed = set(), {}, 0
    for number, step in enumerate(pack["steps"]):
        phone.at(step["due"])
        page = phone.page
        if step["kind"] == "find" or step["phase"] == "at the end":
            end_runs(phone, step["rig"] if step["kind"] == "find" else None, pack, ended)
        goes_to(page, pack, number)
        if step["kind"] not in seen_kinds or number % 7 == 0:
            looked_at(page)
            assert not violations(page)
            if step["kind"] == "pole":
                _turns_with_the_clock(phone)
            seen_kinds.add(step["kind"])
        if step["kind"] != "run":
            done = page.get_by_role("button", name="Done", exact=True)
            if number % 4 == 2:  # what is shown as done is on the disk
                page.evaluate(RELOADS_WHEN_SHOWN)
                with page.expect_navigation():
                    done.click()
            else:
                done.click()
            continue
        page.get_by_role("button", name="Started now").click()
        run = next(one for one in pack["runs"] if one["key"] == step["run"])
        begun = phone.clock
        # Its own screen, and not yet the step's, whose sentence names it too.
        expect(page.get_by_role("button", name="It ended now")).to_be_visible()
        expect(page.get_by_role("heading", name=run["name"], exact=True)).to_be_visible()
        pressed += 1
        if pressed == 1:
            page.reload()
            phone.at(later(begun, seconds=run["done_after_s"][4] + 1))
            page.locator(".running button").first.click()
            looked_at(page)
            expect(page.locator("dl")).to_contain_text("Frames done")
            expect(page.locator("dl dd").first).to_have_text("5")
            # The cue of the run calls at its second, over whatever stands there.
            first = run["cues"][0]
            phone.clock = later(begun, seconds=first["after_s"] + 1)
            page.clock.set_fixed_time(phone.clock)
            call = page.get_by_role("alertdialog")
            expect(call).to_contain_text(first["name"])
            looked_at(page)
            phone.seen()
            phone.new_page()  # killed by the phone
            phone.opens(night)
            phone.killed()  # an empty battery
            phone.start()
            phone.context.set_offline(True)
            phone.opens(night)
            phone.seen()
            expect(phone.page.locator(".running")).to_contain_text(run["name"])
        else:
            page.get_by_role("button", name="Back to the steps").click()
    page = phone.page
    expect(page.locator("h2")).to_contain_text("Good night")
    assert seen_kinds >= {"list", "check", "pole", "find", "test", "run"}
    assert pressed == len(pack["runs"]) and len(ended) >= 1
    here = page.evaluate(EVENTS)
    assert len(here) > len(pack["steps"])

    site.at(MORNING)
    site.start()
    phone.clock = MORNING
    page.clock.set_fixed_time(MORNING)
    phone.context.set_offline(False)
    page.evaluate("() => dispatchEvent(new Event('online'))")
    expect(page.locator("header")).to_contain_text("all sent")
    there = all_events(page, night)
    assert sorted(one["id"] for one in there) == sorted(one["event"]["id"] for one in here)
    state = page.evaluate(ASK, f"/api/nights/field?spot={spot_of(page, pack)}&night=2026-12-08")
    assert state["checked"] == len([one for one in pack["steps"] if one["kind"] != "run"])
    assert {one["run"] for one in state["runs"]} == {one["key"] for one in pack["runs"]}
    assert not state["contradictions"]
    phone.context.close()


EVENTS = """() => new Promise((done) => {
  const asked = indexedDB.open('wide-dusk-field')
  asked.onsuccess = () => {
    const all = asked.result.transaction('events').objectStore('events').getAll()
    all.onsuccess = () => done(all.result)
  }
})"""


def all_events(page: Page, night: int) -> list[dict[str, Any]]:
    found: list[dict[str, Any]] = []
    while True:
        told = page.evaluate(ASK, f"/api/nights/{night}/events?limit=200&offset={len(found)}")
        found += told["items"]
        if len(found) >= told["count"]:
            return found


def spot_of(page: Page, pack: dict[str, Any]) -> int:
    return next(
        spot["id"]
        for place in page.evaluate(ASK, "/api/places")["items"]
        for spot in place["spots"]
        if pack["place"].endswith(spot["name"])
    )


def test_the_night_as_one_file_opens_from_disk_keeps_its_checks_and_is_read_back(site, playwright, tmp_path):
    phone = Phone(playwright, tmp_path / "phone", site.address)
    _, pack = taken_along(phone, "north")
    page = phone.page
    spot = spot_of(page, pack)
    page.goto(f"{site.address}/out-there?rig=1&spot={spot}&night=2026-12-08&target=1")
    with page.expect_download() as saved:
        page.get_by_role("button", name="Save as one file").click()
    file = tmp_path / "carried" / "night.html"
    saved.value.save_as(file)
    assert file.stat().st_size < 1_200_000
    phone.context.set_offline(True)

    # Opened from the disk, with no server and no network, in a page that is asked by nobody.
    asked: list[str] = []
    alone = phone.context.new_page()
    alone.on("request", lambda one: asked.append(one.url))
    alone.goto(file.as_uri())
    alone.locator("h2").first.wait_for()
    looked_at(alone)
    expect(alone.locator("header")).to_contain_text("one file")
    alone.get_by_role("button", name="Done", exact=True).click()
    expect(alone.locator("h2")).to_have_text(pack["steps"][1]["sentence"])
    alone.reload()
    expect(alone.locator("h2")).to_have_text(pack["steps"][1]["sentence"])
    alone.locator("nav").get_by_role("button", name="Note").click()
    alone.get_by_label("In words").fill("Dew on the hood at nine")
    alone.locator("main").get_by_role("button", name="Note", exact=True).click()
    alone.locator("nav").get_by_role("button", name="Note").click()
    alone.get_by_label("In words").fill("Gloves")
    alone.get_by_role("button", name="Forgot something").click()
    alone.locator("header button").first.click()
    looked_at(alone)
    with alone.expect_download() as back:
        alone.get_by_role("button", name="Save as a file").click()
    events = tmp_path / "events.json"
    back.value.save_as(events)
    assert not [one for one in asked if not one.startswith(("file:", "data:", "blob:"))], asked
    alone.close()

    phone.context.set_offline(False)
    page.goto(f"{site.address}/out-there?rig=1&spot={spot}&night=2026-12-08&target=1")
    reader = page.get_by_label("Read events from a file")
    for _ in range(2):  # twice does no harm
        reader.set_input_files(events)
        expect(page.get_by_text("3 events are in the record of this night.")).to_be_visible()
    came = page.get_by_role("region", name="What came back")
    expect(came).to_contain_text("3 events from 1 device, 1 steps done")
    expect(came).to_contain_text("Dew on the hood at nine")
    expect(came).to_contain_text("For the next packing list: Gloves")
    wrong = tmp_path / "wrong.json"
    wrong.write_text("{}")
    reader.set_input_files(wrong)
    expect(came).to_contain_text("is no file of events")
    phone.context.close()


@pytest.mark.parametrize("hemisphere", ["south", nightly("north")])
def test_two_phones_that_did_other_things_come_together(site, playwright, tmp_path, hemisphere):
    """One takes the night along and goes on; the other, whose clock is an hour ahead, says another end, and is signed out while it
    is away. Everything is kept, and the difference is told."""
    first = Phone(playwright, tmp_path / "first", site.address)
    night, pack = taken_along(first, hemisphere)
    second = Phone(playwright, tmp_path / "second", site.address)
    second.ahead = 60
    second.at(BEFORE_SUNSET)
    second.page.goto(f"{site.address}/field/#/{night}")
    expect(second.page.get_by_text("nobody is signed in here")).to_be_visible()
    second.page.get_by_role("link", name="Sign in").click()
    second.page.get_by_role("button", name="Look around with the demo account").click()
    second.page.locator("h2").first.wait_for()  # and is back in the field
    expect(second.page.locator(".clock")).to_contain_text("16:00")  # by the place's zone and the server's clock
    second.page.locator("header button").first.click()
    expect(second.page.get_by_text("is 60 min ahead")).to_be_visible()
    second.page.locator("nav").get_by_role("button", name="Now").click()
    run, spot = pack["runs"][0], spot_of(first.page, pack)
    for phone, minutes in ((first, 0), (second, 30)):
        page = phone.page
        phone.context.set_offline(True)
        page.locator(".foot .all").click()
        page.get_by_role("button", name=f"{run['name']}: set the timer").first.click()
        phone.at(run["begins_at"])
        if not minutes:
            page.get_by_role("button", name="Started now").click()
        else:
            page.get_by_role("button", name="Started earlier").click()
            page.get_by_role("button", name="+10 minutes").click()
            page.get_by_role("button", name="Save", exact=True).click()
        page.get_by_role("button", name="It ended now").wait_for()  # the start is stored: from now on the run's own cues can ring
        phone.at(later(run["begins_at"], minutes=60 + minutes))
        page.get_by_role("button", name="It ended now").click()
        page.get_by_role("button", name="Save", exact=True).click()
        page.locator(".step").wait_for()
        phone.seen()
    site.at(MORNING)
    second.context.clear_cookies(name="sessionid")
    for phone in (second, first):
        phone.at(MORNING)
        phone.context.set_offline(False)
        phone.page.evaluate("() => dispatchEvent(new Event('online'))")
        if phone is second:  # the night stays, and what was pressed waits
            expect(phone.page.locator("header")).to_contain_text("to send")
            phone.page.locator("header button").first.click()
            expect(phone.page.get_by_text("Nobody is signed in")).to_be_visible()
            looked_at(phone.page)
            phone.page.get_by_role("link", name="Sign in").click()
            phone.page.get_by_role("button", name="Look around with the demo account").click()
            phone.page.locator("h2").first.wait_for()
        expect(phone.page.locator("header")).to_contain_text("all sent")
    page = first.page
    state = page.evaluate(ASK, f"/api/nights/field?spot={spot}&night=2026-12-08")
    words = {one["words"] for one in state["contradictions"]}
    assert words == {"Two devices say different beginnings of this run.", "Two devices say different ends of this run."}
    assert sorted(one["words"][:19] for one in state["devices"]) == ["", "Its clock is 60 min"]
    count = len(all_events(page, night))
    wait_until(page, EVENTS, lambda events: len(events) == count)
    page.goto(f"{site.address}/out-there?rig=1&spot={spot}&night=2026-12-08&target=1")
    expect(page.get_by_label("Contradictions")).to_contain_text("Two devices say different ends")
    first.context.close()
    second.context.close()


def test_the_ways_out_of_a_step_and_a_phone_with_no_room_left(site, playwright, tmp_path):
    """What is wrong, what differs, what is noted, what was packed: each fits, is red, and is kept, or it is said."""
    phone = Phone(playwright, tmp_path / "phone", site.address)
    _, pack = taken_along(phone, "south")
    phone.context.set_offline(True)
    page, ways = phone.page, phone.page.locator("nav")
    phone.at(later(pack["runs"][0]["begins_at"], minutes=5))

    def looked(words: str) -> None:
        expect(page.locator("main")).to_contain_text(words)
        looked_at(page)
        assert not violations(page), words

    ways.get_by_role("button", name="Wrong").click()
    looked("What do you see?")
    page.get_by_role("button", name="Fewer and fewer stars").click()
    looked("come and go")
    page.get_by_role("button", name="Slowly fewer").click()
    page.get_by_role("button", name="Wet or dull").click()
    looked("Dew on the glass")
    page.get_by_role("button", name="Record it").click()
    ways.get_by_role("button", name="Wrong").click()
    page.get_by_role("button", name="Timer", exact=True).click()
    looked("What does the timer do?")
    page.get_by_role("button", name="It counts, no shutter opens").click()
    page.get_by_role("button", name="No", exact=True).click()
    looked("The camera waits for its autofocus")
    page.get_by_role("button", name="Something else").click()
    ways.get_by_role("button", name="Change plan").click()
    looked("What is not as planned?")
    page.get_by_role("button", name="Wind, or the axis is off").click()
    page.get_by_role("button", name="strong", exact=True).click()
    page.get_by_role("button", name="12′").click()
    looked("stay sharp")
    (row,) = [one for one in pack["runs"][0]["subs"] if (one["wind"], one["axis_arcmin"]) == ("strong", 12)]
    expect(page.get_by_role("status")).to_contain_text(f"Best now {row['exposure_s']:g} s")
    page.get_by_role("button", name=f"Use {row['exposure_s']:g} s").click()
    ways.get_by_role("button", name="Change plan").click()
    page.get_by_role("button", name="Tired").click()
    looked("what is left brings")
    ways.get_by_role("button", name="Now").click()
    ways.get_by_role("button", name="Change plan").click()
    page.get_by_role("button", name="Late, cloud").click()
    looked("No other nights were worked out")
    page.get_by_role("button", name="Recalculate on the server").click()
    expect(page.get_by_role("alert")).to_contain_text("cannot be reached")
    page.get_by_role("alert").get_by_role("button", name="OK, got it").click()
    ways.get_by_role("button", name="Note").click()
    looked("Cloud")
    page.get_by_role("button", name="thin", exact=True).click()
    page.get_by_role("button", name="5 °C").click()
    expect(page.get_by_role("status")).to_contain_text("temperature: 5")
    ways.get_by_role("button", name="Now").click()
    page.locator(".foot .all").click()
    page.locator("ol .line").first.click()
    page.get_by_role("button", name="The list").click()
    looked(pack["packing"][0]["name"])
    page.locator(".line").nth(1).click()
    expect(page.locator(".line").nth(1)).to_have_attribute("aria-pressed", "true")
    page.get_by_role("button", name="Back").click()
    page.locator(".foot .all").click()
    looked(pack["steps"][1]["sentence"])
    page.locator(".line", has_text="set the timer").first.click()
    page.get_by_role("button", name="Started earlier").click()
    looked("It began at")
    page.get_by_role("button", name="Save", exact=True).click()
    looked("Frames done")
    page.get_by_role("button", name="Cloud came").click()
    looked("frames still fit")
    page.get_by_role("button", name="Cloud gone: started").click()
    looked("Frames done")
    page.get_by_role("button", name="Back to the steps").click()
    page.locator(".foot .call").click()
    looked("Wake me at")
    page.get_by_role("button", name="Set alarm").click()
    looked("The alarm is set for")
    page.get_by_role("button", name="No alarm").click()
    page.get_by_role("button", name="Back").click()
    page.locator(".running button").first.click()
    page.get_by_role("button", name="Ended earlier").click()
    looked("It ended at")
    page.get_by_role("button", name="Save", exact=True).click()
    looked("How many frames?")
    page.get_by_role("button", name="Save", exact=True).click()
    page.locator("header button").first.click()
    looked("ended")
    page.locator("nav").get_by_role("button", name="Now").click()
    page.locator(".foot .all").click()
    page.locator("ol .line").first.click()
    page.get_by_role("button", name="The list").click()
    kinds = [one["event"]["kind"] for one in page.evaluate(EVENTS)]
    assert {"wrong", "otherwise", "seen", "checked"} <= set(kinds)

    # No room: it is said, and what is pressed still counts while the page stands.
    page.evaluate("""() => { IDBObjectStore.prototype.put = () => { throw new DOMException('full', 'QuotaExceededError') } }""")
    page.get_by_role("button", name="Back").click()
    page.get_by_role("button", name="Done", exact=True).click()
    expect(page.get_by_role("alert")).to_contain_text("no room left")
    expect(page.locator("h2")).to_have_text(pack["steps"][1]["sentence"])
    phone.context.close()

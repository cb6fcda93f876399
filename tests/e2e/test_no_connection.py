"""With no connection: what was answered is still there on every page, with its age; a change is refused in words."""

import re

from playwright.sync_api import expect

from tests.e2e.conftest import choose
from tests.e2e.sizes import SIDES

GO = "(path) => { history.pushState(null, '', path); dispatchEvent(new PopStateEvent('popstate', { state: null })) }"


def test_nothing_empties_and_nothing_is_lost(signed_in, served):
    page = signed_in()
    chosen = page.evaluate("location.search")
    sides = [
        side
        for side in SIDES
        if side not in {"pole/photographs", "exposure/test-picture", "exposure/my-camera", "exposure/my-lens"}
    ]
    lengths = {}
    for side in sides:
        page.evaluate(GO, f"/{side}{chosen}")
        page.wait_for_timeout(900)  # "network idle" has been reached long ago for a page that goes there itself
        lengths[side] = len(page.locator("main").inner_text())
    page.wait_for_timeout(1_500)
    page.context.set_offline(True)
    page.evaluate(GO, f"/tonight{chosen}")
    choose(page, "on target", "Chamaeleon")  # what was never asked cannot be answered; what was stays
    note = page.get_by_role("status").filter(has_text="No connection")
    expect(note).to_contain_text(re.compile(r"answered at \d\d:\d\d, (just now|\d+ min ago)"))
    page.go_back()
    empty = []
    for side in sides:
        page.evaluate(GO, f"/{side}{chosen}")
        page.wait_for_timeout(400)
        if len(page.locator("main").inner_text()) < 0.7 * lengths[side] or not note.is_visible():
            empty.append((side, lengths[side], len(page.locator("main").inner_text()), note.is_visible()))
    assert not empty
    page.evaluate(GO, f"/grounds/places{chosen}")
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


def test_answers_outlive_a_reload_and_go_with_whoever_signs_out(signed_in, served):
    page = signed_in()
    page.get_by_role("region", name="Card").wait_for()
    page.wait_for_timeout(2_500)  # written every two seconds
    kept = """() => new Promise((done) => {
      const asked = indexedDB.open('wide-dusk')
      asked.onsuccess = () => {
        const read = asked.result.transaction('answers').objectStore('answers').getAll()
        read.onsuccess = () => { asked.result.close(); done(read.result.join('').length) }
      }
    })"""
    assert page.evaluate(kept) > 10_000
    page.route("**/api/tonight?*", lambda route: route.abort())
    page.reload()
    page.get_by_role("region", name="Card").wait_for()
    page.unroute("**/api/tonight?*")


def test_a_session_that_ran_out_leads_to_the_sign_in_page_and_back(signed_in, served):
    page = signed_in()
    page.context.clear_cookies()
    page.get_by_role("button", name="Night after").click()
    page.get_by_role("button", name="Look around with the demo account").click()
    page.get_by_role("region", name="Exposure").wait_for()
    assert "night=2026-12-09" in page.url

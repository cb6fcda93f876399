"""One night from rig to intervalometer card, as a person does it."""

import re

from playwright.sync_api import expect

from tests.e2e.conftest import choose, sentence, weather_is_known


def test_from_sign_in_to_the_printed_plan_and_past_a_restart(signed_in, served):
    page = signed_in()
    assert "night=2026-12-08" in page.url  # lands on the next planned night
    loads = []
    page.on("framenavigated", lambda frame: loads.append(frame.url) if frame == page.main_frame else None)
    page.evaluate("window.here = true")

    # Another target: the verdicts follow without a reload.
    before = sentence(page, "Window")
    choose(page, "on target", "Chamaeleon")
    expect(page.get_by_role("region", name="Window", exact=True).locator(".sentence")).not_to_have_text(before)
    window = page.get_by_role("region", name="Window", exact=True).locator(".sentence")
    expect(window).to_contain_text("Chamaeleon dark clouds is usable")
    expect(page.locator(".stack .view figcaption")).to_contain_text("turns clockwise")

    # North: the galaxy pair low in the south, the nebula high; the dial has one star and turns the other way.
    choose(page, "at place and spot", "end of the boardwalk")
    expect(window).to_contain_text("never rises at latitude 58.6°")
    assert "nearest latitude" in page.get_by_role("region", name="Window", exact=True).inner_text()
    choose(page, "on target", "California")
    expect(page.locator(".stack .view figcaption")).to_contain_text("turns anticlockwise")
    expect(window).to_contain_text("is usable")

    # The night after, by button and by key; the back key undoes it.
    page.get_by_role("button", name="Night after").click()
    expect(page.get_by_label("Night, date of the evening")).to_have_value("Wed 9 Dec 2026")
    page.keyboard.press("Escape")
    page.locator("h2").first.click()
    page.keyboard.press("]")
    expect(page.get_by_label("Night, date of the evening")).to_have_value("Thu 10 Dec 2026")
    page.go_back()
    expect(page.get_by_label("Night, date of the evening")).to_have_value("Wed 9 Dec 2026")
    assert page.evaluate("window.here") is True, "the page was loaded anew"
    weather_is_known(page)

    # A figure opens its working.
    page.get_by_role("button", name=re.compile("Keep rate: .* Open the working")).click()
    drawer = page.get_by_role("dialog")
    expect(drawer).to_contain_text("e = √(1 + λ₁ / σ²)")
    expect(drawer).to_contain_text("Howell, Handbook of CCD Astronomy")
    expect(drawer).to_contain_text("Common practice, no source")
    page.keyboard.press("Escape")

    # How: another f-number changes the card, and is kept with the plan.
    page.get_by_role("button", name=re.compile("^How")).click()
    page.get_by_label("f-number").fill("5.6")
    with page.expect_response(lambda answer: "f_number=5.6" in answer.url):
        page.get_by_role("button", name="Use these").click()
    expect(page.get_by_role("region", name="Exposure").locator(".sentence")).to_contain_text("f/5.6")
    card = page.get_by_role("region", name="Card").locator(".keycard dd").all_inner_texts()

    page.get_by_role("button", name="Save", exact=True).click()
    page.get_by_label("Name").fill("Nebula over the mire")
    page.get_by_role("dialog").get_by_role("button", name="Save as another").click()
    page.get_by_text("Saved “Nebula over the mire”").wait_for()

    served.stop()
    served.start()

    night = page.url.split("?")[1]
    page.goto(f"{served.address}/my-nights/night?{night}")
    page.get_by_role("button", name="Open the plan Nebula over the mire").click()
    page.get_by_role("region", name="Card").wait_for()
    assert page.get_by_role("region", name="Card").locator(".keycard dd").all_inner_texts() == card
    expect(page.get_by_role("region", name="Exposure").locator(".sentence")).to_contain_text("f/5.6")

    # Print: the button asks the browser, the sheet is one page, and both kinds of interval stand on it.
    page.evaluate("window.print = () => { window.printed = true }")
    page.get_by_role("button", name="Print", exact=True).click()
    page.wait_for_function("window.printed")
    pdf = page.pdf(prefer_css_page_size=True)
    assert len(re.findall(rb"/Type\s*/Page\b", pdf)) == 1
    page.emulate_media(media="print")
    sheet = page.locator("article.sheet")
    expect(sheet).to_be_visible()
    expect(sheet).to_contain_text("if it is the pause")
    expect(sheet).to_contain_text("if from start to start")
    expect(page.locator(".rail")).to_be_hidden()


def test_deleting_a_plan_can_be_undone(signed_in, served):
    page = signed_in()
    page.goto(f"{served.address}/plans")  # as the page was called once
    page.get_by_role("region", name="Upcoming").locator("tbody tr").first.get_by_role("link").click()
    delete = page.get_by_role("button", name="Delete the plan Vela before the dawn")
    delete.click()
    expect(delete).to_have_count(0)
    page.get_by_role("button", name="Undo").click()
    expect(delete).to_be_visible()


def test_the_timer_s_other_kind_of_interval(signed_in):
    page = signed_in()
    shown = page.get_by_role("region", name="Card").locator(".keycard")
    numbers = [float(text.split()[0]) for text in shown.locator("dd").all_inner_texts()]
    shown.get_by_text("Start to start").click()
    expect(shown.locator("dd").nth(2)).to_have_text(re.compile(f"^{numbers[1] + numbers[2]:g}"))


def test_the_clock_at_2033_without_a_network(signed_in, served_in_2033):
    page = signed_in(served_in_2033.address)
    assert "night=2033-02-01" in page.url
    choose(page, "at place and spot", "by the water tank")
    window = page.get_by_role("region", name="Window", exact=True).locator(".sentence")
    expect(window).to_contain_text("Chamaeleon dark clouds is usable")
    expect(page.locator(".stack .view figcaption")).to_contain_text("sky turns clockwise")
    choose(page, "at place and spot", "end of the boardwalk")
    choose(page, "on target", "California")
    expect(page.locator(".stack .view figcaption")).to_contain_text("anticlockwise")
    expect(window).to_contain_text("NGC 1499, the California Nebula is usable")

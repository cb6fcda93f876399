"""What a new user met as a dead end or a contradiction, walked as journeys on a phone and on a laptop."""

import re

from playwright.sync_api import expect

from tests.e2e.conftest import choose, sentence
from tests.e2e.journeys import BOTH, new_account, sized


def account_by_page(page, address: str, name: str) -> None:
    page.goto(address)
    page.get_by_role("button", name="No account yet? Make one").click()
    page.get_by_label("Name").fill(name)
    page.get_by_label("Password").fill("tape-and-tripod")
    page.get_by_role("button", name="Make the account").click()
    page.get_by_role("heading", name="Three questions").wait_for()


@BOTH
def test_from_an_empty_account_to_a_verdict_in_seven_fields(page, served, size):
    sized(page, size)
    account_by_page(page, served.address, f"tova-{size}")
    page.goto(f"{served.address}/tonight?night=2026-12-08")  # near new Moon
    form = page.locator("form.steps")
    form.wait_for()
    assert form.locator(".field").count() <= 7
    form.get_by_role("button", name="Show what suits tonight").click()
    for words in ("Give the focal length in mm", "Give the smallest f-number", "Write it like"):
        expect(form).to_contain_text(words)  # every fault at once
    form.get_by_label("Focal length").fill("85 mm")
    form.get_by_label("Opens to f/").fill("wide")
    form.get_by_label("Coordinates").fill("22 S, 16 X")
    form.get_by_role("button", name="Show what suits tonight").click()
    expect(form.get_by_role("alert").filter(has_text="like 2.8")).to_be_visible()
    expect(form.get_by_label("Opens to f/")).to_have_value("wide")
    form.get_by_label("Opens to f/").fill("f/1,8")
    expect(form.get_by_label("Coordinates")).to_have_value("22 S, 16 X")
    form.get_by_role("img", name="World outline").click(position={"x": 175, "y": 100})
    expect(form.get_by_label("Coordinates")).to_have_value(re.compile(r"^\d+\.\d S, \d+\.\d E$"))
    form.get_by_role("button", name="Show what suits tonight").click()
    page.get_by_role("region", name="What to take").get_by_role("button").first.click()
    card = page.get_by_role("region", name="Card")
    card.wait_for()
    assert re.search(r"\d+ frames? of", sentence(page, "Card"))
    # Typical values say so, and lead on to the field that would change a verdict most.
    assert "estimate by the size of its pixels" in page.get_by_role("region", name="Exposure", exact=True).inner_text()
    better = page.get_by_role("region", name="Better numbers")
    better.get_by_role("link").first.wait_for()
    better.get_by_role("link", name="corners").click()
    drawer = page.get_by_role("dialog", name="Change “85 mm f/1.8 lens”")
    expect(drawer).to_contain_text("typical, until you give yours")
    drawer.get_by_label("Good corners from f/", exact=True).fill("2.2")
    drawer.get_by_role("button", name="Save", exact=True).click()
    expect(drawer).to_be_hidden()
    page.get_by_role("link", name="Tonight").first.click()
    assert "f/2.2" in sentence(page, "Exposure")


@BOTH
def test_a_camera_on_a_tripod_is_a_rig(page, served, size):
    sized(page, size)
    new_account(page, served.address, f"iiro-{size}")
    page.goto(served.address)
    form = page.locator("form.steps")
    form.get_by_label("Focal length").fill("24")
    form.get_by_label("Opens to f/").fill("1.4")
    form.get_by_label("Coordinates").fill("24.58 S, 16.42 E")
    choose(page, "Tracker", "none, a tripod only")
    form.get_by_role("button", name="Show what suits tonight").click()
    taking = page.get_by_role("region", name="What to take")
    expect(taking).to_contain_text("these it spoils least")  # the clock stands at full Moon
    taking.get_by_role("button").first.click()
    page.get_by_role("region", name="Card").wait_for()
    assert "free of it" in page.get_by_role("region", name="Window", exact=True).inner_text()
    assert sentence(page, "Pole") == "The camera stands still: there is no axis to align."
    assert "Ball head" in sentence(page, "Payload")
    where = page.url.split("?")[1]
    page.goto(f"{served.address}/pole?{where}")
    expect(page.get_by_role("region", name="No axis")).to_contain_text("there is no axis to align")
    page.goto(f"{served.address}/exposure?{where}")
    rows = page.locator(".schools tbody tr")
    expect(rows).to_have_count(3)
    for row, name in zip(rows.all(), ("Strict, by pixels", "The detailed formula", "500 over focal length"), strict=True):
        assert name in row.inner_text() and "× long" in row.inner_text()
    rows.nth(2).get_by_role("button").first.click()
    exposure = page.get_by_role("region", name="Exposure", exact=True)
    expect(exposure.locator(".advice")).to_contain_text("times as long as wide")
    assert "axis" not in exposure.locator(".advice").inner_text()

"""Every sheet on a phone and a tablet: nothing wider than the screen, under another label or too small for a thumb; and what the
keys and the focus do. The pages themselves are walked in test_every_page.py."""

import pytest
from playwright.sync_api import expect

from tests.e2e.journeys import navigate, wait_at_rest
from tests.e2e.sizes import SIZES, wrong_with
from tests.nightly import nightly


def resized(page, size: str) -> None:
    page.set_viewport_size(dict(zip(("width", "height"), SIZES[size], strict=True)))


def begun(signed_in, page, served, size: str) -> str:
    """The demo's night at a size of the screen; what its address chooses."""
    signed_in()
    resized(page, size)
    return page.url.split("?", 1)[1]


@pytest.mark.parametrize("size", ["phone", nightly("tablet")])
def test_every_sheet_fits(signed_in, page, served, size):
    chosen = begun(signed_in, page, served, size)
    opened = {
        "tonight": ["How", "Save", "Working of Pole", "As a table"],
        "bench": ["Add a part", "Working of Payload"],
        "bench/parts": ["New part", "Files in and out"],
        "grounds/places": ["New place", "Change Harjula Mire", "Files in and out"],
        "nights": ["Lanes as a table"],
        "nights/targets": ["Files in and out"],
        "nights/trips": ["New trip"],
        "exposure": ["Working of Exposure", "As a table"],
    }
    wrong = {}
    for side, buttons in opened.items():
        navigate(page, f"/{side}?{chosen}")
        for name in buttons:
            button = page.get_by_role("button", name=name, exact=name != "How").first
            button.wait_for()
            wait_at_rest(page)
            button.click()
            page.locator("dialog[open] .body > *").first.wait_for()
            wait_at_rest(page)
            if found := wrong_with(page, size):
                wrong[f"{side}: {name}"] = found
            page.keyboard.press("Escape")
            expect(page.locator("dialog[open]")).to_have_count(0)
            expect(button).to_be_focused()
    assert wrong == {}


def test_on_a_phone_the_bar_opens_and_every_workspace_is_two_presses_away(signed_in, page, served):
    begun(signed_in, page, served, "phone")
    fold = page.get_by_role("button", name="What is chosen")
    expect(fold).to_contain_text("Kameldorn Flats")
    expect(page.get_by_role("button", name="Night after")).to_be_hidden()
    fold.click()
    night = page.get_by_label("Night, date of the evening").input_value()
    page.get_by_role("button", name="Night after").click()
    expect(page.get_by_label("Night, date of the evening")).not_to_have_value(night)
    rail = page.get_by_role("navigation", name="Workspaces")
    for group, spaces in {
        "Prepare": ("Bench", "Grounds", "Nights"),
        "Align, expose": ("Pole", "Exposure"),
        "Afterwards": ("Frames", "My nights"),
        "More": ("About",),
    }.items():
        for space in spaces:
            rail.get_by_role("button", name=group).click()
            rail.get_by_role("link", name=space).click()
            expect(page).to_have_title(f"{space} · Wide Dusk")
            expect(rail.get_by_role("link", name=space)).to_be_hidden()


def test_one_journey_by_keys_alone(signed_in, page, served):
    """From the first page to another sub: sheets keep Tab inside, Escape goes back to where one was."""
    begun(signed_in, page, served, "laptop")
    rail = page.get_by_role("navigation", name="Workspaces")
    expect(rail.get_by_role("button", name="Sign out")).to_be_in_viewport(ratio=1)
    working = page.get_by_role("button", name="Working of Exposure")
    working.focus()
    page.keyboard.press("Enter")
    expect(page.locator("dialog[open]")).to_have_count(1)
    for _ in range(30):
        page.keyboard.press("Tab")
        assert page.evaluate("() => document.activeElement === document.body || !!document.activeElement.closest('dialog[open]')")
    page.keyboard.press("Escape")
    expect(working).to_be_focused()
    page.get_by_role("link", name="Exposure").focus()
    page.keyboard.press("Enter")
    length = page.get_by_role("slider", name="Length of a sub")
    length.focus()
    before = length.get_attribute("aria-valuetext")
    page.keyboard.press("ArrowLeft")
    expect(length).not_to_have_attribute("aria-valuetext", before)
    page.wait_for_url("**sub_school=fixed**")
    page.keyboard.press("?")
    keys = page.get_by_role("dialog", name="Keys")
    expect(keys).to_be_visible()
    page.keyboard.press("Escape")
    expect(keys).to_be_hidden()
    expect(length).to_be_focused()

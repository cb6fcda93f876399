"""Steps that several journeys share."""

import pytest
from axe_playwright_python.sync_playwright import Axe
from playwright.sync_api import Page

from tests.e2e.sizes import SIZES

# Posts JSON as the application does; what came back.
POST = """async ([path, body]) => {
  const token = document.cookie.split('; ').find((one) => one.startsWith('csrftoken='))?.slice(10) ?? ''
  const headers = { 'Content-Type': 'application/json', 'X-CSRFToken': token }
  return (await fetch(`/api/${path}`, { method: 'POST', headers, body: JSON.stringify(body) })).json()
}"""

BOTH = pytest.mark.parametrize("size", ["phone", "laptop"])


def sized(page: Page, size: str) -> Page:
    width, height = SIZES[size]
    page.set_viewport_size({"width": width, "height": height})
    return page


def new_account(page: Page, address: str, name: str) -> None:
    page.goto(address)
    page.get_by_role("button", name="No account yet? Make one").click()
    page.get_by_label("Name").fill(name)
    page.get_by_label("Password").fill("tape-and-tripod")
    page.get_by_role("button", name="Make the account").click()
    page.get_by_role("heading", name="Three questions").wait_for()


def three_questions(page: Page, address: str, name: str, coordinates: str, night: str = "2026-12-08") -> None:
    """A new account with an 85 mm lens on a tracker, at these coordinates, on the first target that suits."""
    new_account(page, address, name)
    page.goto(f"{address}/tonight?night={night}")
    form = page.locator("form.steps")
    form.get_by_label("Focal length").fill("85")
    form.get_by_label("Opens to f/").fill("1.8")
    form.get_by_label("Coordinates").fill(coordinates)
    form.get_by_role("button", name="Show what suits tonight").click()
    page.get_by_role("region", name="What to take").get_by_role("button").first.click()
    page.get_by_role("region", name="Card").wait_for()


def chosen(page: Page) -> str:
    """What the address chooses."""
    return page.url.split("?", 1)[1]


def unfold(page: Page) -> None:
    """On a phone the context folds to one line."""
    fold = page.get_by_role("button", name="What is chosen")
    if fold.is_visible() and fold.get_attribute("aria-expanded") == "false":
        fold.click()


def violations(page: Page) -> list[str]:
    """What axe finds serious or worse on a page as it stands."""
    page.wait_for_timeout(300)  # until what fades in has come in
    return [
        f"{one['id']}: {one['nodes'][0]['html'][:120]} {one['nodes'][0].get('failureSummary', '')[:200]}"
        for one in Axe().run(page, options={"resultTypes": ["violations"]}).response["violations"]
        if one["impact"] in {"serious", "critical"}
    ]

"""Steps that several journeys share."""

import time
from collections.abc import Callable
from typing import Any

import pytest
from axe_playwright_python.sync_playwright import Axe
from playwright.sync_api import Page

from tests.e2e.sizes import SIZES
from tests.nightly import nightly

# Posts JSON as the application does; what came back.
POST = """async ([path, body]) => {
  const token = document.cookie.split('; ').find((one) => one.startsWith('csrftoken='))?.slice(10) ?? ''
  const headers = { 'Content-Type': 'application/json', 'X-CSRFToken': token }
  return (await fetch(`/api/${path}`, { method: 'POST', headers, body: JSON.stringify(body) })).json()
}"""

BOTH = pytest.mark.parametrize("size", ["phone", nightly("laptop")])


def sized(page: Page, size: str) -> Page:
    width, height = SIZES[size]
    page.set_viewport_size({"width": width, "height": height})
    return page


def ask_api(page: Page, address: str, path: str, body: object = None, method: str = "") -> dict[str, Any]:
    """What the API answers to the person who is signed in on a page, asked beside it."""
    if body is None:
        return page.request.get(f"{address}/api/{path}").json()
    cookies = {cookie["name"]: cookie["value"] for cookie in page.context.cookies()}
    if "csrftoken" not in cookies:
        page.request.get(f"{address}/api/session")
        cookies = {cookie["name"]: cookie["value"] for cookie in page.context.cookies()}
    headers = {"X-CSRFToken": cookies["csrftoken"]}
    answer = page.request.fetch(f"{address}/api/{path}", method=method or "POST", data=body, headers=headers)
    assert answer.ok, (path, answer.text())
    return answer.json() if answer.body() else {}


def new_account(page: Page, address: str, name: str) -> None:
    """Signed in with a new account that has nothing yet. test_new_user.py makes its own by the page."""
    ask_api(page, address, "session/account", {"username": name, "password": "tape-and-tripod"})


def account_with_rig(page: Page, address: str, name: str, coordinates: str, night: str = "2026-12-08") -> None:
    """A new account with an 85 mm lens on a tracker, at these coordinates, on Tonight with the first target that suits."""
    new_account(page, address, name)
    hand = {"camera": "full frame", "focal_mm": 85, "f_number": 1.8, "tracker": "light tracker"}
    begun = ask_api(page, address, "begin", {"hand": hand, "ground": {"coordinates": coordinates, "sky": "dark country"}})
    where = f"rig={begun['rig']}&spot={begun['spot']}&night={night}"
    suits = ask_api(page, address, f"nights/suits?{where}&smallest_percent=8&limit=1")["items"]
    target = ask_api(page, address, "targets/catalogue", {"key": suits[0]["entry"]["key"]})
    page.goto(f"{address}/tonight?{where}&target={target['id']}")
    page.get_by_role("region", name="Card").wait_for()


def navigate(page: Page, path: str) -> None:
    """To another page as a link leads there: the application goes by itself, and is not loaded anew."""
    page.evaluate(
        "(path) => { history.pushState(null, '', path); dispatchEvent(new PopStateEvent('popstate', { state: null })) }", path
    )


def chosen(page: Page) -> str:
    """What the address chooses."""
    return page.url.split("?", 1)[1]


def unfold(page: Page) -> None:
    """On a phone the context folds to one line."""
    fold = page.get_by_role("button", name="What is chosen")
    if fold.is_visible() and fold.get_attribute("aria-expanded") == "false":
        fold.click()


# What fades in has come in, nothing turns while it waits for an answer. What blinks for ever is not waited for.
AT_REST = """() => !document.querySelector('.ant-spin-spinning') && document.getAnimations().every((one) =>
  one.playState !== 'running' || one.effect?.getComputedTiming().iterations === Infinity)"""
WCAG = ["wcag2a", "wcag2aa", "wcag21a", "wcag21aa"]


def wait_at_rest(page: Page) -> None:
    """Wait until a page has drawn what it has."""
    page.wait_for_function(AT_REST)
    page.evaluate("() => new Promise((done) => requestAnimationFrame(() => requestAnimationFrame(done)))")


def wait_until(page: Page, asked: str, holds: Callable[[Any], bool] = bool, within_s: float = 60.0) -> None:
    """Wait until what a page answers holds. For answers that take their time: to a promise, Playwright's own wait_for_function does
    not listen."""
    end = time.monotonic() + within_s
    while not holds(answer := page.evaluate(asked)):
        assert time.monotonic() < end, answer
        page.wait_for_timeout(50)


def violations(page: Page, contrast: bool = True) -> list[str]:
    """What axe finds serious or worse against WCAG, levels A and AA, on a page as it stands. contrast: of colours too, which takes
    most of its time; the colours of all themes are held against each other in theme/tokens.test.ts."""
    wait_at_rest(page)
    options = {
        "resultTypes": ["violations"],
        "runOnly": {"type": "tag", "values": WCAG},
        "rules": {"color-contrast": {"enabled": contrast}},
    }
    return [
        f"{rule['id']}: {rule['nodes'][0]['html'][:120]} {rule['nodes'][0].get('failureSummary', '')[:200]}"
        for rule in Axe().run(page, options=options).response["violations"]
        if rule["impact"] in {"serious", "critical"}
    ]

"""Take the pictures of docs/screenshots from the running demo.

./wide-dusk demo && .venv/bin/python -m docs.take_screenshots
"""

from pathlib import Path

from playwright.sync_api import Page, sync_playwright

from widedusk.command.basics import remembered

BASE = f"http://127.0.0.1:{remembered()['web_port']}"
HERE = Path(__file__).parent / "screenshots"
FLAGS = ["--no-sandbox", "--disable-gpu", "--disable-background-networking"]


def shoot(page: Page, name: str) -> None:
    page.wait_for_timeout(700)
    page.screenshot(path=HERE / f"{name}.png")


def night(page: Page, query: str = "", theme: str = "dusk") -> None:
    page.goto(BASE)
    page.evaluate(f"localStorage.setItem('wide-dusk-theme', '{theme}')")
    page.goto(f"{BASE}/tonight{query}")
    page.locator(".verdicts").wait_for()
    page.mouse.move(640, 600)


def bench(page: Page) -> None:
    night(page)
    page.get_by_role("link", name="Bench").click()
    page.get_by_role("region", name="Balance").wait_for()
    shoot(page, "bench")
    for tab in ("Power", "Compare", "Packing"):
        page.get_by_role("link", name=tab, exact=True).click()
        page.wait_for_timeout(600)
        if tab == "Packing":
            page.get_by_role("checkbox", name="Sparrow, wide and light", exact=True).check()
        shoot(page, f"bench-{tab.lower()}")
    page.get_by_role("link", name="Cupboard").click()
    page.get_by_role("button", name="180 mm telephoto", exact=True).click()
    shoot(page, "part")


def ids(page: Page) -> dict[str, int]:
    """Numbers of the demo's records by a word of their names."""
    found = {}
    for noun in ("rigs", "targets"):
        for item in page.request.get(f"{BASE}/api/{noun}").json()["items"]:
            found[item["name"]] = item["id"]
    for place in page.request.get(f"{BASE}/api/places").json()["items"]:
        for spot in place["spots"]:
            found[spot["name"]] = spot["id"]
    return {word: next(number for name, number in found.items() if word in name)
            for word in ("Sparrow", "Heron", "tank", "camel-thorn", "boardwalk", "Chamaeleon", "Vela", "California")}  # fmt: skip


def main() -> None:
    HERE.mkdir(exist_ok=True)
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=FLAGS)
        page = browser.new_page(viewport={"width": 1280, "height": 800})
        page.goto(BASE)
        page.get_by_role("button", name="Look around with the demo account").wait_for()
        shoot(page, "sign-in")
        page.get_by_role("button", name="Look around with the demo account").click()
        page.locator(".verdicts").wait_for()
        number = ids(page)
        start = page.request.get(f"{BASE}/api/tonight/start").json()
        shoot(page, "tonight-south")
        page.get_by_role("button", name="Working of Exposure").click()
        shoot(page, "working")
        night(page)
        page.get_by_role("button", name="How").click()
        shoot(page, "how")
        bench(page)
        month = start["night"][:8]
        night(page, f"?rig={number['Sparrow']}&spot={number['boardwalk']}&target={number['California']}&night={month}19")
        shoot(page, "tonight-north")
        night(
            page,
            f"?rig={number['Sparrow']}&spot={number['boardwalk']}&target={number['California']}&night={start['night'][:4]}-06-20",
        )
        shoot(page, "no-window")
        page.goto(f"{BASE}/plans")
        page.locator(".plans").wait_for()
        shoot(page, "plans")
        for theme in ("day", "field"):
            night(page, theme=theme)
            shoot(page, theme)
        night(page)
        page.set_viewport_size({"width": 794, "height": 1123})
        page.emulate_media(media="print")
        shoot(page, "print")
        browser.close()


if __name__ == "__main__":
    main()

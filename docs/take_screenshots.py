"""Take the pictures of docs/screenshots from the running demo.

./wide-dusk demo && .venv/bin/python -m docs.take_screenshots
"""

from pathlib import Path

from playwright.sync_api import Page, sync_playwright

from widedusk.command.basics import remembered

BASE = f"http://127.0.0.1:{remembered()['web_port']}"
HERE = Path(__file__).parent / "screenshots"
FLAGS = ["--no-sandbox", "--disable-gpu", "--disable-background-networking", "--font-render-hinting=none"]


def shoot(page: Page, name: str) -> None:
    page.wait_for_timeout(700)
    page.screenshot(path=HERE / f"{name}.png")


def night(page: Page, query: str = "", theme: str = "dusk") -> None:
    page.goto(BASE)
    page.evaluate(f"localStorage.setItem('wide-dusk-theme', '{theme}')")
    page.goto(f"{BASE}/tonight{query}")
    page.locator(".verdicts").wait_for()
    page.mouse.move(640, 600)


def frames(page: Page) -> None:
    """The demo's frames of last night."""
    night(page)
    page.goto(page.url.replace("/tonight", "/frames"))
    page.get_by_role("button", name="Go to the night of").click()
    page.get_by_role("region", name="Folders of frames").wait_for()
    page.get_by_text("24 of 24 measured").wait_for(timeout=120_000)
    page.get_by_role("button", name="24 × 120 s").wait_for()
    page.get_by_role("region", name="Causes").wait_for()
    page.keyboard.press("ArrowRight")
    shoot(page, "frames")


def bench(page: Page) -> None:
    night(page)
    page.get_by_role("link", name="Bench").click()
    page.get_by_role("region", name="Balance").wait_for()
    shoot(page, "bench")


def grounds_and_nights(page: Page) -> None:
    night(page)
    for path, name, ready in (("Grounds", "grounds", ".profile"), ("Nights", "nights", ".fortnight li")):
        page.get_by_role("link", name=path, exact=True).click()
        page.locator(ready).first.wait_for()
        shoot(page, name)
    page.get_by_role("link", name="Whole night", exact=True).click()
    page.locator(".block").first.wait_for()
    page.get_by_label("Add another rig").select_option(label="Sparrow, wide and light")
    page.get_by_role("button", name="Close", exact=True).click()
    page.wait_for_timeout(9_000)
    page.locator(".block").nth(1).click()
    shoot(page, "whole-night")


def my_nights(page: Page) -> None:
    """A night that was planned, run by phone and counted, with who says what."""
    page.goto(f"{BASE}/my-nights")
    page.get_by_role("region", name="Past").locator("tbody tr").nth(2).get_by_role("link").click()
    page.get_by_role("button", name="Sources").first.click()
    shoot(page, "my-nights")


def framing(page: Page) -> None:
    """Three things in one frame, and the hop to it."""
    night(page)
    page.get_by_role("link", name="Framing", exact=True).click()
    page.locator(".wanted li").first.wait_for()
    page.wait_for_timeout(2_000)
    page.get_by_role("button", name="Compose it").click()
    page.locator(".tabs").get_by_role("link", name="Way there", exact=True).click()
    page.get_by_role("button", name="Hop over stars").click()
    page.wait_for_timeout(2_500)
    shoot(page, "framing")


def pole(page: Page) -> None:
    """Two pairs off the demo's card, the screws turned in between."""
    night(page)
    page.get_by_role("link", name="Pole", exact=True).click()
    page.get_by_role("link", name="Photographs", exact=True).click()
    for pair in (1, 2):
        if page.get_by_role("button", name="Clear", exact=True).count():
            page.get_by_role("button", name="Clear", exact=True).click()
        page.get_by_role("button", name="From this machine").click()
        for word in ("first", "second"):
            page.get_by_label(f"pair-{pair}-{word}.jpg").check()
        page.get_by_role("button", name="Take 2").click()
        page.get_by_role("button", name="Measure the axis").click()
        page.wait_for_timeout(8_000)
    shoot(page, "pole-photographs")
    for path, name, ready in (("How good", "pole", ".reach li"), ("Polar scope", "pole-scope", ".view")):
        page.get_by_role("link", name=path, exact=True).click()
        page.locator(ready).first.wait_for()
        shoot(page, name)


def exposure(page: Page) -> None:
    """The sub window, the light, and the demo's test picture against the plan."""
    night(page)
    page.get_by_role("link", name="Exposure", exact=True).click()
    page.get_by_role("slider", name="Length of a sub").wait_for()
    shoot(page, "exposure")
    page.get_by_role("link", name="ISO, aperture, filter", exact=True).click()
    page.locator(".plot svg circle").first.wait_for()
    shoot(page, "exposure-light")
    page.get_by_role("link", name="Test picture", exact=True).click()
    page.get_by_role("button", name="From this machine").click()
    page.get_by_label("test-picture.jpg").check()
    page.get_by_role("button", name="Take test-picture.jpg").click()
    page.get_by_role("button", name="Measure it").click()
    page.wait_for_timeout(8_000)
    shoot(page, "exposure-test")


def out_there(page: Page) -> None:
    """The desk's side, and on a phone the step at which a target is found; what is pressed there is sent nowhere."""
    night(page)
    page.get_by_role("link", name="Field", exact=True).click()
    page.get_by_role("link", name="Open the field here").wait_for()
    shoot(page, "out-there")
    phone = page.context.browser.new_page(viewport={"width": 390, "height": 844}, storage_state=page.context.storage_state())
    way = page.get_by_role("link", name="Open the field here").get_attribute("href") or ""
    phone.goto(BASE + way)
    phone.locator("h2").first.wait_for()
    pack = phone.evaluate("(night) => fetch(`/api/nights/${night}/pack`).then((answer) => answer.json())", way.split("/")[-1])
    found = next(number for number, step in enumerate(pack["steps"]) if step["view"])
    phone.wait_for_timeout(2_000)
    phone.context.set_offline(True)
    phone.clock.set_fixed_time(pack["steps"][found]["due"])
    phone.evaluate("() => document.dispatchEvent(new Event('visibilitychange'))")
    phone.wait_for_timeout(1_000)
    while phone.get_by_role("alertdialog").count():
        phone.get_by_role("alertdialog").get_by_role("button").click()
        phone.wait_for_timeout(500)
    phone.locator(".foot .all").click()
    phone.locator("ol .line").nth(found).click()
    shoot(phone, "phone-field")
    phone.close()


def main() -> None:
    HERE.mkdir(exist_ok=True)
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path="/usr/bin/chromium-headless-shell", args=FLAGS)
        page = browser.new_page(viewport={"width": 1280, "height": 800})
        page.goto(BASE)
        page.get_by_role("button", name="Look around with the demo account").click()
        page.locator(".verdicts").wait_for()
        page.get_by_text("with invented weather").wait_for()  # the forecast has arrived
        shoot(page, "tonight")
        page.get_by_role("button", name="Working of Exposure").click()
        shoot(page, "working")
        bench(page)
        grounds_and_nights(page)
        framing(page)
        pole(page)
        exposure(page)
        out_there(page)
        frames(page)
        my_nights(page)
        night(page)
        page.set_viewport_size({"width": 390, "height": 844})
        shoot(page, "phone-tonight")
        night(page)
        page.set_viewport_size({"width": 794, "height": 1123})
        page.emulate_media(media="print")
        shoot(page, "print")
        browser.close()


if __name__ == "__main__":
    main()

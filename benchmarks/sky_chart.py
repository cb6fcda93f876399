"""How long one redraw of the chart takes in a browser without a graphics card, with 12,000 stars and the whole sky around them.

./wide-dusk demo && python -m benchmarks.sky_chart
"""

from playwright.sync_api import sync_playwright

from widedusk.command.basics import remembered

BASE = f"http://127.0.0.1:{remembered()['web_port']}"
A_FRAME_MS = 1000.0 / 60.0
ZOOMS = """async () => {
  const frame = document.querySelector('.frame')
  frame.focus()
  const spent = []
  for (let step = 0; step < 60; step++) {
    const begun = performance.now()
    frame.dispatchEvent(new KeyboardEvent('keydown', { key: step % 2 ? '+' : '-', bubbles: true }))
    await Promise.resolve().then(() => new Promise((done) => queueMicrotask(done)))
    spent.push(performance.now() - begun)
    await new Promise((done) => requestAnimationFrame(() => setTimeout(done)))
  }
  return spent.sort((one, two) => one - two)
}"""


def main() -> None:
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(
            executable_path="/usr/bin/chromium-headless-shell", args=["--no-sandbox", "--disable-gpu"]
        )
        page = browser.new_page(viewport={"width": 1280, "height": 800})
        page.goto(BASE)
        page.get_by_role("button", name="Look around with the demo account").click()
        page.get_by_role("region", name="Exposure").wait_for()
        page.goto(f"{BASE}/framing?{page.url.split('?', 1)[1]}")
        page.locator(".frame").wait_for()
        page.wait_for_timeout(4_000)
        for _ in range(4):
            page.get_by_role("button", name="Show more of the sky").click()
            page.wait_for_timeout(1_500)
        spent = page.evaluate(ZOOMS)
        print(
            f"one redraw: median {spent[30]:.1f} ms, nine in ten {spent[54]:.1f} ms; a frame of the screen is {A_FRAME_MS:.1f} ms"
        )
        browser.close()


if __name__ == "__main__":
    main()

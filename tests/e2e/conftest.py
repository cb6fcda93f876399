"""A real server on a database of its own, and a real browser that may talk to it and nobody else."""

import subprocess
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from urllib.parse import urlsplit

import pytest
from playwright.sync_api import Browser, BrowserContext, Page, Playwright, Request, expect, sync_playwright

from tests import cluster
from tests.demo import LANE, NOW, PASSWORD, own
from tests.e2e import remembering
from widedusk.command import postgres, server, standins, worker
from widedusk.command.basics import LOG, free_port

DATABASE = own("widedusk_e2e")

# Chromium without the windows, tabs and menus that its other build draws for nobody: half the processor time of a page. Its letters
# are as wide as on a person's screen, not rounded to whole pixels.
BROWSER = "/usr/bin/chromium-headless-shell"
FLAGS = [
    "--no-sandbox",
    "--disable-gpu",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
    "--font-render-hinting=none",
]
# Scripts are run once or twice, so that making them fast costs more than it brings; what was read once is kept read.
READ_ONCE = ["--js-flags=--no-maglev --no-opt", "--blink-settings=v8CacheOptions=4"]

# A busy machine is slow, not wrong.
PAGE_MS = 30_000
MEASURED_MS = 180_000
expect.set_options(timeout=PAGE_MS)


@dataclass
class Served:
    """A running server that can be stopped and started again on its port."""

    env: dict[str, str]
    port: int
    process: subprocess.Popen[bytes] | None = None

    @property
    def address(self) -> str:
        return f"http://127.0.0.1:{self.port}"

    def start(self) -> None:
        self.process = server.launch(self.env, self.port, LOG / f"e2e{LANE}.log")

    def stop(self) -> None:
        if self.process:
            self.process.terminate()
            self.process.wait(20)


@dataclass
class WeatherService:
    """The stand-in forecast service, which can be killed and started again on its port."""

    port: int
    process: subprocess.Popen[bytes] | None = None

    def start(self) -> None:
        self.process = standins.launch_forecast(self.port)

    def stop(self) -> None:
        if self.process:
            self.process.kill()
            self.process.wait(20)


@pytest.fixture(scope="session")
def forecast() -> Iterator[WeatherService]:
    one = WeatherService(free_port(None))
    one.start()
    yield one
    one.stop()


@dataclass
class PictureWorker:
    """The worker that measures pictures; nobody but the test starts it anew."""

    env: dict[str, str]
    elsewhere: bool = False  # on a machine that is not the server's
    remembers: bool = False  # what an earlier run of the tests measured
    process: subprocess.Popen[bytes] | None = None

    def start(self) -> None:
        words = worker.FOR_ELSEWHERE if self.elsewhere else remembering.WORDS if self.remembers else worker.words()
        self.process = worker.launch(self.env, LOG / f"e2e{LANE}-worker.log", words)

    def kill(self) -> None:
        if self.process:
            self.process.kill()
            self.process.wait(20)


def _env(now: str, database: str = DATABASE) -> dict[str, str]:
    given = {"WIDE_DUSK_DB_NAME": database, "WIDE_DUSK_DEMO": "1", "WIDE_DUSK_DEMO_PASSWORD": PASSWORD, "WIDE_DUSK_NOW": now}
    return {**postgres.settings_env(), **given}


@pytest.fixture(scope="session")
def served(forecast: WeatherService, demo_copy: Callable[[str], None]) -> Iterator[Served]:
    demo_copy(DATABASE)
    cluster.collect_pages()
    more = {"WIDE_DUSK_FORECAST_URL": standins.address(forecast.port), "WIDE_DUSK_SEARCH_S": "2.5"}
    one = Served({**_env(NOW), **more}, free_port(None))
    one.start()
    yield one
    one.stop()


@pytest.fixture(scope="session")
def workers(served: Served) -> Iterator[PictureWorker]:
    one = PictureWorker(served.env)
    one.start()
    yield one
    one.kill()


@pytest.fixture
def measuring(workers: PictureWorker) -> PictureWorker:
    """The worker, alive, whatever the test before did to it."""
    if workers.process is None or workers.process.poll() is not None:
        workers.start()
    return workers


A_MINUTE_AGO = """
    update procrastinate_workers set last_heartbeat = last_heartbeat - interval '1 minute';
    update pictures_measurement set beat_at = beat_at - interval '1 minute';
    update frames_machine set heard_at = heard_at - interval '1 minute';
"""


def age_heartbeats(site: Served) -> None:
    """Since anything was heard of workers and machines, without waiting for it. Who lives is heard again within seconds."""
    database = site.env["WIDE_DUSK_DB_NAME"]
    postgres.query(A_MINUTE_AGO, database)


@contextmanager
def a_site(demo_copy: Callable[[str], None], name: str, now: str = NOW, **more: str) -> Iterator[Served]:
    """A server on a database of its own with the demo in it."""
    demo_copy(own(name))
    cluster.collect_pages()
    one = Served({**_env(now, own(name)), **more}, free_port(None))
    one.start()
    try:
        yield one
    finally:
        one.stop()


@pytest.fixture(scope="session")
def served_in_2033(demo_copy: Callable[[str], None]) -> Iterator[Served]:
    """The demo with the clock years beyond every bundled table."""
    with a_site(demo_copy, "widedusk_2033", "2033-02-01T12:00:00+00:00") as one:
        yield one


@pytest.fixture(scope="session")
def playwright() -> Iterator[Playwright]:
    with sync_playwright() as one:
        yield one


@pytest.fixture(scope="session")
def browser(playwright: Playwright) -> Iterator[Browser]:
    chromium = playwright.chromium.launch(executable_path=BROWSER, args=FLAGS + READ_ONCE)
    yield chromium
    chromium.close()


def new_context(browser: Browser) -> BrowserContext:
    """A laptop's browser of somebody who has never been here."""
    return browser.new_context(
        viewport={"width": 1280, "height": 800}, locale="en-GB", timezone_id="Africa/Windhoek", reduced_motion="reduce"
    )


@pytest.fixture(scope="session")
def shared_context(browser: Browser) -> Iterator[BrowserContext]:
    """One for all tests, since a new one loads every script anew: a second of a processor. After each test it is emptied."""
    context = new_context(browser)
    yield context
    context.close()


def empty(context: BrowserContext, origins: set[str]) -> None:
    """As if nobody had ever been here: no pages, cookies, stores or service workers. Scripts stay in the browser's own cache."""
    last, *others = [context.new_page(), *context.pages]
    for one in others:
        if one is not last:
            one.close()
    context.set_offline(False)
    context.unroute_all(behavior="ignoreErrors")
    context.clear_permissions()
    context.clear_cookies()
    devtools = context.new_cdp_session(last)
    for origin in origins:
        devtools.send("Storage.clearDataForOrigin", {"origin": origin, "storageTypes": "all"})
    last.close()


def watched(context: BrowserContext) -> Iterator[Page]:
    """A page of a context. It fails the test when it throws, breaks the content policy, or asks anybody but our servers."""
    one = context.new_page()
    troubles: list[str] = []
    one.on("pageerror", lambda error: troubles.append(str(error)))
    one.on("console", lambda said: troubles.append(said.text) if "Content Security Policy" in said.text else None)
    one.on(
        "request",
        lambda asked: troubles.append(asked.url) if not asked.url.startswith(("http://127.0.0.1:", "data:", "blob:")) else None,
    )
    one.set_default_timeout(PAGE_MS)
    yield one
    assert not troubles


@pytest.fixture
def page(shared_context: BrowserContext) -> Iterator[Page]:
    """A fresh page of somebody who has never been here."""
    origins: set[str] = set()

    def noted(asked: Request) -> None:
        origins.add("{0.scheme}://{0.netloc}".format(urlsplit(asked.url)))

    shared_context.on("request", noted)
    try:
        yield from watched(shared_context)
    finally:
        shared_context.remove_listener("request", noted)
        empty(shared_context, {one for one in origins if one.startswith("http")})


@pytest.fixture(scope="session")
def cookies() -> list[dict[str, object]]:
    """Of the demo account's session, once somebody signed in."""
    return []


def sign_in_as_demo(page: Page, address: str) -> bool:
    """Open the first page and take the demo account where somebody has to sign in. True where that was so."""
    page.goto(address)
    offer = page.get_by_role("button", name="Look around with the demo account")
    page.get_by_role("region", name="Exposure").or_(offer).first.wait_for()
    offered = offer.count() > 0
    if offered:
        offer.click()
        page.get_by_role("region", name="Exposure").wait_for()
    return offered


@pytest.fixture
def signed_in(page: Page, served: Served, workers: PictureWorker, cookies: list[dict[str, object]]) -> Callable[[], Page]:
    """Opens the first page as the demo account; through the sign-in page once, with the cookies kept from then on after."""

    def go(address: str = served.address) -> Page:
        if address == served.address:
            page.context.add_cookies(cookies)  # type: ignore[arg-type]
        if sign_in_as_demo(page, address) and address == served.address:
            cookies[:] = page.context.cookies()  # type: ignore[arg-type]
        return page

    return go


def choose(page: Page, label: str, option: str) -> None:
    """Pick from a list by a part of a name: from a short one as the browser has it, from a long one by keyboard and pointer."""
    box = page.get_by_role("combobox", name=label, exact=True)
    if box.evaluate("one => one.tagName") == "SELECT":
        box.select_option(value=box.locator("option", has_text=option).first.get_attribute("value"))
        return
    box.focus()
    page.keyboard.press("ArrowDown")
    page.locator(".ant-select-dropdown:visible .ant-select-item-option", has_text=option).first.click()


def sentence(page: Page, topic: str) -> str:
    return page.get_by_role("region", name=topic, exact=True).locator(".sentence").inner_text()


def weather_is_known(page: Page) -> None:
    """The forecast of a new place comes a moment later: its air bends the light a little, its cold empties a battery sooner."""
    address = urlsplit(page.url)
    for _ in range(200):
        told = page.request.get(f"{address.scheme}://{address.netloc}/api/tonight?{address.query}").json()
        if told["weather"]["state"] != "asked":
            page.reload()
            return
        page.wait_for_timeout(100)
    raise AssertionError("no forecast came")

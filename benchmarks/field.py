"""What the field weighs and how fast it is: events merged, shell and pack on the wire, a step read with no connection.

    python -m benchmarks.field

Needs the built pages, PostgreSQL up, and the environment that `./wide-dusk test` makes.
"""

import gzip
import random
import tempfile
import time
from datetime import UTC, datetime, timedelta
from pathlib import Path

from playwright.sync_api import sync_playwright

from tests import demo
from tests.e2e.conftest import BROWSER, FLAGS, Served
from tests.e2e.test_the_field import BEFORE_SUNSET, Phone, taken_along
from widedusk.command import postgres
from widedusk.command.basics import FRONTEND, free_port
from widedusk.core.field.events import Event, Kind, state_of

MANY = 10_000
NAME = "widedusk_bench_field"
TEXT = "(path) => fetch(path).then((answer) => answer.text())"
# Milliseconds from the beginning of the navigation until the step could be read.
PAINTED = "() => performance.now()"


def merged() -> float:
    """Seconds for so many events of two devices, in no order and a tenth of them twice, to come to a state."""
    chance, dusk = random.Random(7), datetime(2026, 12, 8, 17, tzinfo=UTC)  # noqa: S311
    kinds: tuple[Kind, ...] = ("checked", "put off", "acknowledged", "begun", "ended", "noted", "taken back")
    events = []
    for number in range(MANY):
        kind, device = kinds[number % len(kinds)], f"device-{number % 2}"
        at = dusk + timedelta(seconds=chance.randint(0, 40_000))
        data = {"begun": {"at": at.isoformat()}, "ended": {"at": at.isoformat(), "frames": number % 200}}.get(kind, {})
        if kind == "taken back":
            data = {"event": events[-1].id}
        subject = f"run:{number % 12}:{kind}" if kind in {"begun", "ended"} else f"step:{number % 300}"
        events.append(Event(f"{device}-{number}", device, number, at, 0.0, kind, subject, data))
    events += chance.sample(events, MANY // 10)
    chance.shuffle(events)
    begun = time.perf_counter()
    state_of(events)
    return time.perf_counter() - begun


def shell() -> dict[str, int]:
    """Bytes that travel for the field's own files, compressed as they are served."""
    built = FRONTEND / "dist" / "field"
    files = [built / "field.html", built / "sw.js", *sorted((built / "assets").iterdir())]
    plain = [one for one in files if one.suffix not in {".gz", ".br"}]
    return {one.name: len(one.read_bytes() if one.suffix == ".woff2" else gzip.compress(one.read_bytes())) for one in plain}


def out_there() -> tuple[int, list[float]]:
    """The compressed bytes of a pack of two rigs, and milliseconds until the step can be read, with no connection and no server."""
    demo.seed()
    demo.copy(NAME)
    given = {"WIDE_DUSK_DB_NAME": NAME, "WIDE_DUSK_DEMO": "1", "WIDE_DUSK_DEMO_PASSWORD": demo.PASSWORD}
    site = Served({**postgres.settings_env(), **given, "WIDE_DUSK_NOW": BEFORE_SUNSET}, free_port(None))
    site.start()
    painted = []
    try:
        with sync_playwright() as playwright, tempfile.TemporaryDirectory() as folder:
            phone = Phone(playwright, Path(folder), site.address)
            night, _ = taken_along(phone, "south")
            weighs = len(gzip.compress(phone.page.evaluate(TEXT, f"/api/nights/{night}/pack").encode()))
            site.stop()
            phone.context.close()
            # Without the frozen clock, which would stand before the browser's own.
            chromium = playwright.chromium.launch_persistent_context(folder, executable_path=BROWSER, args=FLAGS)
            chromium.set_offline(True)
            for _ in range(5):
                page = chromium.new_page()
                page.goto(f"{site.address}/field/#/{night}", wait_until="commit")
                page.locator("h2").first.wait_for()
                painted.append(float(page.evaluate(PAINTED)))
                page.close()
            chromium.close()
    finally:
        site.stop()
        demo.drop(NAME)
    return weighs, painted


if __name__ == "__main__":
    print(f"{MANY} events merged in {min(merged() for _ in range(3)):.2f} s")
    weights = shell()
    code = sum(size for name, size in weights.items() if not name.endswith(".woff2"))
    print(f"shell: {sum(weights.values()) / 1000:.0f} kB compressed, {code / 1000:.0f} kB without the fonts; {weights}")
    pack, paints = out_there()
    print(f"pack of two rigs: {pack / 1000:.0f} kB compressed")
    print(f"the step can be read with no connection after {', '.join(f'{one:.0f}' for one in sorted(paints))} ms")

"""How much the site bears: python -m benchmarks.load, with the demo running.

Twenty clients at once ask for a night, each another one with other choices, for a minute a page: answers a second, median and 95th
percentile, and what the server's memory did meanwhile. The clients run on the same machine and take their share of it; how much a
bare answer of this server takes from the same clients stands beside it (/health).
"""

import argparse
import http.client
import json
import threading
import time
from datetime import date, timedelta
from itertools import count
from pathlib import Path
from urllib.parse import urlencode

import numpy as np

from benchmarks.exposure_page import signed_in
from widedusk.command import background
from widedusk.command.basics import remembered

CLIENTS = 20
FIRST = date(2026, 11, 25)


def memory_mb() -> float:
    """Of all processes of the web server, shared pages counted once."""
    found = 0.0
    for pid in background.marked("web"):
        lines = Path(f"/proc/{pid}/smaps_rollup").read_text().splitlines()
        found += sum(int(line.split()[1]) for line in lines if line.startswith("Pss:")) / 1e3
    return found


def ask_for(path: str, seconds: float, cookie: str, context: dict[str, object], same: bool = False) -> list[float]:
    """Seconds that each answer took. same: all ask for the same night, with the same choices."""
    took: list[float] = []
    numbers = count()
    until = time.monotonic() + seconds

    def client() -> None:
        line = http.client.HTTPConnection("127.0.0.1", remembered()["web_port"], timeout=60)
        while time.monotonic() < until:
            number = 0 if same else next(numbers)
            night = FIRST + timedelta(days=number % 28)
            query = {**context, "night": night.isoformat(), "gap_s": 1 + number % 7, "alignment_arcmin": 2 + number % 11}
            began = time.monotonic()
            line.request("GET", path if path == "/health" else f"{path}?{urlencode(query)}", headers={"Cookie": cookie})
            answer = line.getresponse()
            answer.read()
            if answer.status != 200:
                raise RuntimeError(f"{path}: {answer.status}")
            took.append(time.monotonic() - began)

    threads = [threading.Thread(target=client) for _ in range(CLIENTS)]
    for one in threads:
        one.start()
    for one in threads:
        one.join()
    return took


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--seconds", type=float, default=60.0)
    parser.add_argument("--same", action="store_true", help="the same night and choices again and again, as pages of one night ask")
    asked = parser.parse_args()
    client, context = signed_in()
    cookie = "; ".join(f"{one.name}={one.value}" for one in client.cookies.jar)
    found = {}
    for path in ("/health", "/api/tonight", "/api/exposure"):
        ask_for(path, 3.0, cookie, context, asked.same)
        before = memory_mb()
        took = np.array(ask_for(path, asked.seconds if path != "/health" else 5.0, cookie, context, asked.same))
        found[path] = len(took)
        print(
            f"{path:14} {len(took) / (asked.seconds if path != '/health' else 5.0):6.0f}/s, median {np.median(took):.3f} s, "
            f"95 % {np.quantile(took, 0.95):.3f} s, memory {before:.0f} to {memory_mb():.0f} MB"
        )
    print(json.dumps(found))


if __name__ == "__main__":
    main()

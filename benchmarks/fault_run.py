"""Whether the site comes back by itself and loses nothing: python -m benchmarks.fault_run

A site of its own, with the demo in it, in a folder that goes away afterwards. Three clients write and measure while something
is killed at random, sixty times: a web worker, the web server's master, the worker for pictures, that for errands, the keeper, a
connection of the database, the database. Told at the end: how long each took to come back, how many acknowledged writes are lost,
what became of the measurements, and what still runs after `stop`.
"""

import argparse
import json
import os
import random
import signal
import subprocess
import sys
import tempfile
import threading
import time
from collections import defaultdict
from pathlib import Path

import httpx

from widedusk.command import background, basics, keeper, postgres
from widedusk.command.basics import ROOT, secret

TARGETS = ("web worker", "web master", "pictures", "errands", "keeper", "connection", "database")
BACK_S = 10.0


def command(*words: str) -> str:
    done = subprocess.run([sys.executable, "-m", "widedusk.command", *words], cwd=ROOT, capture_output=True, text=True, check=False)
    if done.returncode:
        raise SystemExit(f"{words}: {done.stdout}{done.stderr}")
    return done.stdout


class Client(threading.Thread):
    """Writes targets and, now and then, has a pair measured; remembers what was acknowledged."""

    def __init__(self, number: int, port: int) -> None:
        super().__init__(daemon=True)
        self.number, self.port, self.over = number, port, threading.Event()
        self.acknowledged: list[str] = []
        self.measurements: list[int] = []
        self.refused = 0

    def run(self) -> None:
        web, made = None, 0
        while not self.over.is_set():
            try:
                if web is None:
                    web = httpx.Client(base_url=f"http://127.0.0.1:{self.port}", timeout=15)
                    web.get("/api/session")
                    words = {"username": "demo", "password": secret("demo")[:12]}
                    web.post("/api/session", json=words, headers={"X-CSRFToken": web.cookies["csrftoken"]}).raise_for_status()
                    web.headers["X-CSRFToken"] = web.cookies["csrftoken"]
                    start = web.get("/api/tonight/start").json()
                name, made = f"client {self.number}, write {made}", made + 1
                body = {"name": name, "ra_deg": 10, "dec_deg": -20, "extent_deg": 1, "surface_mag": 21}
                if web.post("/api/targets", json=body).status_code == 201:
                    self.acknowledged.append(name)
                if made % 60 == 5:
                    self.measure(web, start)
            except (httpx.HTTPError, KeyError, ValueError):
                self.refused += 1
                web = None
                self.over.wait(0.3)
            self.over.wait(0.05)

    def measure(self, web: httpx.Client, start: dict[str, object]) -> None:
        names = [f"pair-{1 + self.number % 3}-{word}.jpg" for word in ("first", "second")]
        chosen = web.post("/api/pictures/folder", json={"names": names})
        if chosen.status_code != 201:
            raise ValueError(chosen.text)
        rows = chosen.json()
        shots = [{"picture": one["id"], "taken": one["taken"], "exposure_s": 10, "focal_mm": 180} for one in rows]
        context = {name: start[name] for name in ("rig", "spot", "night", "target")}
        body = {"context": context, "task": "axis", "pictures": shots, "clock_offset_min": 120}
        answer = web.post("/api/pictures/measurements", json=body)
        if answer.status_code == 201:
            self.measurements.append(answer.json()["id"])


def victim(what: str) -> int | None:
    if what == "database":
        return postgres.number()
    if what == "connection":
        found = postgres.query("SELECT pid FROM pg_stat_activity WHERE datname = 'widedusk' AND pid <> pg_backend_pid() LIMIT 20")
        return int(random.choice(found.split())) if found else None  # noqa: S311
    part = "web" if what.startswith("web") else what
    found_marked = background.marked(part)
    roots = [pid for pid in found_marked if found_marked[pid] not in found_marked]
    if what == "web worker":
        children = [pid for pid in found_marked if found_marked[pid] in roots]
        return random.choice(children) if children else None  # noqa: S311
    return roots[0] if roots else None


def is_back(what: str, killed: int, port: int) -> bool:
    part = {"web worker": "web", "web master": "web", "connection": "web", "database": "web"}.get(what, what)
    return bool(background.marked(part)) and not background.is_alive(killed) and background.answers(port, 1.0)


def main() -> None:  # noqa: PLR0915
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--kills", type=int, default=60)
    parser.add_argument("--seed", type=int, default=1)
    asked = parser.parse_args()
    if "WIDE_DUSK_VAR" not in os.environ:
        folder = tempfile.mkdtemp(prefix="wide-dusk-faults-")
        Path(folder).chmod(0o711)
        os.environ["WIDE_DUSK_VAR"] = folder
        os.execv(sys.executable, [sys.executable, "-m", "benchmarks.fault_run", *sys.argv[1:]])
    random.seed(asked.seed)
    command("demo")
    want = keeper.wanted()
    assert want is not None  # noqa: S101
    port = want["web_port"]
    clients = [Client(number, port) for number in range(3)]
    for one in clients:
        one.start()
    took: dict[str, list[float]] = defaultdict(list)
    for number in range(asked.kills):
        what = TARGETS[number % len(TARGETS)] if number < len(TARGETS) else random.choice(TARGETS)  # noqa: S311
        try:
            pid = victim(what)
        except basics.Failure:
            pid = None
        if pid is None:
            print(f"{number + 1:3} {what}: not there")
            time.sleep(1.0)
            continue
        os.kill(pid, signal.SIGKILL)
        began = time.monotonic()
        while not is_back(what, pid, port) and time.monotonic() - began < 3 * BACK_S:
            time.sleep(0.05)
        took[what].append(time.monotonic() - began)
        print(f"{number + 1:3} {what} {pid}: back after {took[what][-1]:.1f} s", flush=True)
        time.sleep(random.uniform(0.2, 2.5))  # noqa: S311
    for one in clients:
        one.over.set()
    for one in clients:
        one.join(30)
    begun = [number for one in clients for number in one.measurements]
    until = time.monotonic() + 180
    states: dict[str, int] = {}
    while time.monotonic() < until:
        rows = postgres.query("SELECT id, state FROM pole_measurement").splitlines()
        of = {int(row.split("|")[0]): row.split("|")[1] for row in rows}
        states = {state: sum(of.get(one) == state for one in begun) for state in {of.get(one, "lost") for one in begun}}
        if set(states) <= {"done"}:
            break
        time.sleep(1.0)
    kept = set(postgres.query("SELECT name FROM targets_target").splitlines())
    written = [name for one in clients for name in one.acknowledged]
    lost = [name for name in written if name not in kept]
    doubled = postgres.query("SELECT count(*) FROM (SELECT measurement_id FROM pole_alignment GROUP BY 1 HAVING count(*) > 1) x")
    command("stop")
    left = {pid: Path(f"/proc/{pid}/cmdline").read_bytes() for pid in background.marked()}
    for what, times in took.items():
        print(f"{what:12} {len(times):3} times, back after {max(times):.1f} s at most, {sum(times) / len(times):.1f} s on average")
    print(f"{len(written)} acknowledged writes, {len(lost)} lost; {sum(one.refused for one in clients)} attempts refused meanwhile")
    print(f"{len(begun)} measurements: {json.dumps(states)}; {doubled} with two results")
    print(f"left after stop: {left or 'nothing'}")


if __name__ == "__main__":
    main()

"""How quickly the Exposure page answers: python -m benchmarks.exposure_page, with the demo running.

Every control is turned in turn, as a person does it, over HTTP from gunicorn: median and 95th percentile. With --measuring the same
while the worker measures the demo's test picture and pairs.
"""

import argparse
import itertools
import time

import httpx
import numpy as np

from widedusk.command.basics import remembered, secret

TURNS: tuple[dict[str, object], ...] = (
    *({"iso": iso} for iso in (200, 400, 800, 1600)),
    *({"f_number": f_number} for f_number in (2.8, 3.2, 4, 5.6)),
    *({"sub_school": school} for school in ("best", "sky", "tracks")),
    *({"sub_school": "fixed", "fixed_sub_s": seconds} for seconds in (30, 60, 90, 120, 180)),
    *({"wind_level": level} for level in ("light", "fresh", "strong")),
    *({"tracking": way} for way in ("guided in RA", "guided", "untracked")),
    *({"filter_name": name} for name in ("none", "Dual-band filter")),
    *({"alignment_arcmin": axis} for axis in (1, 3, 8, 15)),
    *({"night": night} for night in ("2026-12-14", "2026-12-20", "2026-12-24")),
)


def signed_in() -> tuple[httpx.Client, dict[str, object]]:
    client = httpx.Client(base_url=f"http://127.0.0.1:{remembered()['web_port']}", timeout=30)
    client.get("/api/session")
    body = {"username": "demo", "password": secret("demo")[:12]}
    client.post("/api/session", json=body, headers={"X-CSRFToken": client.cookies["csrftoken"]}).raise_for_status()
    start = client.get("/api/tonight/start").json()
    context = {name: start[name] for name in ("rig", "spot", "night", "target")}
    return client, context


def measuring(client: httpx.Client, context: dict[str, object]) -> None:
    """Give the worker a minute of work: three pairs."""
    token = {"X-CSRFToken": client.cookies["csrftoken"]}
    for pair in (1, 2, 3):
        names = [f"pair-{pair}-{word}.jpg" for word in ("first", "second")]
        rows = client.post("/api/pictures/folder", json={"names": names}, headers=token).json()
        shots = [{"picture": one["id"], "taken": one["taken"], "exposure_s": 10, "focal_mm": 180} for one in rows]
        body = {"context": context, "task": "axis", "pictures": shots, "clock_offset_min": 120}
        client.post("/api/pictures/measurements", json=body, headers=token).raise_for_status()


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--rounds", type=int, default=4)
    parser.add_argument("--measuring", action="store_true")
    asked = parser.parse_args()
    client, context = signed_in()
    if asked.measuring:
        measuring(client, context)
    took: dict[str, list[float]] = {"/api/exposure": [], "/api/tonight": []}
    for _, turn in itertools.product(range(asked.rounds), TURNS):
        for path, times in took.items():
            begun = time.perf_counter()
            client.get(path, params={**context, **turn}).raise_for_status()
            times.append(1000 * (time.perf_counter() - begun))
    for path, times in took.items():
        told = f"median {np.median(times):4.0f} ms, 95 % {np.percentile(times, 95):4.0f} ms, worst {max(times):4.0f} ms"
        print(f"{path:15s} {told} of {len(times)}")


if __name__ == "__main__":
    main()

"""The page of a run of 3,000 frames at the server: ./wide-dusk demo && .venv/bin/python -m benchmarks.large_run

Frames of the demo's account are laid into its database, asked for over HTTP like any others, and taken out again. The worker judges
a run as soon as its last frame is measured, as is done here; then the first answer of a server process stands beside later ones,
and beside that of a run that nobody judged beforehand.
"""

import json
import os
import statistics
import time
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import replace
from datetime import UTC, datetime, timedelta
from typing import Any

import django
import numpy as np

from benchmarks.tonight_page import get, sign_in
from widedusk.command import postgres

FRAMES, SECONDS = 3000, 12.0


@contextmanager
def many_frames() -> Iterator[tuple[Any, Any]]:
    """A run with its frames, on a worm, and one more that is not in it yet."""
    from tests.core.test_judge import GOOD  # noqa: PLC0415 - after Django is set up
    from widedusk.records.frames.frames import stored_facts  # noqa: PLC0415
    from widedusk.records.frames.models import Folder, Frame  # noqa: PLC0415
    from widedusk.records.kit.models import Rig  # noqa: PLC0415
    from widedusk.records.nights.models import Night, Run, RunResult  # noqa: PLC0415

    rig = Rig.objects.filter(owner__username="demo", deleted_at=None).first()
    before = Run.objects.filter(owner=rig.owner, night__spot__isnull=False).first()
    night = Night.objects.create(owner=rig.owner, name="large", spot=before.night.spot, date=datetime(2031, 2, 3).date())
    common = {"owner": rig.owner, "night": night, "rig": rig, "target": before.target, "name": "large"}
    folder = Folder.objects.create(**common, path="large", settled_at=datetime(2040, 1, 1, tzinfo=UTC))
    run = Run.objects.create(**common, state="running", origin="files")
    RunResult.objects.create(run=run, exposure_s=SECONDS - 2, iso=800, recognition="target")
    rng, began = np.random.default_rng(1), datetime(2031, 2, 3, 19, 0, tzinfo=UTC)
    rows = []
    for number in range(FRAMES + 1):
        off = 8.0 / 3600 * np.sin(2 * np.pi * number * SECONDS / 480) + rng.normal(0, 1e-4)
        facts = replace(GOOD, zero_mag=5 + rng.normal(0, 0.01), pointing=replace(GOOD.pointing, ra_deg=166.5 + off))
        rows.append(
            Frame(
                owner=rig.owner, folder=folder, run=run if number < FRAMES else None, name=f"L{number:05d}.jpg",
                kind="light" if number < FRAMES else "flat", state="done", size_bytes=1,
                changed_ns=1, began_at=began + timedelta(seconds=SECONDS * number),
                measured_at=began + timedelta(seconds=number), header={"exposure_s": SECONDS - 2, "iso": 800},
                facts=stored_facts(facts), digest=str(number),
            )
        )  # fmt: skip
    Frame.objects.bulk_create(rows, batch_size=500)
    try:
        yield run, rows[-1]
    finally:
        folder.delete()
        run.delete()
        night.delete()


def took_ms(path: str) -> tuple[float, int]:
    started = time.perf_counter()
    size = len(get(path))
    return (time.perf_counter() - started) * 1e3, size


def main() -> None:
    os.environ.update(postgres.settings_env())
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "widedusk.settings")
    django.setup()
    sign_in()
    with many_frames() as (run, more):
        from widedusk.jobs.frames import judge_ahead  # noqa: PLC0415 - after Django is set up

        path = f"/api/frames/runs/{run.pk}"
        started = time.perf_counter()
        judge_ahead(more)
        print(f"run of {FRAMES} frames: found and judged by the worker in {time.perf_counter() - started:.1f} s")
        first, size = took_ms(path)
        print(f"  first answer {first:.0f} ms, {size / 1e6:.1f} MB before it is packed")
        print(f"  later ones, median {statistics.median(took_ms(path)[0] for _ in range(12)):.0f} ms")
        more.run, more.kind = run, "light"
        more.measured_at += timedelta(days=1)
        more.save()
        print(f"  with one more frame, not judged beforehand {took_ms(path)[0]:.0f} ms; then {took_ms(path)[0]:.0f} ms")
        kept = json.loads(get(path))
        one = took_ms(f"/api/frames/{more.pk}")[0]
        print(f"  {len(kept['frames'])} frames, {len(kept['causes'])} causes; one frame {one:.0f} ms")
    print(f"health, for comparison {statistics.median(took_ms('/health')[0] for _ in range(12)):.0f} ms")


if __name__ == "__main__":
    main()

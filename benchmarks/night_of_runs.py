"""The runs of one night at the server: ./wide-dusk demo && .venv/bin/python -m benchmarks.night_of_runs

A night of 40 runs, each planned, said by a phone and found in files, with 600 frames between them, is laid into the demo's database
and asked for over HTTP; its queries are counted in this process. It is asked for again beside as many more runs and frames of the
same account in other nights: the answer should take as long.
"""

import os
import statistics
from collections.abc import Iterator
from contextlib import contextmanager
from datetime import UTC, date, datetime, timedelta
from typing import Any

import django

from benchmarks.large_run import took_ms
from benchmarks.tonight_page import sign_in
from widedusk.command import postgres

RUNS, FRAMES_OF_A_RUN, OTHER_NIGHTS = 40, 15, 60
NIGHT = date(2031, 3, 4)


def fill(owner: Any, rig: Any, target: Any, spot: Any, evening: date, runs: int) -> Any:
    """A night with its runs and frames."""
    from widedusk.records.frames.models import Folder, Frame  # noqa: PLC0415 - after Django is set up
    from widedusk.records.nights.facts import fact_row, facts_from  # noqa: PLC0415
    from widedusk.records.nights.models import Night, Run, RunFact, RunPlan, RunResult  # noqa: PLC0415

    night = Night.objects.create(owner=owner, name="many runs", spot=spot, date=evening)
    settled = datetime(2040, 1, 1, tzinfo=UTC)
    lies = {"owner": owner, "night": night, "rig": rig, "target": target, "name": "many runs", "path": str(evening)}
    folder = Folder.objects.create(**lies, settled_at=settled)
    begin = datetime(evening.year, evening.month, evening.day, 19, tzinfo=UTC)
    common = {"owner": owner, "night": night, "rig": rig, "target": target, "origin": "schedule", "state": "done"}
    rows = Run.objects.bulk_create([Run(**common, name=f"run {place}", ordinal=place + 1) for place in range(runs)])
    said = {"begins_at": begin, "ends_at": begin + timedelta(minutes=10), "frames": FRAMES_OF_A_RUN}
    settings = {"exposure_s": 30.0, "f_number": 4.0, "iso": 800}
    RunPlan.objects.bulk_create([RunPlan(run=run, changed_at=begin, begins_at=begin, frames=20, exposure_s=30.0) for run in rows])
    RunResult.objects.bulk_create([RunResult(run=run, kept=12, recognition="planned", **said, **settings) for run in rows])
    sources = {"plan": {"planned": True, "frames": 20, **settings}, "phone": said, "files": {**said, **settings, "kept": 12}}
    facts = [fact for source, values in sources.items() for fact in facts_from(source, values, 1)]  # type: ignore[arg-type]
    RunFact.objects.bulk_create([fact_row(run, fact) for run in rows for fact in facts], batch_size=2000)
    frames = [
        Frame(
            owner=owner, folder=folder, run=run, name=f"{run.pk} {place}", kind="light", state="done", size_bytes=1, changed_ns=1,
            began_at=begin + timedelta(seconds=32 * place),
        )
        for run in rows
        for place in range(FRAMES_OF_A_RUN)
    ]  # fmt: skip
    Frame.objects.bulk_create(frames, batch_size=2000)
    return night


@contextmanager
def filled(owner: Any, nights: list[tuple[date, int]]) -> Iterator[Any]:
    from widedusk.records.frames.models import Folder  # noqa: PLC0415 - after Django is set up
    from widedusk.records.kit.models import Rig  # noqa: PLC0415
    from widedusk.records.nights.models import Night, Run  # noqa: PLC0415

    rig = Rig.objects.filter(owner=owner, deleted_at=None).first()
    before = Run.objects.filter(owner=owner, night__spot__isnull=False).first()
    rows = [fill(owner, rig, before.target, before.night.spot, evening, runs) for evening, runs in nights]
    try:
        yield before.night.spot
    finally:
        Folder.objects.filter(night__in=rows).delete()
        Run.objects.filter(night__in=rows).delete()
        Night.objects.filter(pk__in=[row.pk for row in rows]).delete()


def told(words: str, path: str) -> None:
    first, size = took_ms(path)
    later = statistics.median(took_ms(path)[0] for _ in range(12))
    print(f"{words}: first {first:.0f} ms, later {later:.0f} ms, {size / 1e3:.0f} kB before it is packed")


def main() -> None:
    os.environ.update(postgres.settings_env())
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "widedusk.settings")
    django.setup()
    from django.contrib.auth import get_user_model  # noqa: PLC0415 - after Django is set up
    from django.db import connection  # noqa: PLC0415
    from django.test import Client  # noqa: PLC0415
    from django.test.utils import CaptureQueriesContext  # noqa: PLC0415

    sign_in()
    owner = get_user_model().objects.get(username="demo")
    with filled(owner, [(NIGHT, RUNS)]) as spot:
        path = f"/api/runs?limit=100&night={NIGHT}&spot={spot.pk}"
        client = Client(SERVER_NAME="127.0.0.1")
        client.force_login(owner)
        with CaptureQueriesContext(connection) as queries:
            count = len(client.get(path).json()["items"])
        print(f"{count} runs, {count * FRAMES_OF_A_RUN} frames: {len(queries)} queries, session and account among them")
        told("alone", path)
        with filled(owner, [(NIGHT + timedelta(days=1 + place), RUNS) for place in range(OTHER_NIGHTS)]):
            told(f"beside {OTHER_NIGHTS * RUNS:,} other runs with {OTHER_NIGHTS * RUNS * FRAMES_OF_A_RUN:,} frames", path)
            told("the list of nights", "/api/nights?limit=20")


if __name__ == "__main__":
    main()

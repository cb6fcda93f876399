"""The queues of long work, light enough for the web server to load: the work itself is loaded by the worker that does it.

Each has a worker of its own: `pictures` are measured and `plans` worked out one after the other, `errands` are short and never wait
for them. What lies in a folder is in a queue of its machine (`queue_at`), which none but a worker of that machine takes from.
"""

from collections.abc import Iterable
from contextlib import suppress
from datetime import date

from django.conf import settings
from django.contrib.sessions.backends.db import SessionStore
from django.db import transaction
from procrastinate.contrib.django import app
from procrastinate.exceptions import AlreadyEnqueued
from procrastinate.types import JSONDict

from widedusk.records.frames.folders import let_brought_files_go, look_through, wants_a_look
from widedusk.records.frames.frames import left_lying_frames
from widedusk.records.frames.machines import forget_machines
from widedusk.records.frames.models import Folder, Frame, queue_at
from widedusk.records.grounds.models import Place
from widedusk.records.nights.models import Planning
from widedusk.records.pictures.measurements import needs_our_folder
from widedusk.records.pictures.models import Measurement
from widedusk.records.pictures.pictures import let_old_files_go, let_old_previews_go
from widedusk.records.weather.services import fetch, let_old_forecasts_go
from widedusk.records.work import DEAD_AFTER, Work, left_lying

JUST_TAKEN = 10  # priority of a frame that was just taken; all else has none
LOOK_AGAIN_S = 2
ANYWHERE, HERE = "pictures", queue_at("")


@app.task(name="measure", queue=ANYWHERE, pass_context=False)
def measure_pictures(measurement: int) -> None:
    """Measure the pictures of one measurement."""
    from widedusk.jobs.measuring import run  # noqa: PLC0415 - what measures stays out of the web server

    run(measurement)


@app.task(name="measure frame", queue=ANYWHERE, pass_context=False)
def measure_one_frame(frame: int) -> None:
    """Measure one frame of a folder."""
    from widedusk.jobs.frames import measure_frame  # noqa: PLC0415 - what measures stays out of the web server

    measure_frame(frame)


def put_frames_in_line(rows: Iterable[Frame], priority: int = 0) -> int:
    """Have frames measured, a job each, by whichever workers there are, those of a higher priority first. Returns how many."""
    of: dict[int, list[int]] = {}
    for row in rows:
        of.setdefault(row.folder_id, []).append(row.pk)
    for folder in Folder.objects.filter(pk__in=of):
        numbers = of[folder.pk]
        line = measure_one_frame.configure(queue=ANYWHERE if folder.brought else queue_at(folder.machine), priority=priority)
        for start in range(0, len(numbers), 500):
            some = numbers[start : start + 500]
            asked: list[JSONDict] = [{"frame": one} for one in some]
            jobs = line.batch_defer(*asked)
            found = Frame.objects.in_bulk(some, field_name="pk")
            for number, job in zip(some, jobs, strict=True):
                if number in found:
                    found[number].job = job
            Frame.objects.bulk_update(found.values(), ["job"])
    return sum(map(len, of.values()))


@app.task(name="look into a folder", queue=HERE, pass_context=False)
def look_into_folder(folder: int) -> None:
    """What lies in a folder of this machine."""
    row = Folder.objects.filter(pk=folder, deleted_at=None, state="reading").first()
    if row is not None:
        _take_up(row)


def _take_up(folder: Folder) -> None:
    """Put what lies new in a folder in line; what comes into a watched one while it is watched goes before all that lay somewhere.
    Files that may still be written to are looked at once more."""
    just_taken = folder.watched and folder.looked_at is not None
    put_frames_in_line(look_through(folder), JUST_TAKEN if just_taken else 0)
    if folder.left_young and not folder.watched:
        with suppress(AlreadyEnqueued), transaction.atomic():
            line = look_into_folder.configure(
                queue=queue_at(folder.machine), queueing_lock=f"look into folder {folder.pk}", schedule_in={"seconds": LOOK_AGAIN_S}
            )
            line.defer(folder=folder.pk)


def have_looked(folder: Folder) -> None:
    """Take up what lies new in a folder: at once where it lies here, else by a worker of its machine, once however many ask."""
    if folder.machine == settings.WIDE_DUSK_MACHINE or folder.brought:
        _take_up(folder)
        return
    with suppress(AlreadyEnqueued), transaction.atomic():
        line = look_into_folder.configure(queue=queue_at(folder.machine), queueing_lock=f"look into folder {folder.pk}")
        line.defer(folder=folder.pk)


@app.periodic(cron="* * * * * */4")
@app.task(name="look into folders", queue="errands", queueing_lock="look into folders", pass_context=False)
def look_into_folders(timestamp: int) -> None:
    """New files of watched folders, for when no page is open that looks itself."""
    for folder in Folder.objects.filter(watched=True, deleted_at=None, state="reading"):
        if wants_a_look(folder):
            have_looked(folder)


@app.task(name="plan", queue="plans", pass_context=False)
def plan_nights(planning: int) -> None:
    """Work out what ifs, or the nights of a trip."""
    from widedusk.jobs.planning import run  # noqa: PLC0415 - the solver stays out of the web server's start

    run(planning)


@app.task(name="fetch a forecast", queue="errands", pass_context=False)
def fetch_forecast(place: int, night: str) -> None:
    """Ask the forecast service about a place and night."""
    row = Place.objects.filter(pk=place).first()
    if row is not None:
        fetch(row, date.fromisoformat(night))


def send_for_forecast(place: int, night: date) -> None:
    """Have a forecast fetched by whichever worker comes first; once, however many ask meanwhile."""
    with suppress(AlreadyEnqueued), transaction.atomic():
        fetch_forecast.configure(queueing_lock=f"forecast {place} {night}").defer(place=place, night=night.isoformat())


def put_in_line(row: Work) -> None:
    """Have long work done by whichever worker comes first."""
    if isinstance(row, Planning):
        row.job = plan_nights.defer(planning=row.pk)
    else:
        line = measure_pictures.configure(queue=HERE if isinstance(row, Measurement) and needs_our_folder(row) else ANYWHERE)
        row.job = line.defer(measurement=row.pk)
    row.save(update_fields=("job",))


@app.periodic(cron="* * * * * */5")
@app.task(name="take up again", queue="errands", queueing_lock="take up again", pass_context=False)
async def take_up_again(timestamp: int) -> None:
    """Jobs whose worker died are given to whoever is alive."""
    for job in await app.job_manager.get_stalled_jobs(seconds_since_heartbeat=DEAD_AFTER.total_seconds()):
        await app.job_manager.retry_job(job)


@app.periodic(cron="* * * * * */5")
@app.task(name="find what was left lying", queue="errands", queueing_lock="find what was left lying", pass_context=False)
def find_what_was_left_lying(timestamp: int) -> None:
    """Work that no job will come to any more is put in line anew; the run that is at it, if any, keeps its claim."""
    for row in (*left_lying(Measurement), *left_lying(Planning)):
        put_in_line(row)
    put_frames_in_line(left_lying_frames()[:500])


@app.periodic(cron="27 3 * * *")
@app.task(name="let old jobs go", queue="errands", queueing_lock="let old jobs go", pass_context=False)
async def tidy_jobs(timestamp: int) -> None:
    """Jobs that ended a week ago, well or not."""
    await app.job_manager.delete_old_jobs(nb_hours=7 * 24, include_failed=True, include_cancelled=True)


@app.periodic(cron="17 * * * *")
@app.task(name="let old files go", queue="errands", queueing_lock="let old files go", pass_context=False)
def tidy(timestamp: int) -> None:
    """What is past its time: uploads, views, forecasts, machines, ended sessions. The ages are told in docs/architecture.md."""
    let_old_files_go()
    let_old_previews_go()
    let_brought_files_go()
    let_old_forecasts_go()
    forget_machines()
    SessionStore.clear_expired()

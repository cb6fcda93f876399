"""The queue of long work, light enough for the web server to load: the work itself is loaded by the worker that does it."""

from procrastinate.contrib.django import app

from widedusk.records.pole.services import let_old_files_go

DEAD_AFTER_S = 20.0  # without a heartbeat; no step of the work holds one back for so long


@app.task(name="measure", queue="pictures", pass_context=False)
def measure_pictures(measurement: int) -> None:
    """Measure the pictures of one measurement."""
    from widedusk.jobs.measuring import run  # noqa: PLC0415 - solver and star finder stay out of the web server

    run(measurement)


@app.periodic(cron="* * * * * */10")
@app.task(name="take up again", queue="pictures", queueing_lock="take up again", pass_context=False)
async def take_up_again(timestamp: int) -> None:
    """Work whose worker died is begun anew by whoever is alive."""
    for job in await app.job_manager.get_stalled_jobs(queue="pictures", seconds_since_heartbeat=DEAD_AFTER_S):
        await app.job_manager.retry_job(job)


@app.periodic(cron="17 * * * *")
@app.task(name="let old files go", queue="pictures", queueing_lock="let old files go", pass_context=False)
def tidy(timestamp: int) -> None:
    """Uploads that nobody measured."""
    let_old_files_go()

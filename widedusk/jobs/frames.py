"""Measure one frame where its file lies: a job each, so that any number of workers share a night."""

import logging
import time
from collections.abc import Callable
from contextlib import suppress
from dataclasses import asdict, replace
from pathlib import Path
from typing import Any

from django.conf import settings
from django.db import InterfaceError, OperationalError

from widedusk.apart import readers
from widedusk.apart.process import apart, bounds_of_picture, load_beforehand
from widedusk.core.errors import InvalidInput, storable
from widedusk.core.frames.frame import Frame as Measured
from widedusk.core.frames.frame import Known
from widedusk.core.judge.limits import Limits
from widedusk.records.frames.folders import opened_frame
from widedusk.records.frames.frames import beat_frame, began_at, claim_frame, folder_runs, let_frame_wait, settle, stored_facts
from widedusk.records.frames.judged import NOT_RECOGNISED, judged_of, tell_kept
from widedusk.records.frames.models import Folder, Frame
from widedusk.records.habits.services import choices_of, habits_of
from widedusk.records.kit.services import rig_of
from widedusk.records.nights.models import Run
from widedusk.records.pictures.pictures import digest_of, read_header, stored_header
from widedusk.records.work import Cancelled, Superseded, finish

log = logging.getLogger(__name__)
load_beforehand(["widedusk.apart.loaded_for_measuring"])
MEMORY_BYTES = 900_000_000
BEAT_S = 1.0
OURS = "The measuring itself failed, which is our fault and is written down in the log."


def _beats(row: Frame) -> Callable[[float, str], None]:
    last = 0.0

    def tell(share: float, doing: str) -> None:
        nonlocal last
        if time.monotonic() - last > BEAT_S:
            last = time.monotonic()
            if beat_frame(row):
                raise Cancelled

    return tell


def measure_frame(number: int) -> None:
    """The whole work on one frame, by the one run that claims it; it can be begun again from the start at any time."""
    row = claim_frame(number)
    if row is None:
        return
    try:
        finish(row, **_measured(row))
    except Superseded:
        return
    except Cancelled:
        let_frame_wait(row)
        return
    except InvalidInput as refused:
        _failed(row, refused.faults[0].message)
    except (OperationalError, InterfaceError):
        raise  # the database went down: the frame is taken up again when it is back
    except Exception:  # tried again, it would fail again, and again
        log.exception("frame %s failed", row.pk)
        _failed(row, OURS)
    judge_ahead(row)


def judge_ahead(row: Frame) -> None:
    """Once nothing of its folder waits: find its runs and judge them, so that their pages open at once, however long they are."""
    folder = Folder.objects.filter(pk=row.folder_id, deleted_at=None).first()
    if folder is None or folder.frames.filter(state__in=("waiting", "running")).exists():
        return
    try:
        settle(folder)
        limits = Limits.by(choices_of(habits_of(row.owner)))
        numbers = [run.pk for run in folder_runs(folder)]
        for run in Run.objects.filter(pk__in=numbers).select_related("night__spot__place", "rig", "result"):
            with suppress(InvalidInput):  # none of its frames could be measured
                lines, judged = judged_of(run, limits)
                if not folder.watched and run.result.recognition not in NOT_RECOGNISED:
                    tell_kept(run, judged, lines)
    except Exception:  # the frame is measured, whatever becomes of this: who opens the page has it judged then
        log.exception("folder %s was not judged ahead", folder.pk)


def _failed(row: Frame, why: str, **more: str) -> None:
    with suppress(Superseded):
        finish(row, "failed", fault=storable(why)[:400], **more)


def _measured(row: Frame) -> dict[str, Any]:
    """What is written down of a frame. Raises InvalidInput for a file that has gone or cannot be read."""
    try:
        with opened_frame(row) as path:
            return _read(row, path)
    except OSError:
        where = "has gone" if row.folder.brought else "has gone from the folder, or cannot be opened"
        return {"state": "failed", "fault": f"“{row.name}” {where}."}


def _read(row: Frame, path: Path) -> dict[str, Any]:
    digest = digest_of(path)
    twin = Frame.objects.filter(folder=row.folder_id, digest=digest, state="done").exclude(pk=row.pk).only("name").first()
    if twin is not None:
        return {"state": "failed", "digest": digest, "fault": f"“{row.name}” is the same picture as “{twin.name}”; it counts once."}
    before = Frame.objects.filter(owner_id=row.owner_id, digest=digest, state="done").exclude(pk=row.pk).first()
    if before is not None:  # measured in another folder: facts are those of the file
        kept = {name: getattr(before, name) for name in ("kind", "header", "facts", "known", "stars", "preview", "crops")}
        return {
            "state": "done",
            "digest": digest,
            "fault": "",
            **kept,
            "began_at": began_at(read_header(before.header), row.folder),
        }
    rig = rig_of(row.folder.rig)
    known = _known(row)
    given = (path, Path(settings.WIDE_DUSK_PATTERNS), (max(rig.camera.width_mm, rig.camera.height_mm), rig.lens.focal_mm), known)
    bounds = bounds_of_picture(row.size_bytes, MEMORY_BYTES)
    try:
        found: Measured = apart(readers.frame, *given, bounds=bounds, tell=_beats(row))
    except InvalidInput as refused:  # by the name the person knows
        raise InvalidInput([replace(one, message=one.message.replace(path.name, row.name)) for one in refused.faults]) from refused
    return {
        "state": "done",
        "fault": "",
        "digest": digest,
        "kind": found.facts.kind,
        "began_at": began_at(found.header, row.folder),
        "header": stored_header(found.header),
        "facts": stored_facts(found.facts),
        "known": asdict(found.known) if found.known else None,
        "stars": [[float(f"{one:.8g}") for one in asdict(star).values()] for star in found.stars],
        "preview": found.preview,
        "crops": found.crops,
    }


def _known(row: Frame) -> Known | None:
    """How the frame measured last in this folder was solved."""
    told = (
        Frame.objects.filter(folder=row.folder_id, state="done", known__isnull=False)
        .order_by("-measured_at")
        .values_list("known", flat=True)
        .first()
    )
    return Known(**{**told, "toward": tuple(told["toward"])}) if told else None

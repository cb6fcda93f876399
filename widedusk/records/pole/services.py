"""Keeping pictures, measurements and alignments."""

import contextlib
import hashlib
import re
import uuid
from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import asdict, dataclass
from datetime import date, datetime, timedelta
from itertools import islice
from pathlib import Path
from typing import Any

from django.conf import settings
from django.contrib.auth.models import AbstractBaseUser
from django.db import transaction
from django.db.models import Exists, OuterRef, Prefetch, Q, QuerySet, Sum
from procrastinate.contrib.django.models import ProcrastinateJob, ProcrastinateWorker

from widedusk.apart import readers
from widedusk.apart.process import read_apart
from widedusk.core.errors import Checks, Fault, InvalidInput, storable
from widedusk.core.frames.header import MOST_PICTURE_BYTES, Header
from widedusk.core.pole.axis import Axis, AxisError, UsualAxis
from widedusk.core.scene import Spot as CoreSpot
from widedusk.core.sky.time import SECOND, mjd_from_datetime
from widedusk.records.clock import now, true_now
from widedusk.records.grounds.models import Spot
from widedusk.records.grounds.services import spot_of
from widedusk.records.kit.models import Placement, Rig
from widedusk.records.owned import OwnedQuerySet
from widedusk.records.pole.models import PLACE, Alignment, Measurement, Picture
from widedusk.records.targets.models import Target

MOST_WAITING = 60  # pictures of one person whose files lie here
MOST_KEPT = 500  # and those that a person wants to stay
MOST_BYTES_HERE = 20_000_000_000  # of one person's uploads
MOST_PICTURES = 40  # in one measurement
PICTURES_FOR = {"axis": (2, MOST_PICTURES), "series": (3, MOST_PICTURES), "pointing": (1, 1), "trial": (1, 1), "camera": (4, 4)}
ANOTHER = {"axis": "the one taken after turning the axis", "camera": "two flats and two bias frames, each a frame of its own"}
DEAD_AFTER = timedelta(seconds=20)  # a worker that has not been heard of for so long is gone; no step of the work takes longer
KEEP_FILES_FOR = timedelta(days=1)
KEEP_PREVIEWS_FOR = timedelta(days=400)
UNDO_FOR = timedelta(hours=1)  # that the file of a deleted picture stays to be brought back
MOST_LISTED = 5_000  # files of the folder that are looked at
NOT_PICTURES = {".txt", ".xmp", ".md", ".json", ".part", ".mp4", ".mov", ".db"}


def pictures_of(user: AbstractBaseUser) -> OwnedQuerySet[Picture]:
    """This person's pictures, the latest first, without their small views."""
    return Picture.objects.of(user).defer("preview")


def measurements_of(user: AbstractBaseUser) -> QuerySet[Measurement]:
    """This person's measurements, the latest first."""
    placed = Prefetch("rig__placements", Placement.objects.select_related("part", "fed_by"))
    return Measurement.objects.filter(owner_id=user.pk).select_related("rig", "spot__place", "target").prefetch_related(placed)


def alignments_of(user: AbstractBaseUser) -> OwnedQuerySet[Alignment]:
    """Every alignment of this person, the latest first."""
    return Alignment.objects.of(user).select_related("rig", "spot__place")


def _stored(header: Header) -> dict[str, Any]:
    return {**asdict(header), "taken": header.taken.isoformat() if header.taken else None}


def header_of(row: Picture) -> Header:
    """What a picture's file said of itself."""
    taken = row.header.get("taken")
    return Header(**{**row.header, "taken": datetime.fromisoformat(taken) if taken else None})


def _row(owner: AbstractBaseUser, path: Path, name: str, from_folder: bool) -> Picture:
    header = read_apart(readers.picture_header, path)
    with path.open("rb") as file:
        digest = hashlib.file_digest(file, "sha256").hexdigest()
    return Picture.objects.create(
        owner_id=owner.pk,
        name=storable(name)[:120] or "picture",
        digest=digest,
        file=str(path),
        from_folder=from_folder,
        size_bytes=path.stat().st_size,
        header=_stored(header),
    )


def _room_for(owner: AbstractBaseUser, more: int) -> None:
    # What was deleted and may be brought back lies here too.
    here = Picture.objects.filter(owner_id=owner.pk, from_folder=False).exclude(file="")
    waiting = here.filter(kept=False).count()
    if here.count() + more > MOST_KEPT:
        raise InvalidInput([Fault("file", here.count(), f"You keep {MOST_KEPT} files here; let some go before you bring more.")])
    size = here.aggregate(size=Sum("size_bytes"))["size"] or 0
    if size > MOST_BYTES_HERE:
        told = f"Your files here take {size / 1e9:.0f} GB of {MOST_BYTES_HERE / 1e9:.0f}; let some go before you bring more."
        raise InvalidInput([Fault("file", size, told)])
    if waiting + more > MOST_WAITING:
        raise InvalidInput(
            [Fault("file", waiting, f"{waiting} pictures wait here already; measure them, or let them go, before you bring more.")]
        )


def _ending(name: str) -> str:
    """What tells programs the kind of a file, where it is a plain one."""
    found = re.search(r"\.[A-Za-z0-9]{1,8}$", name)
    return found[0].lower() if found else ""


def take_upload(owner: AbstractBaseUser, name: str, chunks: Iterable[bytes]) -> Picture:
    """Lay an upload down and read its header. Raises InvalidInput for what is no picture; then nothing stays."""
    _room_for(owner, 1)
    folder = Path(settings.WIDE_DUSK_PICTURES)
    folder.mkdir(parents=True, exist_ok=True)
    safe = storable(Path(name.replace("\x00", "")).name)[-80:] or "picture"
    path = folder / f"{uuid.uuid4().hex}{_ending(safe)}"
    total = 0
    try:
        with path.open("wb") as out:
            for chunk in chunks:
                total += len(chunk)
                if total > MOST_PICTURE_BYTES:
                    raise InvalidInput(
                        [Fault("file", total, f"“{safe}” has more than {MOST_PICTURE_BYTES / 1e6:.0f} MB. Give the JPEG instead.")]
                    )
                out.write(chunk)
        return _row(owner, path, safe, from_folder=False)
    except InvalidInput as refused:
        path.unlink(missing_ok=True)
        # The stored name means nothing to a person.
        raise InvalidInput([Fault("file", safe, one.message.replace(path.name, safe)) for one in refused.faults]) from None
    except BaseException:
        path.unlink(missing_ok=True)  # whatever happened, no file stays without its record
        raise


def folder_pictures() -> list[str]:
    """Names of the pictures in the allowed folder of this machine, the newest first; empty where none is set."""
    root = Path(settings.WIDE_DUSK_PICTURE_FOLDER) if settings.WIDE_DUSK_PICTURE_FOLDER else None
    if root is None or not root.is_dir():
        return []
    found = [
        (path.stat().st_mtime, str(path.relative_to(root)))
        for path in islice(root.rglob("*"), MOST_LISTED)
        if path.is_file() and path.suffix.lower() not in NOT_PICTURES and not path.name.startswith(".")
    ]
    return [name for _, name in sorted(found, reverse=True)]


def take_from_folder(owner: AbstractBaseUser, names: Sequence[str]) -> list[Picture]:
    """Pictures that lie in the allowed folder; nothing outside it can be reached. Raises InvalidInput."""
    root = Path(settings.WIDE_DUSK_PICTURE_FOLDER).resolve() if settings.WIDE_DUSK_PICTURE_FOLDER else None
    rows = []
    for name in names:
        path = (root / name).resolve() if root else None
        if root is None or path is None or not path.is_relative_to(root) or not path.is_file():
            raise InvalidInput([Fault("names", name, f"There is no picture “{name}” in the folder; choose one from the list.")])
        rows.append(_row(owner, path, path.name, from_folder=True))
    return rows


def let_go(row: Picture) -> None:
    """Delete the file of a picture that was uploaded. What was measured of it stays."""
    if row.file and not row.from_folder:
        Path(row.file).unlink(missing_ok=True)
        row.file, row.kept = "", False
        row.save(update_fields=("file", "kept", "updated_at"))


def let_old_files_go() -> int:
    """Uploads that nobody measured within a day, and those of pictures that were deleted an hour ago, kept or not.

    Files of the folder without a record, from a server that died in the middle of an upload, go after a day.
    """
    day_ago, hour_ago = true_now() - KEEP_FILES_FOR, true_now() - UNDO_FOR
    old = Picture.objects.filter(from_folder=False).exclude(file="").defer("preview")
    old = old.filter(Q(kept=False, created_at__lt=day_ago) | Q(deleted_at__lt=hour_ago))
    for row in old:
        let_go(row)
    known = set(Picture.objects.exclude(file="").values_list("file", flat=True))
    folder = Path(settings.WIDE_DUSK_PICTURES)
    strays = [one for one in folder.iterdir() if one.is_file()] if folder.is_dir() else []
    for path in strays:
        with contextlib.suppress(OSError):
            if str(path) not in known and path.stat().st_mtime < day_ago.timestamp():
                path.unlink()
    return len(old)


def let_old_previews_go() -> int:
    """Small views of pictures measured long ago: figures and centroids stay, the view can be made again from the picture."""
    old = Picture.objects.exclude(preview=None).filter(updated_at__lt=true_now() - KEEP_PREVIEWS_FOR)
    return old.update(preview=None)


@dataclass(frozen=True)
class PictureAsked:
    """One picture with what its header lacks or has wrong. taken: UTC, when the exposure began."""

    picture: int
    taken: datetime | None
    exposure_s: float | None
    focal_mm: float | None


@dataclass(frozen=True)
class Asked:
    task: str
    pictures: Sequence[PictureAsked]
    pole: str
    temperature_c: float
    tolerance_arcmin: float
    keep_files: bool = False
    iso: int | None = None  # where the files do not say it
    f_number: float | None = None


def middle_mjd(one: Mapping[str, Any]) -> float | None:
    """Middle of an exposure as stored with a measurement."""
    if not one.get("taken"):
        return None
    return mjd_from_datetime(datetime.fromisoformat(one["taken"])) + (one.get("exposure_s") or 0.0) / 2 * SECOND


def begin_measurement(owner: AbstractBaseUser, rig: Rig, spot: Spot, target: Target, night: date, asked: Asked) -> Measurement:
    """Store what is to be measured. Raises InvalidInput naming each picture and field that is not right."""
    checks = Checks()
    least, most = PICTURES_FOR[asked.task]
    if not least <= len(asked.pictures) <= most:
        wanted = f"{least} to {most} pictures" if most > least else "one picture" if least == 1 else f"{least} pictures"
        what = ": two flats, then two bias frames" if asked.task == "camera" else ""
        checks.fault("pictures", len(asked.pictures), f"Give {wanted} for this{what}.")
    rows = pictures_of(owner).in_bulk([one.picture for one in asked.pictures])
    seen: dict[str, str] = {}
    for place, one in enumerate(asked.pictures):
        row = rows.get(one.picture)
        at = f"pictures.{place}"
        if row is None:
            checks.fault(f"{at}.picture", one.picture, "This picture is not here; bring it again.")
            continue
        if not row.file or not Path(row.file).is_file():
            checks.fault(f"{at}.picture", row.name, f"The file of “{row.name}” was let go after measuring; bring it again.")
        if row.digest in seen:
            checks.fault(
                f"{at}.picture",
                row.name,
                f"“{row.name}” is the same file as “{seen[row.digest]}”: give {ANOTHER.get(asked.task, ANOTHER['axis'])}.",
            )
        seen[row.digest] = row.name
        if one.taken is None and asked.task in {"axis", "series"}:
            checks.fault(f"{at}.taken", None, f"“{row.name}” does not say when it was taken; type date and time.")
        if one.taken is not None and one.taken > now() + timedelta(minutes=15):
            checks.fault(
                f"{at}.taken",
                one.taken.isoformat(),
                f"By its clock “{row.name}” is yet to be taken ({one.taken:%Y-%m-%d %H:%M} UTC). "
                "The camera's clock or its time zone is off.",
            )
        if one.exposure_s is not None:
            checks.within(f"{at}.exposure_s", one.exposure_s, 1e-4, 3600, "s")
        if one.focal_mm is not None:
            checks.within(f"{at}.focal_mm", one.focal_mm, 5, 2000, "mm")
    checks.within("temperature_c", asked.temperature_c, -60, 50, "°C")
    if asked.iso is not None:
        checks.within("iso", asked.iso, 1, 1_000_000)
    if asked.f_number is not None:
        checks.within("f_number", asked.f_number, 0.7, 64)
    checks.done()
    return Measurement.objects.create(
        owner_id=owner.pk,
        task=asked.task,
        rig=rig,
        spot=spot,
        target=target,
        night=night,
        asked={
            "pictures": [{**asdict(one), "taken": one.taken.isoformat() if one.taken else None} for one in asked.pictures],
            "pole": asked.pole,
            "temperature_c": asked.temperature_c,
            "tolerance_arcmin": asked.tolerance_arcmin,
            "keep_files": asked.keep_files,
            "iso": asked.iso,
            "f_number": asked.f_number,
        },
    )


def worker_is_heard() -> bool:
    """Whether anybody is there to take up what waits."""
    return ProcrastinateWorker.objects.filter(last_heartbeat__gt=true_now() - DEAD_AFTER).exists()


def is_silent(row: Measurement, heard: Callable[[], bool] = worker_is_heard) -> bool:
    """Whether work that should go on has not been heard of: its worker is gone, or none runs. Waiting one's turn is no silence."""
    if row.state == "running":
        return row.beat_at is None or true_now() - row.beat_at > DEAD_AFTER
    return row.state == "waiting" and true_now() - row.created_at > DEAD_AFTER and not heard()


class Superseded(Exception):
    """Another run is at this measurement: what this one has to say is not wanted any more."""


@transaction.atomic
def claim(measurement: int) -> Measurement | None:
    """Take a measurement up for one run. None when it is over, or when somebody is at it who has been heard lately."""
    row = Measurement.objects.select_for_update().filter(pk=measurement).first()
    if row is None or row.state not in {"waiting", "running"} or (row.state == "running" and not is_silent(row)):
        return None
    row.state, row.beat_at, row.claim = "running", true_now(), uuid.uuid4()
    row.save(update_fields=("state", "beat_at", "claim"))
    return row


def beat(row: Measurement, **changes: Any) -> bool:
    """A sign of life of the run that claimed it, with what changed. True when the person wants it stopped. Raises Superseded."""
    own = Measurement.objects.filter(pk=row.pk, claim=row.claim, state="running")
    if not own.update(beat_at=true_now(), **changes):
        raise Superseded
    return own.filter(cancel_wanted=True).exists()


@transaction.atomic
def finish(row: Measurement, state: str, **changes: Any) -> None:
    """The last word of the run that claimed it. Raises Superseded; then nothing is written, nor what the caller wrote with it."""
    told = {"state": state, "finished_at": true_now(), "doing": "", **changes}
    if not Measurement.objects.filter(pk=row.pk, claim=row.claim, state="running").update(**told):
        raise Superseded
    for name, value in told.items():
        setattr(row, name, value)


def left_lying() -> QuerySet[Measurement]:
    """Work that nobody is at and no job will come to: its worker or the database went down, or its job was never put in line."""
    over = ("succeeded", "failed", "cancelled", "aborted")
    coming = ProcrastinateJob.objects.filter(pk=OuterRef("job")).exclude(status__in=over)
    in_line = coming.exclude(status="doing")  # of a run that fell silent the job may be so marked for ever
    silent = Q(state="running") & (Q(beat_at=None) | Q(beat_at__lt=true_now() - DEAD_AFTER)) & ~Exists(in_line)
    unasked = Q(state="waiting", created_at__lt=true_now() - DEAD_AFTER) & ~Exists(coming)
    return Measurement.objects.filter(silent | unasked)


STOOD = ("method", "worst_arcmin", *PLACE)


def _axis(method: str, worst: float | None, *place: float) -> Axis:
    return AxisError(*place) if worst is None else UsualAxis(method, worst)


def axis_of(row: Alignment) -> Axis:
    """The alignment as the core knows it."""
    return _axis(*(getattr(row, name) for name in STOOD))


def latest_axis(user: AbstractBaseUser, rig: int, spot: int, night: date) -> Axis | None:
    """How the axis of a rig stood last at a spot and night, by their ids."""
    found = Alignment.objects.of(user).filter(rig_id=rig, spot_id=spot, night=night).values_list(*STOOD).first()
    return _axis(*found) if found else None


@transaction.atomic
def keep_alignment(
    owner: AbstractBaseUser,
    rig: Rig,
    spot: Spot,
    night: date,
    method: str,
    axis: Axis,
    touched: str = "",
    measurement: Measurement | None = None,
) -> Alignment:
    """Store where the axis stood."""
    at = now()
    core: CoreSpot = spot_of(spot)
    return Alignment.objects.create(
        owner_id=owner.pk,
        name=f"{method}, {at.astimezone(core.zone):%H:%M}",
        rig=rig,
        spot=spot,
        night=night,
        method=method,
        measured_at=at,
        **({"worst_arcmin": axis.worst_arcmin} if isinstance(axis, UsualAxis) else asdict(axis)),
        touched=touched.strip()[:300],
        measurement=measurement,
    )

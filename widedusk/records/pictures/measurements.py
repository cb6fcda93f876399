"""Keeping measurements: what is asked of pictures."""

from collections.abc import Mapping, Sequence
from dataclasses import asdict, dataclass
from datetime import date, datetime, timedelta
from typing import Any

from django.contrib.auth.models import AbstractBaseUser
from django.db.models import Prefetch, QuerySet

from widedusk.core.errors import Checks
from widedusk.core.sky.time import SECOND, day_words, mjd_from_datetime
from widedusk.records.clock import now
from widedusk.records.grounds.models import Spot
from widedusk.records.kit.models import Placement, Rig
from widedusk.records.pictures.models import Measurement, Picture
from widedusk.records.pictures.pictures import is_here, pictures_of
from widedusk.records.targets.models import Target

MOST_PICTURES = 40  # in one measurement
PICTURES_FOR = {
    "axis": (2, MOST_PICTURES),
    "series": (3, MOST_PICTURES),
    "pointing": (1, 1),
    "trial": (1, 1),
    "camera": (4, 4),
    "lens": (1, 8),
}
ANOTHER = {
    "lens": "one taken at another stop, or again at the same",
    "axis": "the one taken after turning the axis",
    "camera": "two flats and two bias frames, each a frame of its own",
}


def measurements_of(user: AbstractBaseUser) -> QuerySet[Measurement]:
    """This person's measurements, the latest first."""
    placed = Prefetch("rig__placements", Placement.objects.select_related("part", "fed_by"))
    return Measurement.objects.filter(owner_id=user.pk).select_related("rig", "spot__place", "target").prefetch_related(placed)


@dataclass(frozen=True)
class PictureAsked:
    """One picture with what its header lacks or has wrong. taken: UTC, when the exposure began."""

    picture: int
    taken: datetime | None
    exposure_s: float | None
    focal_mm: float | None
    f_number: float | None = None
    stopped_by: str = ""  # of a lens: open, iris or ring


@dataclass(frozen=True)
class Asked:
    task: str
    pictures: Sequence[PictureAsked]
    pole: str
    temperature_c: float
    tolerance_arcmin: float
    keep_files: bool = False
    clock_checked: bool = False  # the camera's clock was compared with a true one
    expected_arcmin: float | None = None  # how far off the person expects the axis
    iso: int | None = None  # where the files do not say it
    f_number: float | None = None
    aim: tuple[float, float] | None = None  # ICRS degrees: the target, or the middle of the framing chosen with it


def middle_mjd(one: Mapping[str, Any]) -> float | None:
    """Middle of an exposure as stored with a measurement."""
    if not one.get("taken"):
        return None
    return mjd_from_datetime(datetime.fromisoformat(one["taken"])) + (one.get("exposure_s") or 0.0) / 2 * SECOND


def _check_shot(checks: Checks, at: str, name: str, one: PictureAsked, task: str) -> None:
    if one.taken is None and task in {"axis", "series"}:
        checks.fault(f"{at}.taken", None, f"“{name}” does not say when it was taken; type date and time.")
    if one.taken is not None and one.taken > now() + timedelta(minutes=15):
        checks.fault(
            f"{at}.taken",
            one.taken.isoformat(),
            f"By its clock “{name}” is yet to be taken ({day_words(one.taken)}, {one.taken:%H:%M} UTC). "
            "The camera's clock or its time zone is off.",
        )
    if one.exposure_s is not None:
        checks.within(f"{at}.exposure_s", one.exposure_s, 1e-4, 3600, "s")
    if one.focal_mm is not None:
        checks.within(f"{at}.focal_mm", one.focal_mm, 5, 2000, "mm")
    if task == "lens" and one.f_number is None:
        checks.fault(f"{at}.f_number", None, f"“{name}” does not say its f-number; type it.")
    elif one.f_number is not None:
        checks.within(f"{at}.f_number", one.f_number, 0.7, 64)


def needs_our_folder(row: Measurement) -> bool:
    """Whether some of its pictures lie in the server's own folder, which no worker elsewhere sees."""
    asked = [one["picture"] for one in row.asked.get("pictures", ())]
    return Picture.objects.filter(pk__in=asked, from_folder=True).exists()


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
        if not is_here(row):
            checks.fault(f"{at}.picture", row.name, f"The file of “{row.name}” was let go after measuring; bring it again.")
        if row.digest in seen:
            checks.fault(
                f"{at}.picture",
                row.name,
                f"“{row.name}” is the same file as “{seen[row.digest]}”: give {ANOTHER.get(asked.task, ANOTHER['axis'])}.",
            )
        seen[row.digest] = row.name
        _check_shot(checks, at, row.name, one, asked.task)
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
            "clock_checked": asked.clock_checked,
            "expected_arcmin": asked.expected_arcmin,
            "iso": asked.iso,
            "f_number": asked.f_number,
            "aim": asked.aim,
        },
    )

"""Measure pictures: name their stars one after the other, then say what they tell."""

import time
from collections.abc import Callable
from dataclasses import asdict, replace
from functools import partial
from itertools import islice
from pathlib import Path
from typing import Any, TypeVar

from django.conf import settings
from django.db import transaction

from widedusk.apart import readers
from widedusk.apart.process import apart, bounds_of_picture, load_beforehand
from widedusk.core.errors import Fault, InvalidInput
from widedusk.core.frames.attitude import Air
from widedusk.core.frames.measure import Measured
from widedusk.core.frames.photon_transfer import photon_transfer
from widedusk.core.frames.pointing import pointing
from widedusk.core.frames.stars import MOST_STARS
from widedusk.core.pole.axis import AxisError
from widedusk.core.pole.photographs import CLOCK_CHECKED_S, CLOCK_UNCHECKED_S, Exposed, axis_from_pictures
from widedusk.core.pole.series import axis_from_series
from widedusk.records.grounds.services import spot_of
from widedusk.records.kit.services import rig_of
from widedusk.records.pictures.measurements import middle_mjd
from widedusk.records.pictures.models import Measurement, Picture
from widedusk.records.pictures.pictures import let_go, opened
from widedusk.records.pole.models import Alignment
from widedusk.records.pole.services import keep_alignment
from widedusk.records.work import Cancelled, beat, claim, finish, to_its_end

T = TypeVar("T")
METHODS = {"axis": "Two photographs", "series": "Run of pictures"}
SHARE_OF_PICTURES = 0.95
BEAT_S = 1.0
OURS = "The measuring itself failed, which is our fault and is written down in the log. Try it once more, or give the JPEGs."
load_beforehand(["widedusk.apart.loaded_for_measuring"])


def _teller(row: Measurement, place: int, total: int) -> Callable[[float, str], None]:
    """Writes how far one picture is, and stops the work when that is wanted. A share below zero is a mere sign of life."""
    last = 0.0

    def tell(share: float, doing: str) -> None:
        nonlocal last
        if share < 0:
            if time.monotonic() - last < BEAT_S:
                return
            wanted_no_more = beat(row)
        else:
            label = f"picture {place + 1} of {total}: {doing}" if total > 1 and place < total else doing
            wanted_no_more = beat(row, share=(place + share) / total * SHARE_OF_PICTURES, doing=label[:120])
        last = time.monotonic()
        if wanted_no_more:
            raise Cancelled

    return tell


def _keep_picture(picture: Picture, one: Measured) -> dict[str, Any]:
    found = pointing(one.matched, one.found.width_px, one.found.height_px, one.binning)
    width_px, ratio = one.star
    picture.solution = {
        "pointing": asdict(found),
        "fwhm_px": round(width_px, 2),
        "axis_ratio": round(ratio, 3),
        "sources": one.found.count,
        "background_percent": round(100 * one.found.background / one.clip, 2),
        "focal_px": one.matched.focal_px * one.binning,
        "bend_percent": round(100 * one.matched.bend, 3),
        "centroids": [
            [round(float(x) * one.binning, 2), round(float(y) * one.binning, 2), float(f"{light:.4g}")]
            for x, y, light in islice(zip(one.found.x, one.found.y, one.found.light, strict=True), MOST_STARS)
        ],
    }
    picture.preview = one.preview
    picture.save(update_fields=("solution", "preview", "updated_at"))
    return picture.solution


def _camera(row: Measurement, pictures: dict[int, Picture]) -> dict[str, Any]:
    """Two flats and two bias frames of one ISO."""
    frames = []
    for place, one in enumerate(row.asked["pictures"]):
        picture = _here(pictures, place, one)
        tell = _teller(row, place, len(row.asked["pictures"]))
        tell(0.0, f"reading {picture.name}"[:80])
        frames.append(replace(_read(place, picture, readers.sensor_frame, tell), name=picture.name))
    found = photon_transfer(frames[:2], frames[2:])
    iso = row.asked.get("iso") or next((frame.iso for frame in frames if frame.iso), None)
    return {"transfer": asdict(found), "iso": iso, "pictures": []}


def _lens(row: Measurement, pictures: dict[int, Picture]) -> dict[str, Any]:
    """Pictures of stars at one stop or more; how good they are is judged when it is asked, by the limits of that moment."""
    rig, stops = rig_of(row.rig), []
    asked = row.asked["pictures"]
    for place, one in enumerate(asked):
        picture = _here(pictures, place, one)
        tell = _teller(row, place, len(asked))
        seen = _read(place, picture, readers.lens_picture, tell)
        stops.append({"name": picture.name, "f_number": one["f_number"], "by": one["stopped_by"] or "iris", "picture": seen.kept()})
    return {"lens": rig.lens.name, "focal_mm": rig.lens.focal_mm, "stops": stops, "pictures": []}


def _here(pictures: dict[int, Picture], place: int, asked: dict[str, Any]) -> Picture:
    picture = pictures.get(asked["picture"])
    if picture is None or not picture.file:
        raise InvalidInput([Fault("pictures", place, "A picture is not here any more; bring it again.")])
    return picture


def _read(place: int, picture: Picture, reader: Callable[..., T], tell: Callable[[float, str], None], *given: Any) -> T:
    """Read a picture apart; what is wrong with it is told by the name the person knows, not by that under which it lies here."""
    stored = Path(picture.file).name
    try:
        with opened(picture) as path:
            stored = path.name
            return apart(reader, path, *given, bounds=bounds_of_picture(picture.size_bytes), tell=tell)
    except FileNotFoundError:
        raise InvalidInput(
            [Fault(f"pictures.{place}", picture.name, f"“{picture.name}” is not here any more; bring it again.")]
        ) from None
    except InvalidInput as refused:
        faults = [Fault(f"pictures.{place}", picture.name, fault.message.replace(stored, picture.name)) for fault in refused.faults]
        raise InvalidInput(faults) from refused


def _work(row: Measurement) -> dict[str, Any]:
    rig, spot = rig_of(row.rig), spot_of(row.spot)
    asked = row.asked["pictures"]
    pictures = Picture.objects.filter(owner_id=row.owner_id).defer("preview").in_bulk([one["picture"] for one in asked])
    if row.task == "camera":
        return _camera(row, pictures)
    if row.task == "lens":
        return _lens(row, pictures)
    light = row.task == "trial"
    sensor_mm = max(rig.camera.width_mm, rig.camera.height_mm)
    exposed, told = [], []
    for place, one in enumerate(asked):
        picture = _here(pictures, place, one)
        tell = _teller(row, place, len(asked))
        focal = one.get("focal_mm")
        measured = _read(place, picture, readers.measured, tell, Path(settings.WIDE_DUSK_PATTERNS), sensor_mm, focal, light)
        mjd = middle_mjd(one)
        solution = _keep_picture(picture, measured)
        told.append(
            {"picture": picture.pk, "name": picture.name, **{key: solution[key] for key in ("pointing", "fwhm_px", "axis_ratio")}}
        )
        if mjd is not None:
            exposed.append(Exposed(picture.name, measured.matched, mjd, measured.corner_px))
    if row.task == "pointing":
        return {"pictures": told}
    if light and measured.lit is not None:
        return {"pictures": told, "lit": asdict(measured.lit)}
    _teller(row, len(asked), len(asked))(0.0, "finding the axis")
    air = Air(row.asked["temperature_c"])
    clock_s = CLOCK_CHECKED_S if row.asked.get("clock_checked") else CLOCK_UNCHECKED_S
    if row.task == "series":
        error = axis_from_series(exposed, spot.observer, row.asked["pole"], air, clock_s)
        return {"pictures": told, "error": asdict(error), "notes": [], "minutes": (exposed[-1].mjd - exposed[0].mjd) * 1440.0}
    found = axis_from_pictures(exposed, spot.observer, row.asked["pole"], air, clock_s)
    return {
        "pictures": told,
        "error": asdict(found.error),
        "notes": list(found.notes),
        "turn_deg": found.turn_deg,
        "stars": found.stars,
        "residual_arcsec": found.residual_arcsec,
    }


def _measure(row: Measurement) -> None:
    result = _work(row)
    with transaction.atomic():
        if "error" in result and not Alignment.objects.filter(measurement=row).exists():
            keep_alignment(
                row.owner, row.rig, row.spot, row.night, METHODS[row.task], AxisError(**result["error"]), measurement=row
            )
        finish(row, "done", share=1.0, result=result)


def run(measurement: int) -> None:
    """The whole work on one measurement, by the one run that claims it.

    It can be begun again from the start at any time: nothing is written but what a second run would write again.
    """
    row = claim(Measurement, measurement)
    if row is None:
        return
    row = Measurement.objects.select_related("rig", "spot__place", "target", "owner").get(pk=row.pk, claim=row.claim)
    to_its_end(row, partial(_measure, row), OURS)
    if row.state == "done":
        measured = Picture.objects.filter(owner_id=row.owner_id, pk__in=[one["picture"] for one in row.asked["pictures"]])
        if row.asked.get("keep_files"):
            measured.filter(from_folder=False).update(kept=True)
        else:
            for picture in measured.filter(kept=False).defer("preview"):
                let_go(picture)

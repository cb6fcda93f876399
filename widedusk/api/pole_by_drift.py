"""The axis from the drift of watched stars."""

from typing import Annotated, Literal

from django.http import HttpRequest
from ninja import Router, Schema
from pydantic import Field

from widedusk.api.choices import ChoicesShape, Context
from widedusk.api.failures import FailureOut
from widedusk.api.pole import AxisOut, Needed, axis_out
from widedusk.api.schemas import Number
from widedusk.core.kit.optics import image_scale_arcsec_px
from widedusk.core.pole.drift_method import Entry, WatchPlace, axis_error, watch_places, watched
from widedusk.records.pole.services import keep_alignment

router = Router(tags=["pole"])
DRIFT_SOURCE = "Drift is ds/dt + ω M × s, s as the air lifts it (Bennett 1982); weighted least squares over the stars watched"


class EntryIn(Schema):
    altitude_deg: Number
    azimuth_deg: Number
    amount: Number
    unit: Literal["px", "arcsec"] = "px"
    towards: Literal["north", "south"]
    minutes: Number


class DriftIn(Schema):
    context: Context
    choices: ChoicesShape = ChoicesShape()
    stars: Annotated[list[EntryIn], Field(max_length=12)]
    keep: bool = False  # write it into the record
    touched: Annotated[str, Field(max_length=300)] = ""


class DriftOut(Schema):
    places: list[WatchPlace]
    axis: AxisOut | None
    kept: bool


@router.post("", response={200: DriftOut, 422: FailureOut})
def drift(request: HttpRequest, data: DriftIn) -> DriftOut:
    """Where to watch stars; and, once two are noted, the axis error they tell."""
    worked = Needed(request, data.context, data.choices.core())
    scale = float(image_scale_arcsec_px(worked.rig.camera.pitch_um, worked.rig.lens.focal_mm))
    places = watch_places(worked.spot.latitude_deg, worked.need.tolerance_arcmin, scale)
    if not data.stars:
        return DriftOut(places=list(places), axis=None, kept=False)
    stars = watched([Entry(**one.dict()) for one in data.stars], scale)
    error = axis_error(worked.spot.observer, worked.choices.pole, stars)
    if data.keep:
        keep_alignment(worked.user, worked.rig_row, worked.spot_row, worked.night, "Drift", error, data.touched)
    how = f"by the drift of {len(data.stars)} stars"
    tolerance = worked.need.tolerance_arcmin
    found = axis_out(worked.rig, worked.spot, worked.choices.pole, tolerance, error, how, DRIFT_SOURCE)
    return DriftOut(places=list(places), axis=found, kept=data.keep)

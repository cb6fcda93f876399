"""How long, which ISO, how many: the exposures of one night."""

from dataclasses import replace
from datetime import date
from typing import cast

from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404
from ninja import Query, Router, Schema

from widedusk.api.choices import ChoicesShape, Context
from widedusk.api.failures import FailureOut
from widedusk.api.schemas import Number, user_of
from widedusk.api.strict_json import Written
from widedusk.api.weather import choices_with_weather
from widedusk.api.worked import IN_TURN, Worked, worked_out
from widedusk.core.choices import Tracking
from widedusk.core.errors import Checks, Fault, InvalidInput
from widedusk.core.exposure.alternatives import ApertureRow, FilterRow, IsoRow, SchoolRow
from widedusk.core.exposure.card import Card, Rung
from widedusk.core.exposure.many import Many
from widedusk.core.exposure.window import SubWindow
from widedusk.core.frames.facts import Lit
from widedusk.core.frames.pointing import Pointing
from widedusk.core.kit.parts import IsoStep, Origin
from widedusk.core.plan.exposing import Stop, exposing
from widedusk.core.plan.outlook import Supply, outlook
from widedusk.core.plan.trial import Shot, Trial, trial
from widedusk.core.verdict import Verdict
from widedusk.records.grounds.services import keep_sky, spots_of
from widedusk.records.kit.services import assembly_of, keep_iso_row, keep_rig, rigs_of
from widedusk.records.nights.runs import gathered_on
from widedusk.records.pictures.measurements import measurements_of, middle_mjd
from widedusk.records.pictures.pictures import header_of, pictures_of

router = Router(tags=["exposure"])


class ExposureQuery(ChoicesShape, Context):
    pass


class ExposureOut(Written):
    night: date
    verdicts: list[Verdict]
    window: SubWindow
    stops: list[Stop]
    at: int
    advised_s: float
    best_s: float
    f_number: float
    iso: int
    tracking: Tracking
    tracker: bool
    axis: str
    wind: str
    schools: list[SchoolRow]
    apertures: list[ApertureRow]
    isos: list[IsoRow]
    filters: list[FilterRow]
    many: Many
    ladder: list[Rung]
    card: Card
    text_gap: str
    text_start: str
    start_clock: str
    end_clock: str


@router.get("", response={200: ExposureOut, 422: FailureOut})
def work_out(request: HttpRequest, asked: Query[ExposureQuery]) -> HttpResponse:
    """The sub window, what each alternative costs, how many frames, the card and the framing ladder."""
    worked = Worked(request, asked, asked.core())
    found = choices_with_weather(worked.choices, worked.spot_row, worked.night)
    with IN_TURN:
        earlier = gathered_on(worked.user, worked.target_row, worked.rig.camera, worked.filters)
        owned = tuple(worked.filters.values())
        seen = (worked.rig, worked.spot, worked.night, worked.target, found.choices)
        answer = worked_out(exposing, *seen, worked.axis, owned, earlier, worked.assembly, found.air)
        return ExposureOut.answer({**answer.__dict__, "night": worked.night})


@router.get("/test-picture/{int:record_id}", response={200: Trial, 404: FailureOut, 422: FailureOut})
def test_picture(request: HttpRequest, record_id: int, asked: Query[ExposureQuery]) -> Trial:
    """A measured test picture against what is planned, and what to reckon with from now on."""
    row = get_object_or_404(measurements_of(user_of(request)), pk=record_id, task="trial")
    result = row.result or {}
    if "lit" not in result:
        raise InvalidInput([Fault("picture", record_id, "This picture is not measured yet; wait for it, or bring it again.")])
    worked = Worked(request, asked, asked.core())
    found = choices_with_weather(worked.choices, worked.spot_row, worked.night)
    supply = Supply(worked.assembly, found.air)
    seen = outlook(worked.rig, worked.spot, worked.night, worked.target, found.choices, worked.axis, supply)
    given, pointing = row.asked["pictures"][0], Pointing.kept(result["pictures"][0]["pointing"])
    picture = pictures_of(worked.user).filter(pk=given["picture"]).first()
    header = header_of(picture) if picture else None
    iso = row.asked.get("iso") or (header.iso if header else None)
    exposure_s = given.get("exposure_s") or (header.exposure_s if header else None)
    if iso is None or exposure_s is None:
        lacking = "iso" if iso is None else "exposure_s"
        raise InvalidInput([Fault(lacking, None, "The file does not say it; type it and measure again.")])
    f_number = row.asked.get("f_number") or (header.f_number if header else None) or seen.light.f_number
    shot = Shot(
        iso,
        exposure_s,
        f_number,
        middle_mjd(given),
        pointing.ra_deg,
        pointing.dec_deg,
        pointing.angle_deg,
        pointing.scale_arcsec_px,
        pointing.mirrored,
    )
    return trial(seen, worked.spot, shot, Lit(**result["lit"]))


class LearnIn(Schema):
    """What to reckon with from now on; what is left out stays. alignment belongs to the plan and is not kept here."""

    rig: int
    spot: int
    sky_mag: Number | None = None
    star_fwhm_px: Number | None = None
    star_origin: Origin | None = None  # where it is from; none: learned


class LearnOut(Schema):
    """What stood there before, to go back to."""

    sky_mag: float
    star_fwhm_px: float
    star_origin: Origin


@router.post("/learn", response={200: LearnOut, 422: FailureOut, 404: FailureOut})
def learn(request: HttpRequest, data: LearnIn) -> LearnOut:
    """Write a measured sky into the place and a measured width into the rig."""
    user = user_of(request)
    rig_row = get_object_or_404(rigs_of(user), pk=data.rig)
    spot_row = get_object_or_404(spots_of(user).select_related("place"), pk=data.spot)
    before = LearnOut(
        sky_mag=spot_row.place.sky_mag, star_fwhm_px=rig_row.star_fwhm_px, star_origin=cast(Origin, rig_row.star_origin)
    )
    if data.sky_mag is not None:
        keep_sky(user, spot_row.place, data.sky_mag)
    if data.star_fwhm_px is not None:
        keep_rig(
            user, replace(assembly_of(rig_row), star_fwhm_px=data.star_fwhm_px, star_origin=data.star_origin or "learned"), rig_row
        )
    return before


class IsoRowIn(Schema):
    """One row of the camera's table; without noise and well it is taken out."""

    rig: int
    iso: int
    read_noise_e: Number | None = None
    full_well_e: Number | None = None
    origin: Origin | None = None  # where it is from; none: learned


class IsoRowOut(Schema):
    """What stood at this ISO before; none where nothing did."""

    camera: str
    read_noise_e: float | None
    full_well_e: float | None
    origin: Origin


@router.post("/camera", response={200: IsoRowOut, 422: FailureOut, 404: FailureOut})
def keep_camera(request: HttpRequest, data: IsoRowIn) -> IsoRowOut:
    """Write what was measured of a camera into its table."""
    user = user_of(request)
    rig_row = get_object_or_404(rigs_of(user), pk=data.rig)
    step, checks = None, Checks()
    checks.within("iso", data.iso, 1, 1_000_000)
    if data.read_noise_e is not None and data.full_well_e is not None:
        checks.within("read_noise_e", data.read_noise_e, 0.1, 100, "e⁻")
        checks.within("full_well_e", data.full_well_e, 50, 5_000_000, "e⁻")
        step = IsoStep(data.iso, data.read_noise_e, data.full_well_e)
    checks.done()
    before, origin = keep_iso_row(user, rig_row, data.iso, step, data.origin or "learned")
    name = assembly_of(rig_row).rig().camera.name
    noise, well = (before.read_noise_e, before.full_well_e) if before else (None, None)
    return IsoRowOut(camera=name, read_noise_e=noise, full_well_e=well, origin=origin)

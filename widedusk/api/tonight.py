"""The whole night, worked out on request."""

from datetime import date, datetime

from django.http import HttpRequest, HttpResponse
from ninja import Query, Router, Schema

from widedusk.api.choices import ChoicesShape, Context
from widedusk.api.failures import FailureOut
from widedusk.api.schemas import user_of
from widedusk.api.strict_json import Written
from widedusk.api.weather import WeatherOut, choices_with_weather
from widedusk.api.worked import IN_TURN, Worked, worked_out
from widedusk.core.exposure.card import Card
from widedusk.core.night.cues import Cue
from widedusk.core.plan.better import Assumed, Better, assumed, better_numbers
from widedusk.core.plan.tonight import Strip, Tonight, tonight
from widedusk.core.pole.dial import Dial, Turning
from widedusk.core.verdict import Verdict
from widedusk.records.clock import current_evening, now
from widedusk.records.grounds.services import spots_of
from widedusk.records.habits.services import choices_of as habits_choices
from widedusk.records.habits.services import habits_of, units_of
from widedusk.records.kit.services import rigs_of
from widedusk.records.nights.runs import choices_of, plans_of
from widedusk.records.targets.models import Target
from widedusk.records.weather.nights import NightWeather

router = Router(tags=["tonight"])


class TonightQuery(ChoicesShape, Context):
    pass


class TonightOut(Written):
    night: date
    now: datetime
    verdicts: list[Verdict]
    also: list[Verdict]  # power, dew and missing parts, where they do not simply hold
    strip: Strip
    cues: list[Cue]
    dial: Dial | None
    turning: Turning | None
    setup: datetime
    setup_clock: str
    card: Card
    f_number: float
    iso: int
    time_zone: str
    start_clock: str
    end_clock: str
    weather: WeatherOut


class BetterOut(Schema):
    better: list[Better]
    assumed: list[Assumed]


@router.get("/better", response={200: BetterOut, 422: FailureOut})
def better(request: HttpRequest, asked: Query[TonightQuery]) -> BetterOut:
    """The typical values that would change the night's verdicts most, were they one's own."""
    worked = Worked(request, asked, asked.core())
    found = choices_with_weather(worked.choices, worked.spot_row, worked.night)
    by_book = worked.rig_row.star_origin == "book"
    rows = better_numbers(worked.rig, by_book, worked.spot, worked.night, worked.target, found.choices, worked.axis)
    return BetterOut(better=list(rows), assumed=list(assumed(worked.spot)))


class StartOut(Schema):
    """Where to begin: ids that exist, or none where nothing has been entered yet."""

    rig: int | None
    spot: int | None
    night: date
    target: int | None
    framing: int | None = None
    plan: int | None = None  # the plan that begins here, with the choices kept in it
    choices: ChoicesShape = ChoicesShape()


def tonight_of(worked: Worked, weather: NightWeather) -> Tonight:
    """The night as its page shows it. Raises InvalidInput naming every field that cannot be right."""
    seen = (worked.rig, worked.spot, worked.night, worked.target, weather.choices)
    units, angle = units_of(worked.user), worked.angle_deg
    return worked_out(tonight, *seen, units, weather.forecast, worked.axis, weather.air, worked.assembly, angle)


@router.get("", response={200: TonightOut, 422: FailureOut})
def work_out(request: HttpRequest, asked: Query[TonightQuery]) -> HttpResponse:
    """Five verdicts, the dusk strip, the dial and the card for one night."""
    worked = Worked(request, asked, asked.core())
    found = choices_with_weather(worked.choices, worked.spot_row, worked.night)
    with IN_TURN:
        answer = tonight_of(worked, found)
        weather = WeatherOut.of(found, worked.choices)
        return TonightOut.answer({**answer.__dict__, "night": asked.night, "now": now(), "weather": weather})


@router.get("/start", response=StartOut, exclude_defaults=True)
def where_to_begin(request: HttpRequest) -> StartOut:
    """The next planned night, else the first of everything and the night that is on or next."""
    user = user_of(request)
    today = now().date()
    plan = (
        plans_of(user)
        .filter(
            night__date__gte=today,
            rig__deleted_at=None,
            night__spot__deleted_at=None,
            night__spot__place__deleted_at=None,
            target__deleted_at=None,
        )
        .order_by("night__date", "id")
        .first()
    )
    if plan is not None:
        choices = ChoicesShape(**choices_of(plan).__dict__)
        night = plan.night
        framing = plan.framing_id if plan.framing and plan.framing.deleted_at is None else None
        start = StartOut(rig=plan.rig_id, spot=night.spot_id, night=night.date, target=plan.target_id, framing=framing)
        start.plan, start.choices = plan.pk, choices
        return start
    rig, spot, target = (
        rigs_of(user).first(),
        spots_of(user).order_by("place__name", "id").first(),
        Target.objects.of(user).first(),
    )
    evening = current_evening(spot.place.longitude_deg) if spot else today
    usual = ChoicesShape(**habits_choices(habits_of(user)).__dict__)
    return StartOut(
        choices=usual,
        rig=rig.pk if rig else None,
        spot=spot.pk if spot else None,
        night=evening,
        target=target.pk if target else None,
    )

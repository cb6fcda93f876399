"""The whole night, worked out on request."""

from datetime import date, datetime
from typing import Annotated, Literal

from django.http import HttpRequest
from ninja import Query, Router, Schema
from pydantic import Field

from widedusk.api.failures import FailureOut
from widedusk.api.schemas import Number, user_of
from widedusk.core.choices import Choices
from widedusk.core.exposure.card import Card
from widedusk.core.night.tonight import Cue, Strip, tonight
from widedusk.core.pole.dial import Dial
from widedusk.core.verdict import Verdict
from widedusk.records.clock import current_evening, now
from widedusk.records.grounds.services import spot_of, spots_of
from widedusk.records.kit.services import rig_of, rigs_of
from widedusk.records.plans.services import choices_of, parts_of_a_plan, plans_of
from widedusk.records.targets.models import Target
from widedusk.records.targets.services import target_of

router = Router(tags=["tonight"])


class ChoicesShape(Schema):
    """How this person works; each field left out stands at the house's default."""

    payload_school: Literal["sixty", "half", "full", "own"] = "sixty"
    payload_percent: Number | None = None
    darkness: Literal["astronomical", "nautical"] = "astronomical"
    min_altitude_deg: Number = 25.0
    moon_limit_mag: Number = 0.5
    pole: Literal["refracted", "true"] = "refracted"
    setup_time: Annotated[str, Field(max_length=5)] | None = None
    alignment_arcmin: Number = 5.0
    elongation_limit: Number = 1.3
    keep_percent: Number = 90.0
    noise_percent: Number = 5.0
    ceiling_percent: Number = 20.0
    f_number: Number | None = None
    sub_school: Literal["best", "sky", "tracks", "fixed"] = "best"
    fixed_sub_s: Number | None = None
    iso: int | None = None
    gap_s: Number = 2.0
    delay_s: Number = 10.0
    convention: Literal["gap", "start to start"] = "gap"
    card_gb: Number = 64.0
    darks: int = 20

    def core(self) -> Choices:
        """The checked choices. Raises InvalidInput."""
        return Choices(**self.dict(include=set(ChoicesShape.model_fields)))


class Context(Schema):
    """With what, where, when, at what."""

    rig: int
    spot: int
    night: date
    target: int


class TonightQuery(ChoicesShape, Context):
    pass


class TonightOut(Schema):
    night: date
    now: datetime
    verdicts: list[Verdict]
    strip: Strip
    cues: list[Cue]
    dial: Dial
    setup: datetime
    setup_clock: str
    card: Card
    time_zone: str
    start_clock: str
    end_clock: str


class StartOut(Schema):
    """Where to begin: ids that exist, or none where nothing has been entered yet."""

    rig: int | None
    spot: int | None
    night: date
    target: int | None
    plan: int | None = None  # the plan that begins here, with the choices kept in it
    choices: ChoicesShape = ChoicesShape()


@router.get("", response={200: TonightOut, 422: FailureOut})
def work_out(request: HttpRequest, asked: Query[TonightQuery]) -> dict[str, object]:
    """Five verdicts, the dusk strip, the dial and the card for one night."""
    rig, spot, target = parts_of_a_plan(user_of(request), asked.rig, asked.spot, asked.target)
    answer = tonight(rig_of(rig), spot_of(spot), asked.night, target_of(target), asked.core())
    return {**answer.__dict__, "night": asked.night, "now": now()}


@router.get("/start", response=StartOut, exclude_defaults=True)
def where_to_begin(request: HttpRequest) -> StartOut:
    """The next planned night, else the first of everything and the night that is on or next."""
    user = user_of(request)
    today = now().date()
    plan = (
        plans_of(user)
        .filter(
            night__gte=today, rig__deleted_at=None, spot__deleted_at=None, spot__place__deleted_at=None, target__deleted_at=None
        )
        .order_by("night", "id")
        .first()
    )
    if plan is not None:
        choices = ChoicesShape(**choices_of(plan).__dict__)
        return StartOut(rig=plan.rig_id, spot=plan.spot_id, night=plan.night, target=plan.target_id, plan=plan.pk, choices=choices)
    rig, spot, target = (
        rigs_of(user).first(),
        spots_of(user).order_by("place__name", "id").first(),
        Target.objects.of(user).first(),
    )
    evening = current_evening(spot.place.longitude_deg) if spot else today
    return StartOut(
        rig=rig.pk if rig else None, spot=spot.pk if spot else None, night=evening, target=target.pk if target else None
    )

"""What the eye should see in the polar scope."""

from datetime import date, datetime
from typing import Literal

from django.http import HttpRequest
from ninja import Query, Router, Schema

from widedusk.api.failures import FailureOut
from widedusk.api.schemas import Moment, user_of
from widedusk.core.errors import Fault, InvalidInput
from widedusk.core.night.windows import strip_span
from widedusk.core.plan.outlook import night_of
from widedusk.core.pole.scope import Scope, scope
from widedusk.core.pole.sight import pole_hidden
from widedusk.core.sky.time import mjd_from_datetime
from widedusk.records.clock import now
from widedusk.records.grounds.services import spot_of, spots_of
from widedusk.records.kit.services import rig_of, whole_rig_of

router = Router(tags=["pole"])


class ScopeQuery(Schema):
    rig: int
    spot: int
    night: date | None = None  # whose arcs are drawn, when it is the one that is on; none: six hours either way
    pole: Literal["refracted", "true"] = "refracted"
    view: Literal["upright", "inverted", "none"] | None = None  # none given: as the tracker's scope shows it
    at: Moment | None = None  # none: now


class ScopeOut(Schema):
    scope: Scope
    reticle: str
    pole_hidden: str
    now: datetime


@router.get("", response={200: ScopeOut, 422: FailureOut})
def polar_scope(request: HttpRequest, asked: Query[ScopeQuery]) -> ScopeOut:
    """What the eye should see in the polar scope, now or at a moment, and for the hours after worked."""
    user = user_of(request)
    spot_row = spots_of(user).filter(pk=asked.spot).first()
    rig_row = whole_rig_of(user, asked.rig)
    if spot_row is None or rig_row is None:
        name, value = ("spot", asked.spot) if spot_row is None else ("rig", asked.rig)
        raise InvalidInput([Fault(name, value, f"You have no {name} number {value}; choose one from the list.")])
    tracker = rig_of(rig_row).tracker
    spot = spot_of(spot_row)
    mjd = mjd_from_datetime(asked.at or now())
    span = None
    if asked.night is not None:
        night = night_of(spot, asked.night)
        first, last = (float(night.mjd[minute]) for minute in strip_span(night))
        span = (first, last) if first <= mjd <= last else None
    view = asked.view or (tracker.scope_view if tracker else "none")
    return ScopeOut(
        scope=scope(spot, mjd, view, asked.pole, span),
        reticle=tracker.reticle if tracker else "none",
        pole_hidden=pole_hidden(spot),
        now=now(),
    )

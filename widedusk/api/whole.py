"""The whole night: several rigs, targets and panels in the best order."""

from dataclasses import replace
from datetime import date
from functools import partial
from typing import Annotated

from django.conf import settings
from django.http import HttpRequest
from ninja import Query, Router, Schema
from ninja.errors import HttpError
from pydantic import Field

from widedusk.api.choices import ChoicesShape
from widedusk.api.failures import FailureOut
from widedusk.api.files import FileOut
from widedusk.api.hung_up import hung_up
from widedusk.api.nights import own_spot
from widedusk.api.schemas import Done, Id, Moment, Number, Whole, user_of
from widedusk.core.errors import Checks, Fault, InvalidInput
from widedusk.core.plan.cue_file import Reminder, write_cues
from widedusk.core.plan.schedule.compose import Held, Limits, as_kept, moved, solved, to_keep
from widedusk.core.plan.schedule.effort import GivenUp
from widedusk.core.plan.schedule.runs import runs_of
from widedusk.core.plan.schedule.sheet import Sheet, night_sheet
from widedusk.core.plan.schedule.whole import WholeNight, whole_night
from widedusk.jobs.queue import send_for_forecast
from widedusk.records.clock import now
from widedusk.records.grounds.services import spot_of
from widedusk.records.nights.composing import NightAsked, WishAsked, asked_night, kept_asked, planned_runs, runs_held
from widedusk.records.nights.models import Run
from widedusk.records.nights.nights import MOST_LANES, night_of
from widedusk.records.nights.trips import trips_of
from widedusk.records.nights.whole import forget_whole, keep_whole, scheduled

router = Router(tags=["nights"])
MOST_RUNS = 200
Clocked = Annotated[str, Field(max_length=5)]


class WishShape(Schema):
    """A target, or a framing of it with its panels."""

    target: Id
    framing: Id | None = None
    weight: Number = 1.0
    least_h: Number = 0.0  # weighted hours, or nothing


class LimitsShape(Schema):
    """Local clocks; empty for none."""

    sleep_from: Clocked = ""
    sleep_to: Clocked = ""
    awakenings: Whole = 0
    not_before: Clocked = ""
    not_after: Clocked = ""


class RunShape(Schema):
    """A run by the places of its rig and wish in the lists asked with, and the whole slots that are its own."""

    rig: int
    wish: int
    panel: int = 0
    begins_at: Moment
    ends_at: Moment
    held: bool = False
    frames: Annotated[int, Field(ge=0, le=1_000_000)] | None = None  # of a run that was kept
    change_at: Moment | None = None  # when it is framed, of a run that was kept: within its slots


class DroppedShape(Schema):
    """A panel that one rig shall not shoot, by the places in the lists asked with."""

    rig: int
    wish: int
    panel: int = 0


class PairShape(Schema):
    """A rig and a target, by their places in the lists asked with."""

    rig: int
    wish: int


class AskedShape(Schema):
    """What a night is planned from. chosen: pairs that are shot although the target is no size for that frame."""

    rigs: Annotated[list[Id], Field(max_length=MOST_LANES)]
    wishes: Annotated[list[WishShape], Field(max_length=MOST_LANES)]
    limits: LimitsShape = LimitsShape()
    dropped: Annotated[list[DroppedShape], Field(max_length=MOST_RUNS)] = Field(default_factory=list)
    choices: ChoicesShape = ChoicesShape()
    trip: Id | None = None  # whose other nights count as if they were shot
    chosen: Annotated[list[PairShape], Field(max_length=MOST_RUNS)] = Field(default_factory=list)

    def core(self) -> NightAsked:
        return NightAsked(
            self.rigs,
            [WishAsked(**one.dict()) for one in self.wishes],
            Limits(**self.limits.dict()),
            frozenset((one.rig, one.wish, one.panel) for one in self.dropped),
            self.choices.core(),
            self.trip,
            frozenset((one.rig, one.wish) for one in self.chosen),
        )


class WholeIn(AskedShape):
    """runs: as they were last; those held stay, or all of them where they are asked about as kept.

    moved: the place of the rig whose run was moved, for a quick answer."""

    spot: int
    night: date
    runs: Annotated[list[RunShape], Field(max_length=MOST_RUNS)] = Field(default_factory=list)
    moved: int | None = None
    kept: bool = False

    def core(self) -> NightAsked:
        """What is fixed or kept is planned, whatever size it is."""
        asked = super().core()
        return replace(asked, chosen=asked.chosen | {(one.rig, one.wish) for one in self.runs})


class WishTold(Schema):
    name: str
    panels: list[str]


class WholeOut(Schema):
    rigs: list[str]
    wishes: list[WishTold]
    whole: WholeNight


class TripOfNight(Schema):
    id: int
    name: str


class KeptOut(Schema):
    """What is kept of a night; nothing where none is planned. trips: those that it is part of."""

    asked: AskedShape | None
    runs: list[RunShape]
    trips: list[TripOfNight]


def _held(runs: list[RunShape], *, only_held: bool) -> list[Held]:
    chosen = (one for one in runs if one.held or not only_held)
    return [Held(one.rig, one.wish, one.panel, one.begins_at, one.ends_at, one.frames) for one in chosen]


@router.post("", response={200: WholeOut, 422: FailureOut})
def plan_whole_night(request: HttpRequest, asked: WholeIn) -> WholeOut:
    """The best order of runs around those that are held; at once and unproved for the rig whose run was moved."""
    user = user_of(request)
    spot = own_spot(user, asked.spot)
    rows = asked_night(user, spot, asked.night, asked.core(), send_for_forecast)
    composed = rows.composed()
    held = _held(asked.runs, only_held=True)
    if asked.kept:
        made, found = as_kept(composed, _held(asked.runs, only_held=False), held)
    elif asked.moved is not None and 0 <= asked.moved < len(rows.rigs):
        made, found = moved(composed, held, _held(asked.runs, only_held=False), asked.moved)
    else:
        try:
            made, found = solved(composed, held, settings.WIDE_DUSK_SEARCH_S, partial(hung_up, request))
        except GivenUp:
            raise HttpError(503, "Nobody waits for this answer any more.") from None
    return WholeOut(
        rigs=[one.name for one in rows.rigs],
        wishes=[WishTold(name=one.target.name, panels=[panel.name for panel in one.panels]) for one in made.wishes],
        whole=whole_night(made, found, spot_of(spot), asked.night),
    )


class NightQuery(Schema):
    spot: int
    night: date


@router.get("", response={200: KeptOut, 422: FailureOut}, exclude_defaults=True)
def kept_whole_night(request: HttpRequest, asked: Query[NightQuery]) -> KeptOut:
    """What was kept of a night's plan."""
    user = user_of(request)
    night = night_of(user, own_spot(user, asked.spot), asked.night)
    trips = [] if night is None else [TripOfNight(id=one.pk, name=one.name) for one in trips_of(user).filter(nights=night)]
    if night is None or not night.whole:
        return KeptOut(asked=None, runs=[], trips=trips)
    told, core = AskedShape(**night.whole), kept_asked(user, night)
    told.rigs, told.trip = list(core.rigs), core.trip
    return KeptOut(asked=told, trips=trips, runs=[_as_kept(row, held) for row, held in runs_held(user, night, core)])


def _as_kept(row: Run, held: Held) -> RunShape:
    return RunShape(
        rig=held.stand,
        wish=held.wish,
        panel=held.panel,
        begins_at=held.begins,
        ends_at=held.ends,
        held=row.plan.pinned,
        frames=held.frames,
        change_at=row.plan.change_at,
    )


@router.put("", response={200: Done, 422: FailureOut})
def keep_whole_night(request: HttpRequest, asked: WholeIn) -> Done:
    """Keep a night's plan in place of what was kept before."""
    user = user_of(request)
    spot = own_spot(user, asked.spot)
    rows = asked_night(user, spot, asked.night, asked.core(), send_for_forecast)
    checks = Checks()
    for number, one in enumerate(asked.runs):
        inside = 0 <= one.rig < len(rows.rigs) and 0 <= one.wish < len(rows.wished)
        if not inside or not 0 <= one.panel < len(rows.wished[one.wish].panels):
            checks.fault(f"runs.{number}", number, "This run is of a rig, target or panel that is not part of the night.")
            continue
        if one.ends_at <= one.begins_at:
            checks.fault(f"runs.{number}", number, "This run ends before it begins.")
            continue
    checks.done()
    made, stretches = to_keep(rows.composed(), _held(asked.runs, only_held=False), _held(asked.runs, only_held=True))
    told = AskedShape(**asked.dict(include=set(AskedShape.model_fields)))
    told_asked = told.model_dump(mode="json", exclude_defaults=True)
    runs = [scheduled(rows.rigs, rows.wished, rows.stop, one) for one in runs_of(made, stretches)]
    keep_whole(user, spot, asked.night, told_asked, runs)
    return Done()


@router.get("/cues", response={200: FileOut, 422: FailureOut})
def whole_night_cues(request: HttpRequest, asked: Query[NightQuery]) -> FileOut:
    """The runs of a kept night as a calendar file: when to change, and when each ends."""
    user = user_of(request)
    spot = own_spot(user, asked.spot)
    night = night_of(user, spot, asked.night)
    reminders = []
    for number, row in enumerate(planned_runs(user, night) if night is not None else []):
        plan = row.plan
        if plan.begins_at is None or plan.ends_at is None:
            continue
        panel = f", panel {row.panel[0] + 1}·{row.panel[1] + 1}" if row.panel else ""
        what = f"{row.target.name}{panel}, {row.rig.name if row.rig else ''}"
        reminders.append(Reminder(f"change-{row.rig_id}-{number}", f"Frame and focus: {what}", plan.change_at or plan.begins_at))
        reminders.append(Reminder(f"run-ends-{row.rig_id}-{number}", f"Ends: {what}", plan.last_frame_ends_at or plan.ends_at))
    if not reminders:
        raise InvalidInput([Fault("night", str(asked.night), "No plan is kept for this night; keep one first.")])
    place = spot.place
    content = write_cues(f"{spot}, {asked.night}", str(spot), place.latitude_deg, place.longitude_deg, reminders, now())
    return FileOut(name=f"runs-{asked.night}.ics", media="text/calendar", text=content.decode())


@router.get("/sheet", response={200: Sheet, 422: FailureOut})
def whole_night_sheet(request: HttpRequest, asked: Query[NightQuery]) -> Sheet:
    """A kept night on one sheet: cards, first steps to each frame, cues, calibration."""
    user = user_of(request)
    spot = own_spot(user, asked.spot)
    night = night_of(user, spot, asked.night)
    if night is None or not night.whole:
        raise InvalidInput([Fault("night", str(asked.night), "No plan is kept for this night; keep one first.")])
    told = kept_asked(user, night)
    rows = asked_night(user, spot, asked.night, told, send_for_forecast)
    made, stretches = to_keep(rows.composed(), [held for _, held in runs_held(user, night, told)], [])
    angles = [one.framing.angle_deg if one.framing else 0.0 for one in rows.wished]
    return night_sheet(made, runs_of(made, stretches), rows.stop.spot, asked.night, angles)


@router.delete("", response={200: Done, 422: FailureOut})
def forget_whole_night(request: HttpRequest, asked: Query[NightQuery]) -> Done:
    """Take a night's plan back."""
    user = user_of(request)
    forget_whole(user, own_spot(user, asked.spot), asked.night)
    return Done()

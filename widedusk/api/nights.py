"""One night for several targets: lanes, what suits, the spots side by side, the year, the cues."""

from datetime import date
from typing import Annotated

from django.contrib.auth.models import AbstractBaseUser
from django.http import HttpRequest
from ninja import Query, Router, Schema
from pydantic import Field

from widedusk.api.choices import ChoicesShape, Context
from widedusk.api.failures import FailureOut
from widedusk.api.files import FileOut
from widedusk.api.framing import SubjectShape
from widedusk.api.schemas import Number, Offset, user_of
from widedusk.api.targets import EntryOut
from widedusk.api.weather import choices_with_weather
from widedusk.api.worked import Worked, through_of
from widedusk.core.catalogue.catalogue import catalogue
from widedusk.core.choices import Choices
from widedusk.core.errors import Fault, InvalidInput
from widedusk.core.exposure.response import Through
from widedusk.core.framing.frame import MAX_SHARE, MIN_SHARE, Frame, sides_deg
from widedusk.core.kit.parts import Rig
from widedusk.core.night.calendar import YearCalendar, year_calendar
from widedusk.core.night.lanes import Lanes, NightSummary, fortnight, fortnight_verdict, lanes
from widedusk.core.night.panorama import Panorama, panorama
from widedusk.core.night.spots import SpotComparison, compare_spots
from widedusk.core.night.windows import night_at
from widedusk.core.plan.cue_file import Reminder, write_cues
from widedusk.core.plan.frame_over import FrameStands, frame_clear, frame_through_window, over_verdict
from widedusk.core.plan.groups import CONSIDERED, Group, as_subject, framed, groups
from widedusk.core.plan.outlook import night_of
from widedusk.core.plan.ranking import Season, Wanted, rank
from widedusk.core.plan.tonight import tonight
from widedusk.core.scene import Target as CoreTarget
from widedusk.core.verdict import Verdict
from widedusk.records.clock import now
from widedusk.records.grounds.models import Spot
from widedusk.records.grounds.services import spot_of, spots_of
from widedusk.records.kit.services import as_chosen, rigs_of
from widedusk.records.nights.nights import MOST_LANES, chosen_targets, is_chosen, keep_chosen
from widedusk.records.targets.framings import aimed, framing_angle
from widedusk.records.targets.models import Target
from widedusk.records.targets.services import targets_of

router = Router(tags=["nights"])


class SpotNightQuery(ChoicesShape):
    spot: int
    night: date


class TargetQuery(SpotNightQuery):
    target: int
    framing: int | None = None  # of that target
    rig: int | None = None  # what it is taken with: a filter bears more of the Moon


class FrameQuery(SpotNightQuery):
    target: int
    framing: int | None = None
    rig: int


class PanoramaQuery(SpotNightQuery):
    target: int | None = None  # none yet: the horizon profile can be drawn all the same
    framing: int | None = None
    rig: int | None = None


def own_spot(user: AbstractBaseUser, number: int) -> Spot:
    """This person's spot. Raises InvalidInput when there is none of that number."""
    found = spots_of(user).filter(pk=number).first()
    if found is None:
        raise InvalidInput([Fault("spot", number, f"You have no spot number {number}; choose one from the list.")])
    return found


def _own_target(user: AbstractBaseUser, number: int) -> Target:
    found = targets_of(user).filter(pk=number).first()
    if found is None:
        raise InvalidInput([Fault("target", number, f"You have no target number {number}; choose one from the list.")])
    return found


def _of_the_night(user: AbstractBaseUser, spot: Spot, asked: TargetQuery | PanoramaQuery) -> list[Target]:
    """What was chosen for the night, or stands in for it; while nothing does, the target in the context."""
    found = chosen_targets(user, spot, asked.night)
    return found or ([_own_target(user, asked.target)] if asked.target is not None else [])


def _aims(user: AbstractBaseUser, rows: list[Target], asked: TargetQuery | PanoramaQuery) -> list[CoreTarget]:
    """Each target as it is aimed at: the one in the context by the framing chosen with it."""
    return [aimed(user, row, asked.framing if row.pk == asked.target else None) for row in rows]


def _taken(user: AbstractBaseUser, asked: TargetQuery | PanoramaQuery) -> tuple[Choices, Through | None]:
    """How the targets of the night are taken, and through what."""
    choices = asked.core()
    return choices, through_of(user, asked.rig, choices)


def _frames(user: AbstractBaseUser, rows: list[Target], asked: TargetQuery, choices: Choices) -> list[Frame]:
    """The frame about each target, by the framing of the one in the context; none where no complete rig is chosen."""
    if through_of(user, asked.rig, choices) is None or asked.rig is None:
        return []
    try:
        sides = sides_deg(_rig_taken(user, asked.rig, choices))
    except InvalidInput:  # a rig that is not complete yet has no frame, and the target its window
        return []
    framings = [asked.framing if row.pk == asked.target else None for row in rows]
    aims = zip(rows, framings, _aims(user, rows, asked), strict=True)
    return [Frame(aim.ra_deg, aim.dec_deg, framing_angle(user, row, framing), *sides) for row, framing, aim in aims]


class LanesOut(Schema):
    chosen: bool  # false: those of the trip, of the nearest night out here, or the one in the context stand in
    targets: list[int]  # ids, in the order of the lanes
    lanes: Lanes


@router.get("/lanes", response={200: LanesOut, 422: FailureOut})
def night_lanes(request: HttpRequest, asked: Query[TargetQuery]) -> LanesOut:
    """Each target of the night as one lane."""
    user = user_of(request)
    spot = own_spot(user, asked.spot)
    rows = _of_the_night(user, spot, asked)
    night, (choices, through) = night_at(spot_of(spot), asked.night), _taken(user, asked)
    frames = _frames(user, rows, asked, choices)
    found = lanes(night, _aims(user, rows, asked), choices, through, [frame_clear(night, frame) for frame in frames])
    return LanesOut(chosen=is_chosen(user, spot, asked.night), targets=[row.pk for row in rows], lanes=found)


class ChosenIn(Schema):
    spot: int
    night: date
    targets: Annotated[list[int], Field(max_length=MOST_LANES)]


class ChosenOut(Schema):
    targets: list[int]


@router.put("/targets", response={200: ChosenOut, 422: FailureOut})
def choose_targets(request: HttpRequest, data: ChosenIn) -> ChosenOut:
    """Keep which targets this night at this spot is for, in order."""
    user = user_of(request)
    rows = keep_chosen(user, own_spot(user, data.spot), data.night, data.targets)
    return ChosenOut(targets=[row.pk for row in rows])


class FortnightOut(Schema):
    nights: list[NightSummary]
    verdict: Verdict


@router.get("/fortnight", response={200: FortnightOut, 422: FailureOut})
def coming_fortnight(request: HttpRequest, asked: Query[SpotNightQuery]) -> FortnightOut:
    """Darkness and Moon of fourteen nights."""
    choices = asked.core()
    nights = fortnight(spot_of(own_spot(user_of(request), asked.spot)), asked.night, choices)
    return FortnightOut(nights=list(nights), verdict=fortnight_verdict(nights, choices))


class SuitsQuery(SpotNightQuery):
    rig: int
    words: Annotated[str, Field(max_length=80)] = ""
    kinds: Annotated[list[str], Field(max_length=20)] = Field(default_factory=list)
    seasons: Annotated[list[Season], Field(max_length=4)] = Field(default_factory=list)
    smallest_percent: Annotated[Number, Field(ge=0, le=1000)] = 100 * MIN_SHARE
    largest_percent: Annotated[Number, Field(ge=0, le=10_000)] = 100 * MAX_SHARE
    limit: Annotated[int, Field(ge=1, le=100)] = 20
    offset: Offset = 0


TOGETHER_FROM_PERCENT = 2.0  # of the frame: what is smaller is no reason to frame two


class SuitOut(Schema):
    entry: EntryOut
    fills_percent: float
    usable_min: int
    highest_deg: float
    sky_mag: float
    moon_adds_mag: float
    season: Season
    worth: float
    note: str
    neighbours: list[str]
    verdict: Verdict


class SuitsOut(Schema):
    items: list[SuitOut]
    count: int
    dark_minutes: int
    frame_long_deg: float
    frame_short_deg: float
    narrow: bool


def _rig_taken(user: AbstractBaseUser, number: int, choices: Choices) -> Rig:
    """A rig through the filter chosen. Raises InvalidInput."""
    row = rigs_of(user).filter(pk=number).first()
    if row is None:
        raise InvalidInput([Fault("rig", number, f"You have no rig number {number}; choose one from the list.")])
    return as_chosen(user, row, choices.filter_name).rig()


@router.get("/suits", response={200: SuitsOut, 422: FailureOut})
def what_suits(request: HttpRequest, asked: Query[SuitsQuery]) -> SuitsOut:
    """The catalogue ranked for this rig, spot and night, a page at a time."""
    user = user_of(request)
    spot = own_spot(user, asked.spot)
    wanted = Wanted(asked.words, tuple(asked.kinds), tuple(asked.seasons), asked.smallest_percent, asked.largest_percent)
    choices = asked.core()
    taken = _rig_taken(user, asked.rig, choices)
    found = rank(catalogue(), taken, night_at(spot_of(spot), asked.night), choices, wanted, asked.offset, asked.limit)
    rows = [{**row.__dict__, "entry": EntryOut.of(row.entry), "neighbours": list(row.neighbours)} for row in found.rows]
    return SuitsOut(
        items=[SuitOut(**row) for row in rows],
        count=found.count,
        dark_minutes=found.dark_minutes,
        frame_long_deg=found.frame.long_deg,
        frame_short_deg=found.frame.short_deg,
        narrow=found.frame.narrow,
    )


class GroupOut(Schema):
    """keys: of the catalogue, the worthiest first."""

    names: list[str]
    keys: list[str]
    subjects: list[SubjectShape]
    worth: float
    usable_min: int
    margin_deg: float
    margin_percent: float
    ra_deg: float
    dec_deg: float
    angle_deg: float
    verdict: Verdict


class GroupsOut(Schema):
    items: list[GroupOut]
    count: int


@router.get("/together", response={200: GroupsOut, 422: FailureOut})
def what_fits_together(request: HttpRequest, asked: Query[SuitsQuery]) -> GroupsOut:
    """Two to four objects that one frame holds, the worthiest first, a page at a time."""
    user = user_of(request)
    spot = own_spot(user, asked.spot)
    choices = asked.core()
    taken = _rig_taken(user, asked.rig, choices)
    wanted = Wanted("", tuple(asked.kinds), tuple(asked.seasons), TOGETHER_FROM_PERCENT, 100.0)
    ranked = rank(catalogue(), taken, night_of(spot_of(spot), asked.night), choices, wanted, 0, CONSIDERED)
    found = groups(ranked.rows, taken)
    shown = found[asked.offset : asked.offset + asked.limit]
    return GroupsOut(items=[_group_out(one, taken) for one in shown], count=len(found))


def _group_out(one: Group, rig: Rig) -> GroupOut:
    composed, verdict = framed(one, rig)
    frame = composed.frame
    return GroupOut(
        names=[each.entry.target.name for each in one.members],
        keys=[each.entry.key for each in one.members],
        subjects=[SubjectShape(**as_subject(each.entry.target).__dict__) for each in one.members],
        worth=one.worth,
        usable_min=one.usable_min,
        margin_deg=composed.margin_deg,
        margin_percent=composed.margin_share * 100,
        ra_deg=frame.ra_deg,
        dec_deg=frame.dec_deg,
        angle_deg=frame.angle_deg,
        verdict=verdict,
    )


@router.get("/year", response={200: YearCalendar, 422: FailureOut})
def year(request: HttpRequest, asked: Query[TargetQuery]) -> YearCalendar:
    """Usable time of one target at one spot, night by night for a year."""
    user = user_of(request)
    target = _own_target(user, asked.target)
    return year_calendar(spot_of(own_spot(user, asked.spot)), aimed(user, target, asked.framing), asked.night, *_taken(user, asked))


class FramesOut(Schema):
    frames: list[FrameStands]
    verdict: Verdict | None  # none where there is no window


@router.get("/frame", response={200: FramesOut, 422: FailureOut})
def frame_over_ground(request: HttpRequest, asked: Query[FrameQuery]) -> FramesOut:
    """The frame as it stands over the ground when its window opens, halfway, and when it closes."""
    user = user_of(request)
    spot, choices = own_spot(user, asked.spot), asked.core()
    row = _own_target(user, asked.target)
    rig = _rig_taken(user, asked.rig, choices)
    aim = aimed(user, row, asked.framing)
    frame = Frame(aim.ra_deg, aim.dec_deg, framing_angle(user, row, asked.framing), *sides_deg(rig))
    through = Through(rig.camera, tuple(rig.filters))
    frames = frame_through_window(spot_of(spot), asked.night, aim, frame, choices, through)
    return FramesOut(frames=list(frames), verdict=over_verdict(frames))


@router.get("/panorama", response={200: Panorama, 422: FailureOut})
def turn_round(request: HttpRequest, asked: Query[PanoramaQuery]) -> Panorama:
    """What one sees turning round at a spot: horizon profile, paths, Sun, Moon, pole."""
    user = user_of(request)
    spot = own_spot(user, asked.spot)
    rows = _of_the_night(user, spot, asked)
    return panorama(night_at(spot_of(spot), asked.night), _aims(user, rows, asked), *_taken(user, asked))


class SpotsOut(Schema):
    ids: list[int]
    comparison: SpotComparison


@router.get("/spots", response={200: SpotsOut, 422: FailureOut})
def spots_side_by_side(request: HttpRequest, asked: Query[TargetQuery]) -> SpotsOut:
    """The spots of one place, and what each leaves to each target of the night."""
    user = user_of(request)
    spot = own_spot(user, asked.spot)
    rows = _of_the_night(user, spot, asked)
    beside = list(spots_of(user).filter(place=spot.place))
    stands = [spot_of(one, one.name) for one in beside]
    found = compare_spots(stands, asked.night, _aims(user, rows, asked), *_taken(user, asked))
    return SpotsOut(ids=[one.pk for one in beside], comparison=found)


class CuesQuery(ChoicesShape, Context):
    pass


@router.get("/cues", response={200: FileOut, 422: FailureOut})
def cues(request: HttpRequest, asked: Query[CuesQuery]) -> FileOut:
    """The night's cues as a calendar file."""
    worked = Worked(request, asked, asked.core())
    found = choices_with_weather(worked.choices, worked.spot_row, worked.night)
    seen = (worked.rig, worked.spot, worked.night, worked.target, found.choices)
    answer = tonight(*seen, forecast=found.forecast, axis=worked.axis, air=found.air, assembly=worked.assembly)
    reminders = [Reminder(cue.key, cue.name, cue.moment) for cue in answer.cues]
    place = worked.spot_row.place
    content = write_cues(
        f"{worked.target.name}, {worked.night}", str(worked.spot_row), place.latitude_deg, place.longitude_deg, reminders, now()
    )
    return FileOut(name=f"cues-{worked.night}.ics", media="text/calendar", text=content.decode())

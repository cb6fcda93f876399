"""From records to a night, or the nights of a trip, that the core can plan."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from datetime import date, timedelta
from typing import Any

from django.contrib.auth.models import AbstractBaseUser

from widedusk.core.choices import Choices, known_choices
from widedusk.core.errors import Checks, Fault, InvalidInput
from widedusk.core.exposure.many import Session
from widedusk.core.framing.frame import sides_deg
from widedusk.core.kit.parts import Camera
from widedusk.core.plan.schedule.compose import Composed, Held, Limits, Stop, composed
from widedusk.core.plan.schedule.worth import PanelWish, Stand, Wish
from widedusk.records.clock import now
from widedusk.records.grounds.models import Spot
from widedusk.records.grounds.services import spot_of
from widedusk.records.kit.models import Rig
from widedusk.records.kit.services import as_chosen, filters_of, whole_rig_of
from widedusk.records.nights.models import Night, Run, Trip
from widedusk.records.nights.runs import gathered_on
from widedusk.records.owned import OwnedQuerySet
from widedusk.records.pole.services import latest_axis
from widedusk.records.targets.framings import aimed, framing_of, framing_row_of
from widedusk.records.targets.models import Framing, Target
from widedusk.records.targets.services import targets_of
from widedusk.records.weather.nights import night_weather
from widedusk.records.weather.services import MOMENT_S, Send

Place = tuple[int, int] | None  # row and column of a panel; none where there is one frame
Signals = Mapping[tuple[int, int | None, Place], float]  # by target, framing and panel
ANY_SIDES_DEG = (0.1, 0.1)  # of a frame, where only the order of panels matters
MOST_PLANNED = 14  # nights of a trip at once
OVER_AFTER = timedelta(hours=36)  # from the midnight that begins a night's date: what was planned of it counts no more


@dataclass(frozen=True)
class WishAsked:
    target: int
    framing: int | None = None
    weight: float = 1.0
    least_h: float = 0.0


@dataclass(frozen=True)
class NightAsked:
    """What a night is planned from. dropped: places of rig, wish and panel; trip: whose other nights count.

    chosen: places of rig and wish that are shot although the target is no size for that frame."""

    rigs: Sequence[int]
    wishes: Sequence[WishAsked]
    limits: Limits = field(default_factory=Limits)
    dropped: frozenset[tuple[int, int, int]] = frozenset()
    choices: Choices = field(default_factory=Choices)
    trip: int | None = None
    chosen: frozenset[tuple[int, int]] = frozenset()

    @staticmethod
    def of(stored: Mapping[str, Any]) -> "NightAsked":
        """As it is stored with a night or with work on it. Raises InvalidInput should it not hold."""
        return NightAsked(
            list(stored.get("rigs", [])),
            [WishAsked(**one) for one in stored.get("wishes", [])],
            Limits(**stored.get("limits", {})),
            frozenset((one["rig"], one["wish"], one.get("panel", 0)) for one in stored.get("dropped", [])),
            known_choices(stored.get("choices", {})),
            stored.get("trip"),
            frozenset((one["rig"], one["wish"]) for one in stored.get("chosen", [])),
        )


@dataclass(frozen=True)
class Wished:
    """A wish and the records it is of. panels: where each lies in the framing."""

    wish: Wish
    target: Target
    framing: Framing | None
    panels: Sequence[Place]


@dataclass(frozen=True)
class AskedNight:
    """What was asked for, found through its owner. shot: what was shot of each wish in earlier nights."""

    rigs: Sequence[Rig]
    wished: Sequence[Wished]
    stop: Stop
    shot: Sequence[Sequence[Session]]

    @property
    def wishes(self) -> list[Wish]:
        return [one.wish for one in self.wished]

    def composed(self) -> Composed:
        """The night as the core knows it. Raises InvalidInput."""
        stop = self.stop
        where = (stop.spot, stop.evening, stop.limits, stop.air)
        return composed(stop.stands, self.wishes, *where, self.shot, stop.dropped, stop.chosen)


def rigs_asked(user: AbstractBaseUser, ids: Sequence[int]) -> list[Rig]:
    """Raises InvalidInput naming each that this person does not have."""
    checks, found = Checks(), []
    for number, one in enumerate(dict.fromkeys(ids)):
        row = whole_rig_of(user, one)
        if row is None:
            checks.fault(f"rigs.{number}", one, f"You have no rig number {one}; choose one from the list.")
        else:
            found.append(row)
    checks.done()
    if not found:
        raise InvalidInput([Fault("rigs", 0, "Choose at least one rig for the night.")])
    return found


def targets_asked(user: AbstractBaseUser, wishes: Sequence[WishAsked]) -> list[Target]:
    """Raises InvalidInput naming each that this person does not have."""
    checks, owned = Checks(), targets_of(user).in_bulk([one.target for one in wishes])
    for number, one in enumerate(wishes):
        if one.target not in owned:
            told = f"You have no target number {one.target}; choose one from the list."
            checks.fault(f"wishes.{number}.target", one.target, told)
    checks.done()
    return [owned[one.target] for one in wishes]


def stop_at(
    user: AbstractBaseUser, spot: Spot, evening: date, asked: NightAsked, rigs: Sequence[Rig], send: Send, wait_s: float = MOMENT_S
) -> Stop:
    """One evening with the rigs as they are used in its weather, and their axes as measured there. Raises InvalidInput."""
    found, stands = night_weather(asked.choices, spot, evening, send, wait_s), []
    for row in rigs:
        assembly = as_chosen(user, row, found.choices.filter_name)
        axis = latest_axis(user, row.pk, spot.pk, evening)
        stands.append(Stand(row.name, assembly.rig(), found.choices, assembly, axis))
    return Stop(stands, spot_of(spot), evening, asked.limits, found.air, (), asked.dropped, asked.chosen)


def _wished(user: AbstractBaseUser, asked: WishAsked, target: Target, stands: Sequence[Stand], elsewhere: Signals) -> Wished:
    """Panels are laid for the rig with the smallest frame, so that every rig covers them."""
    aim = aimed(user, target, asked.framing)
    row = framing_row_of(user, target, asked.framing) if asked.framing is not None else None
    framing = framing_of(row) if row is not None else None
    number = row.pk if row is not None else None
    if framing is None or framing.columns * framing.rows == 1:
        had = elsewhere.get((target.pk, number, None), 0.0)
        alone = [PanelWish("", aim.ra_deg, aim.dec_deg, had)]
        return Wished(Wish(aim, alone, asked.weight, asked.least_h, framing is not None), target, row, [None])
    sides = min((sides_deg(one.rig) for one in stands), key=lambda one: one[0] * one[1])
    kept = framing.kept(framing.panels(*sides))
    places = [(one.row, one.column) for one in kept]
    panels = [
        PanelWish(
            f"panel {one.row + 1}·{one.column + 1}",
            one.frame.ra_deg,
            one.frame.dec_deg,
            elsewhere.get((target.pk, number, place), 0.0),
        )
        for one, place in zip(kept, places, strict=True)
    ]
    return Wished(Wish(aim, panels, asked.weight, asked.least_h, framed=True), target, row, places)


def wished_of(user: AbstractBaseUser, asked: NightAsked, stands: Sequence[Stand], elsewhere: Signals) -> list[Wished]:
    """Every wish with its records. Raises InvalidInput."""
    targets = targets_asked(user, asked.wishes)
    return [_wished(user, one, target, stands, elsewhere) for one, target in zip(asked.wishes, targets, strict=True)]


def shot_of(user: AbstractBaseUser, wished: Sequence[Wished], stand: Stand) -> list[tuple[Session, ...]]:
    """What was shot of each wish in earlier nights."""
    camera, filters = stand.assembly.first(Camera) if stand.assembly else None, filters_of(user)
    return [gathered_on(user, one.target, camera, filters) if camera else () for one in wished]


def signals_elsewhere(user: AbstractBaseUser, trip: Trip, but: Sequence[date]) -> Signals:
    """What runs kept for other nights of a trip are to bring. Nights that are over count by what was noted of them."""
    nights = [one for one in trip.nights.all() if one.date not in but and not is_over(one.date)]
    runs = Run.objects.of(user).filter(night__in=nights, origin="schedule", state="planned").select_related("plan")
    found: dict[tuple[int, int | None, Place], float] = {}
    for run in runs.order_by("plan__begins_at", "id"):
        key = (run.target_id, run.framing_id, run.panel)
        found[key] = found.get(key, 0.0) + run.plan.signal
    return found


def trip_asked(user: AbstractBaseUser, number: int) -> Trip:
    """Raises InvalidInput where this person has no trip of that number."""
    found = Trip.objects.of(user).filter(pk=number).first()
    if found is None:
        raise InvalidInput([Fault("trip", number, f"You have no trip number {number}; choose one from the list, or none.")])
    return found


def asked_night(user: AbstractBaseUser, spot: Spot, evening: date, asked: NightAsked, send: Send) -> AskedNight:
    """Raises InvalidInput naming everything that cannot be."""
    rigs = rigs_asked(user, asked.rigs)
    targets_asked(user, asked.wishes)
    stop = stop_at(user, spot, evening, asked, rigs, send)
    elsewhere = signals_elsewhere(user, trip_asked(user, asked.trip), [evening]) if asked.trip is not None else {}
    wished = wished_of(user, asked, stop.stands, elsewhere)
    return AskedNight(rigs, wished, stop, shot_of(user, wished, stop.stands[0]))


def kept_asked(user: AbstractBaseUser, night: Night) -> NightAsked:
    """What a kept night was planned from, without rigs and a trip that are gone since."""
    asked = NightAsked.of(night.whole)
    there = set(Rig.objects.of(user).filter(pk__in=asked.rigs).values_list("pk", flat=True))
    of_trip = asked.trip is not None and night.trips.filter(pk=asked.trip, deleted_at=None).exists()
    found = replace(asked, rigs=[one for one in asked.rigs if one in there], trip=asked.trip if of_trip else None)
    kept = frozenset((held.stand, held.wish) for _, held in runs_held(user, night, found))  # of a size or not: it is planned
    return replace(found, chosen=found.chosen | kept)


def nights_of(trip: Trip) -> list[Night]:
    """In order."""
    return list(trip.nights.select_related("spot__place").order_by("date"))


def stops_of_trip(
    user: AbstractBaseUser, trip: Trip, asked: NightAsked, lost: Sequence[date], send: Send
) -> tuple[list[Rig], list[Wished], list[Spot], list[Stop]]:
    """The nights of a trip that are still to come and not lost, each under its own limits where it was planned, with what is fixed
    in it. Raises InvalidInput."""
    rigs = rigs_asked(user, asked.rigs)
    targets_asked(user, asked.wishes)
    nights = [one for one in nights_of(trip) if one.spot and one.date not in lost and not is_over(one.date)]
    if not nights:
        raise InvalidInput([Fault("lost", len(lost), "No night of this trip is left to be planned; take one back.")])
    if len(nights) > MOST_PLANNED:
        told = f"{len(nights)} nights are more than can be planned at once; give a trip up to {MOST_PLANNED} of them."
        raise InvalidInput([Fault("nights", len(nights), told)])
    spots = [one.spot for one in nights if one.spot]
    stops = [stop_at(user, spot, one.date, asked, rigs, send, 0.0) for one, spot in zip(nights, spots, strict=True)]
    wished = wished_of(user, asked, stops[0].stands, {})
    for place, (night, stop) in enumerate(zip(nights, stops, strict=True)):
        fixed = [held for run, held in runs_held(user, night, asked) if run.plan.pinned]
        limits = Limits(**night.whole["limits"]) if night.whole.get("limits") else asked.limits
        stops[place] = replace(stop, limits=limits, held=fixed)
    return rigs, wished, spots, stops


def planned_runs(user: AbstractBaseUser, night: Night) -> OwnedQuerySet[Run]:
    """The runs of a night's plan, begun or not, in the order in which they begin."""
    found = Run.objects.of(user).filter(night=night, origin="schedule", plan__planned=True)
    return found.select_related("rig", "target", "framing", "plan").order_by("plan__begins_at", "id")


def is_over(evening: date) -> bool:
    return evening <= (now() - OVER_AFTER).date()


def _places(framing: Framing | None) -> list[Place]:
    """Where the panels of a framing lie, in their order, which is the same through any lens."""
    found = framing_of(framing) if framing is not None else None
    if found is None or found.columns * found.rows == 1:
        return [None]
    return [(one.row, one.column) for one in found.kept(found.panels(*ANY_SIDES_DEG))]


def runs_held(user: AbstractBaseUser, night: Night, asked: NightAsked) -> list[tuple[Run, Held]]:
    """The planned runs of a night by the places of their rigs, wishes and panels, without those of which one is gone."""
    rigs, aims, found = list(dict.fromkeys(asked.rigs)), [(one.target, one.framing) for one in asked.wishes], []
    for run in planned_runs(user, night):
        aim, panel, places = (run.target_id, run.framing_id), run.panel, _places(run.framing)
        if run.rig_id not in rigs or aim not in aims or panel not in places or run.target.deleted_at is not None:
            continue
        plan = run.plan
        if plan.begins_at is None or plan.ends_at is None:
            continue
        place = (rigs.index(run.rig_id), aims.index(aim), places.index(panel))
        found.append((run, Held(*place, plan.begins_at, plan.ends_at, plan.frames)))
    return found

"""From the records of a night to the pack that is taken into the field."""

from collections.abc import Sequence

from django.contrib.auth.models import AbstractBaseUser

from widedusk.core.errors import Fault, InvalidInput
from widedusk.core.field.durations import learned_min
from widedusk.core.field.pack import Pack, field_pack
from widedusk.core.field.planned import PlanAsked, PlannedNight, of_plans, of_whole_night
from widedusk.core.plan.packing import packing
from widedusk.core.plan.schedule.compose import to_keep
from widedusk.core.plan.schedule.what_if import Replan, WhatIf
from widedusk.core.plan.schedule.worth import Stand
from widedusk.core.pole.tolerance import METHODS
from widedusk.records.clock import now
from widedusk.records.grounds.models import Spot
from widedusk.records.grounds.services import spot_of
from widedusk.records.habits.services import habits_of, units_of
from widedusk.records.kit.models import Part, Rig
from widedusk.records.kit.services import as_chosen, assembly_of, part_of
from widedusk.records.nights.composing import asked_night, kept_asked, runs_held
from widedusk.records.nights.events import ticked_before
from widedusk.records.nights.keys import key_of_run, runs_by_key
from widedusk.records.nights.models import Night, Run
from widedusk.records.nights.nights import forgotten_before
from widedusk.records.nights.runs import choices_of
from widedusk.records.pole.services import alignments_of, latest_axis
from widedusk.records.targets.framings import aimed
from widedusk.records.weather.nights import night_weather
from widedusk.records.weather.services import Send

NOTHING_PLANNED = "Nothing is planned for this night; plan a run first, on Tonight or as a whole night."
MOST_PLANS = 12  # of one night


def _whole(user: AbstractBaseUser, night: Night, spot: Spot, send: Send) -> tuple[PlannedNight, list[Rig]] | None:
    if not night.whole:
        return None
    told = kept_asked(user, night)
    held = runs_held(user, night, told)
    if not held:
        return None
    rows = asked_night(user, spot, night.date, told, send)
    made, stretches = to_keep(rows.composed(), [place for _, place in held], [])
    angles = [one.framing.angle_deg if one.framing else 0.0 for one in rows.wished]
    keys: dict[tuple[int, int, int], list[str]] = {}
    for run, place in sorted(held, key=lambda pair: pair[1].begins):
        keys.setdefault((place.stand, place.wish, place.panel), []).append(key_of_run(run.pk))
    return of_whole_night(made, stretches, rows.stop.spot, night.date, angles, keys, rows.stop.air), list(rows.rigs)


def _plans(user: AbstractBaseUser, night: Night, spot: Spot, send: Send) -> tuple[PlannedNight, list[Rig]]:
    mine = Run.objects.of(user).filter(night=night, origin="plan", target__deleted_at=None, rig__deleted_at=None)
    rows = list(mine.select_related("rig", "target", "framing", "plan").order_by("name", "id")[:MOST_PLANS])
    asked, rigs, air = [], [], None
    for row in rows:
        if row.rig is None:
            continue
        found = night_weather(choices_of(row), spot, night.date, send)
        air = air or found.air
        assembly = as_chosen(user, row.rig, found.choices.filter_name)
        axis = latest_axis(user, row.rig.pk, spot.pk, night.date)
        stand = Stand(row.rig.name, assembly.rig(), found.choices, assembly, axis)
        target = aimed(user, row.target, row.framing_id)
        angle = row.framing.angle_deg if row.framing and row.framing.deleted_at is None else 0.0
        asked.append(PlanAsked(key_of_run(row.pk), row.rig.pk, stand, target, angle))
        rigs.append(row.rig)
    if not asked:
        raise InvalidInput([Fault("night", str(night.date), NOTHING_PLANNED)])
    return of_plans(asked, spot_of(spot), night.date, air), rigs


def _ways_aligned(user: AbstractBaseUser, rigs: Sequence[Rig]) -> list[str]:
    """How each rig was aligned last; empty where nobody wrote it down."""
    keys = {one.name: one.key for one in METHODS}
    found = []
    for rig in rigs:
        last = alignments_of(user).filter(rig=rig).values_list("method", flat=True).first()
        found.append(keys.get(last or "", ""))
    return found


def pack_of(user: AbstractBaseUser, night: Night, what_ifs: Sequence[WhatIf], replans: Sequence[Replan], send: Send) -> Pack:
    """Everything that a night needs in the field. Raises InvalidInput for a night without a spot or a run."""
    spot = night.spot
    if spot is None or spot.deleted_at is not None or spot.place.deleted_at is not None:
        raise InvalidInput([Fault("night", str(night.date), "Nobody said where this night is; plan a run at a spot first.")])
    whole = _whole(user, night, spot, send)
    planned, rigs = whole or _plans(user, night, spot, send)
    names, times = forgotten_before(user, night)
    own = [part_of(row) for row in Part.objects.of(user).filter(archived_at=None)]
    assemblies = [assembly_of(rig) for rig in {rig.pk: rig for rig in rigs}.values()]
    choices = planned.stands[0].choices
    listed = packing(assemblies, own, choices, planned.air, names, times, habits_of(user).carry_limit_g, units_of(user))
    ways = _ways_aligned(user, rigs)
    learned = learned_min(ticked_before(user, night))
    first = {run.stand: run.key for run in reversed(planned.runs)}
    targets = {key: run.target_id for key, run in runs_by_key(night).items()}
    keys = [(rig.pk, way, targets.get(first.get(stand, ""))) for stand, (rig, way) in enumerate(zip(rigs, ways, strict=True))]
    records = (night.pk, spot.pk, whole is not None)
    return field_pack(planned, spot_of(spot), records, keys, listed, night.ticked, what_ifs, now(), learned, replans)

"""From the records of a night to the pack that is taken into the field."""

import re
from collections.abc import Iterable, Sequence

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
from widedusk.records.nights.models import Night, Run
from widedusk.records.nights.nights import forgotten_before
from widedusk.records.nights.runs import choices_of, plans_of
from widedusk.records.pole.services import alignments_of, latest_axis
from widedusk.records.targets.framings import aimed
from widedusk.records.targets.models import Target
from widedusk.records.weather.nights import night_weather
from widedusk.records.weather.services import Send

NOTHING_PLANNED = "Nothing is planned for this night; plan a run first, on Tonight or as a whole night."
MOST_PLANS = 12  # of one night
_PLAN = re.compile(r"plan-(\d{1,18})")
_WHOLE = re.compile(r"(\d{1,18})-(\d{1,18})\.\d{1,18}-(\d{1,6})\.(\d{1,6})")


def _whole(user: AbstractBaseUser, night: Night, spot: Spot, send: Send) -> tuple[PlannedNight, list[Rig]] | None:
    if not night.whole:
        return None
    told = kept_asked(user, night)
    held = [one for _, one in runs_held(user, night, told)]
    if not held:
        return None
    rows = asked_night(user, spot, night.date, told, send)
    made, stretches = to_keep(rows.composed(), held, [])
    angles = [one.framing.angle_deg if one.framing else 0.0 for one in rows.wished]
    names = [f"{one.target.pk}.{one.framing.pk if one.framing else 0}" for one in rows.wished]
    rigs = list(rows.rigs)
    keys = ([rig.pk for rig in rigs], names)
    return of_whole_night(made, stretches, rows.stop.spot, night.date, angles, keys, rows.stop.air), rigs


def _plans(user: AbstractBaseUser, night: Night, spot: Spot, send: Send) -> tuple[PlannedNight, list[Rig]]:
    rows: list[Run] = list(plans_of(user).filter(night=night, target__deleted_at=None, rig__deleted_at=None)[:MOST_PLANS])
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
        asked.append(PlanAsked(row.pk, row.rig.pk, stand, target, angle))
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
    keys = [(rig.pk, way, _target_of(user, first.get(stand, ""))) for stand, (rig, way) in enumerate(zip(rigs, ways, strict=True))]
    records = (night.pk, spot.pk, whole is not None)
    return field_pack(planned, spot_of(spot), records, keys, listed, night.ticked, what_ifs, now(), learned, replans)


def _target_of(user: AbstractBaseUser, key: str) -> int | None:
    """The number of the target of a run, from the key that a pack gives it."""
    if whole := _WHOLE.fullmatch(key):
        return int(whole[2])
    plan = _PLAN.fullmatch(key)
    return Run.objects.of(user).filter(pk=int(plan[1])).values_list("target_id", flat=True).first() if plan else None


def run_names(user: AbstractBaseUser, keys: Iterable[str]) -> dict[str, str]:
    """Runs as they are known here, from the keys that a pack gave them (core/field/planned.py); those of no record are left out."""
    found: dict[str, str] = {}
    rigs = dict(Rig.objects.of(user).values_list("pk", "name"))
    targets = dict(Target.objects.of(user).values_list("pk", "name"))
    for key in keys:
        plan = _PLAN.fullmatch(key)
        whole = _WHOLE.fullmatch(key)
        if plan:
            row = Run.objects.of(user).filter(pk=int(plan[1])).select_related("target", "rig").first()
            if row is not None:
                found[key] = f"{row.target.name}, {row.rig.name if row.rig else ''}".rstrip(", ")
        elif whole and int(whole[1]) in rigs and int(whole[2]) in targets:
            panel = f", panel {int(whole[3]) + 1}" if whole[3] != "0" else ""
            again = f", {whole[4]}" if whole[4] != "1" else ""
            found[key] = f"{targets[int(whole[2])]}{panel}, {rigs[int(whole[1])]}{again}"
    return found

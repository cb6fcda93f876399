"""Keeping runs: those that are planned, and what was kept of earlier ones."""

from collections.abc import Mapping, Sequence
from datetime import date
from typing import Any

from django.contrib.auth.models import AbstractBaseUser
from django.db import transaction
from django.db.models import Q
from django.db.models.functions import Coalesce

from widedusk.core.choices import Choices, known_choices, set_choices
from widedusk.core.errors import Fault, InvalidInput
from widedusk.core.exposure import many
from widedusk.core.kit.parts import Camera, Filter
from widedusk.core.kit.parts import Rig as CoreRig
from widedusk.core.runs.facts import Value
from widedusk.core.runs.matching import UNRECOGNISED
from widedusk.records.clock import true_now
from widedusk.records.grounds.models import Spot
from widedusk.records.grounds.services import spots_of
from widedusk.records.kit.models import Rig
from widedusk.records.kit.services import NO_FILTER, rig_as_it_was, snapshot_of, whole_rig_of
from widedusk.records.nights.facts import facts_from, save_facts
from widedusk.records.nights.models import Night, Run, RunPlan
from widedusk.records.nights.nights import forget_empty_nights, the_night
from widedusk.records.owned import OwnedQuerySet
from widedusk.records.targets.framings import framing_row_of
from widedusk.records.targets.models import Target

MOST_NOTED = 400  # of one target
COUNTED = ("noted", "done")  # states of what was shot
# Without exposure and f-number nothing can be added up; of frames that show something else nobody knows what they are of.
COUNTS = (
    (Q(result__kept__isnull=False) | Q(result__frames__gt=0))
    & Q(result__exposure_s__isnull=False, result__f_number__isnull=False)
    & ~Q(result__recognition__in=UNRECOGNISED)
)


def plans_of(user: AbstractBaseUser) -> OwnedQuerySet[Run]:
    """This person's plans of single runs that are still to be shot or under way, the latest night first."""
    planned = Run.objects.of(user).filter(state__in=("planned", "running"), origin="plan")
    planned = planned.select_related("rig", "night__spot__place", "target", "framing", "plan")
    return planned.order_by("-night__date", "name", "id")


def runs_of(user: AbstractBaseUser) -> OwnedQuerySet[Run]:
    """Every run of this person, by night and time, with all that is said of each."""
    found = (
        Run.objects.of(user).filter(night__deleted_at=None).select_related("rig", "target", "night__spot__place", "plan", "result")
    )
    first = Coalesce("result__begins_at", "plan__first_frame_at", "plan__begins_at")
    return found.prefetch_related("facts").order_by("night__date", first, "id")


def followed(runs: Sequence[Run]) -> list[Run]:
    """The planned runs of a night that the field goes by: those of its schedule if there is one, else the plans of single runs."""
    planned = [run for run in runs if hasattr(run, "plan") and run.plan.planned]
    return [run for run in planned if run.origin == "schedule"] or planned


def noted_of(user: AbstractBaseUser) -> OwnedQuerySet[Run]:
    """What this person shot, the earliest first: noted by hand, judged by its frames, or ended on the phone and not judged yet."""
    counted = Run.objects.of(user).filter(COUNTS, state__in=COUNTED)
    return counted.select_related("rig", "night", "target", "result")


def rig_spot_and_target(user: AbstractBaseUser, rig: int, spot: int, target: int) -> tuple[Rig, Spot, Target]:
    """The three records by id, each through its owner. Raises InvalidInput naming those that this person does not have."""
    found = (whole_rig_of(user, rig), spots_of(user).filter(pk=spot).first(), Target.objects.of(user).filter(pk=target).first())
    faults = [
        Fault(name, value, f"You have no {name} number {value}; choose one from the list.")
        for name, value, row in zip(("rig", "spot", "target"), (rig, spot, target), found, strict=True)
        if row is None
    ]
    if faults or found[0] is None or found[1] is None or found[2] is None:
        raise InvalidInput(faults)
    return found[0], found[1], found[2]


def choices_of(row: Run) -> Choices:
    return known_choices(row.plan.choices)


@transaction.atomic
def _keep(kept: Run, owner: AbstractBaseUser, spot: Spot | None, evening: date) -> Run:
    """Store a run in its night; the night it has left goes when it holds nothing else."""
    before = kept.night_id
    kept.night = the_night(owner, spot, evening)
    kept.save()
    if before not in {None, kept.night_id}:
        forget_empty_nights(Night.objects.of(owner).filter(pk=before))
    return kept


def _refuse_another_run(row: Run, records: tuple[Rig, Spot, Target], evening: date) -> None:
    """Raise InvalidInput where a run that was begun would become another one."""
    rig, spot, target = records
    now = {"rig": row.rig_id, "spot": row.night.spot_id, "target": row.target_id, "night": row.night.date}
    wanted = {"rig": rig.pk, "spot": spot.pk, "target": target.pk, "night": evening}
    told = "This run was begun already and stays what it is. Save this as another plan."
    faults = [Fault(name, str(wanted[name]), told) for name in now if now[name] != wanted[name]]
    if faults:
        raise InvalidInput(faults)


def keep_plan(
    owner: AbstractBaseUser,
    name: str,
    records: tuple[Rig, Spot, Target],
    evening: date,
    choices: Choices,
    row: Run | None = None,
    framing: int | None = None,
    expected: Mapping[str, Value] | None = None,
) -> Run:
    """Store a planned run. expected: by figure, what it comes to now. Raises InvalidInput for a missing name or one in use."""
    if not name.strip():
        raise InvalidInput([Fault("name", name, "Give the plan a name, so that you can find it again.")])
    kept = row or Run(owner_id=owner.pk, state="planned", origin="plan")
    if kept.state != "planned":
        _refuse_another_run(kept, records, evening)
    kept.name = name.strip()
    kept.rig, spot, kept.target = records
    kept.framing = None if framing is None else framing_row_of(owner, kept.target, framing)
    kept.refuse_a_second_of_its_name()
    kept = _keep(kept, owner, spot, evening)
    figures = expected or {}
    values = {"choices": set_choices(choices), "changed_at": true_now()}
    values |= {name: figures.get(name) for name in ("frames", "exposure_s")}
    values |= {"first_frame_at": figures.get("begins_at"), "last_frame_ends_at": figures.get("ends_at")}
    kept.plan, _ = RunPlan.objects.update_or_create(run=kept, defaults=values)
    return save_facts(kept, facts_from("plan", {"planned": True, **figures}))


def gathered_on(user: AbstractBaseUser, target: Target, camera: Camera, owned: Mapping[str, Filter]) -> tuple[many.Session, ...]:
    """Earlier nights of a target as the core adds them up, each with the rig that took it where that was said.

    Where it was not, the camera in use stands for it, and a filter that is no longer in the inventory for the one in use.
    """

    def through(name: str) -> tuple[Filter, ...] | None:
        return () if name == NO_FILTER else (owned[name],) if name in owned else None

    def one(row: Run) -> many.Session:
        rig, result = _as_it_was(row.snapshot), row.result
        noise = _noise(rig.camera if rig else camera, result.iso)
        kept = counted_frames(row)
        figures = (kept, result.exposure_s or 0.0, result.f_number or 0.0)
        return many.Session(row.name, *figures, noise, result.sky_mag, through(result.filter_name), rig)

    return tuple(one(row) for row in noted_of(user).filter(target=target)[:MOST_NOTED])


def counted_frames(row: Run) -> int:
    """How many frames of a run count for its target: those kept; of a run that nobody judged yet, those that were taken."""
    return (row.result.frames if row.result.kept is None else row.result.kept) or 0


def _as_it_was(snapshot: dict[str, Any]) -> CoreRig | None:
    try:
        return rig_as_it_was(snapshot) if snapshot else None
    except InvalidInput:
        return None  # a rig of then that today's bounds refuse: it counts as the one in use


def _noise(camera: Camera, iso: int | None) -> float | None:
    if iso is None:
        return None
    try:
        return camera.step(iso).read_noise_e
    except InvalidInput:
        return None


def keep_noted(
    owner: AbstractBaseUser,
    target: Target,
    evening: date,
    checked: many.Session,
    iso: int | None,
    filter_name: str,
    taken: tuple[Rig | None, Spot | None] = (None, None),
    row: Run | None = None,
) -> Run:
    """Store what was kept of a night. taken: with which rig and where, as far as it is said; a new rig is kept as it stands now.

    Raises InvalidInput when there are too many.
    """
    if row is None and noted_of(owner).filter(target=target).count() >= MOST_NOTED:
        raise InvalidInput(
            [Fault("target", target.name, f"{target.name} has {MOST_NOTED} nights already; add this one to another.")]
        )
    kept = row or Run(owner_id=owner.pk, state="noted", origin="noted")
    rig, spot = taken
    if rig is None:
        kept.snapshot = {}
    elif kept.rig_id != rig.pk or not kept.snapshot:
        kept.snapshot = snapshot_of(rig)
    kept.target, kept.rig = target, rig
    if kept.origin == "noted":
        kept.name = checked.name.strip()
    kept = _keep(kept, owner, spot, evening)
    figures = {name: getattr(checked, name) for name in ("exposure_s", "f_number", "sky_mag")}
    return save_facts(kept, facts_from("user", {"kept": checked.frames, **figures, "iso": iso, "filter_name": filter_name or None}))

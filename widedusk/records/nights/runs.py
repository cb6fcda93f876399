"""Keeping runs: those that are planned, and what was kept of earlier ones."""

from collections.abc import Mapping
from datetime import date
from typing import Any

from django.contrib.auth.models import AbstractBaseUser
from django.db import transaction

from widedusk.core.choices import Choices, known_choices, set_choices
from widedusk.core.errors import Fault, InvalidInput
from widedusk.core.exposure import many
from widedusk.core.kit.parts import Camera, Filter
from widedusk.core.kit.parts import Rig as CoreRig
from widedusk.records.grounds.models import Spot
from widedusk.records.grounds.services import spots_of
from widedusk.records.kit.models import Rig
from widedusk.records.kit.services import NO_FILTER, rig_as_it_was, snapshot_of, whole_rig_of
from widedusk.records.nights.models import Night, Run
from widedusk.records.nights.nights import forget_empty_nights, the_night
from widedusk.records.owned import OwnedQuerySet
from widedusk.records.targets.framings import framing_row_of
from widedusk.records.targets.models import Target

MOST_NOTED = 400  # of one target
COUNTED = ("noted", "done")  # what was kept: typed in by hand, or counted from frames


def plans_of(user: AbstractBaseUser) -> OwnedQuerySet[Run]:
    """This person's planned runs, the latest night first."""
    planned = (
        Run.objects.of(user)
        .filter(state="planned", scheduled=False)
        .select_related("rig", "night__spot__place", "target", "framing")
    )
    return planned.order_by("-night__date", "name", "id")


def noted_of(user: AbstractBaseUser) -> OwnedQuerySet[Run]:
    """What this person kept of earlier nights, the earliest first."""
    return Run.objects.of(user).filter(state__in=COUNTED).select_related("rig", "night", "target")


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
    return known_choices(row.choices)


@transaction.atomic
def _keep(kept: Run, owner: AbstractBaseUser, spot: Spot | None, evening: date) -> Run:
    """Store a run in its night; the night it has left goes when it holds nothing else."""
    before = kept.night_id
    kept.night = the_night(owner, spot, evening)
    kept.save()
    if before not in {None, kept.night_id}:
        forget_empty_nights(Night.objects.of(owner).filter(pk=before))
    return kept


def keep_plan(
    owner: AbstractBaseUser,
    name: str,
    records: tuple[Rig, Spot, Target],
    evening: date,
    choices: Choices,
    row: Run | None = None,
    framing: int | None = None,
) -> Run:
    """Store a planned run. Raises InvalidInput for a missing name or one in use."""
    if not name.strip():
        raise InvalidInput([Fault("name", name, "Give the plan a name, so that you can find it again.")])
    kept = row or Run(owner_id=owner.pk, state="planned")
    kept.name, kept.choices = name.strip(), set_choices(choices)
    kept.rig, spot, kept.target = records
    kept.framing = None if framing is None else framing_row_of(owner, kept.target, framing)
    kept.refuse_a_second_of_its_name()
    return _keep(kept, owner, spot, evening)


def gathered_on(user: AbstractBaseUser, target: Target, camera: Camera, owned: Mapping[str, Filter]) -> tuple[many.Session, ...]:
    """Earlier nights of a target as the core adds them up, each with the rig that took it where that was said.

    Where it was not, the camera in use stands for it, and a filter that is no longer in the inventory for the one in use.
    """

    def through(name: str) -> tuple[Filter, ...] | None:
        return () if name == NO_FILTER else (owned[name],) if name in owned else None

    def one(row: Run) -> many.Session:
        rig = _as_it_was(row.snapshot)
        noise = _noise(rig.camera if rig else camera, row.iso)
        told = (row.frames or 0, row.exposure_s or 0.0, row.f_number or 0.0)
        return many.Session(row.name, *told, noise, row.sky_mag, through(row.filter_name), rig)

    return tuple(one(row) for row in noted_of(user).filter(target=target)[:MOST_NOTED])


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
    kept = row or Run(owner_id=owner.pk, state="noted")
    rig, spot = taken
    if rig is None:
        kept.snapshot = {}
    elif kept.rig_id != rig.pk or not kept.snapshot:
        kept.snapshot = snapshot_of(rig)
    kept.target, kept.rig, kept.name = target, rig, checked.name.strip()
    kept.frames, kept.exposure_s, kept.f_number = checked.frames, checked.exposure_s, checked.f_number
    kept.iso, kept.sky_mag, kept.filter_name = iso, checked.sky_mag, filter_name
    return _keep(kept, owner, spot, evening)

"""Keeping what was gathered."""

from collections.abc import Mapping
from datetime import date

from django.contrib.auth.models import AbstractBaseUser

from widedusk.core.errors import Fault, InvalidInput
from widedusk.core.exposure import many
from widedusk.core.kit.parts import Camera, Filter
from widedusk.records.kit.services import NO_FILTER
from widedusk.records.owned import OwnedQuerySet
from widedusk.records.sessions.models import Session
from widedusk.records.targets.models import Target

MOST_SESSIONS = 400  # of one target


def sessions_of(user: AbstractBaseUser) -> OwnedQuerySet[Session]:
    """This person's nights, the earliest first."""
    return Session.objects.of(user).select_related("target")


def gathered_on(user: AbstractBaseUser, target: Target, camera: Camera, owned: Mapping[str, Filter]) -> tuple[many.Session, ...]:
    """Earlier nights of a target as the core adds them up; read noise by the ISO where this camera has it.

    A filter that is no longer in the cupboard counts as the one in hand.
    """

    def through(name: str) -> tuple[Filter, ...] | None:
        return () if name == NO_FILTER else (owned[name],) if name in owned else None

    rows = sessions_of(user).filter(target=target)[:MOST_SESSIONS]
    return tuple(
        many.Session(
            row.name, row.frames, row.exposure_s, row.f_number, _noise(camera, row.iso), row.sky_mag, through(row.filter_name)
        )
        for row in rows
    )


def _noise(camera: Camera, iso: int | None) -> float | None:
    if iso is None:
        return None
    try:
        return camera.step(iso).read_noise_e
    except InvalidInput:
        return None


def keep_session(
    owner: AbstractBaseUser,
    target: Target,
    night: date,
    checked: many.Session,
    iso: int | None,
    filter_name: str,
    row: Session | None = None,
) -> Session:
    """Store a night. Raises InvalidInput when there are too many."""
    if row is None and sessions_of(owner).filter(target=target).count() >= MOST_SESSIONS:
        raise InvalidInput(
            [Fault("target", target.name, f"{target.name} has {MOST_SESSIONS} nights already; add this one to another.")]
        )
    kept = row or Session(owner_id=owner.pk)
    kept.target, kept.night, kept.name = target, night, checked.name.strip()
    kept.frames, kept.exposure_s, kept.f_number = checked.frames, checked.exposure_s, checked.f_number
    kept.iso, kept.sky_mag, kept.filter_name = iso, checked.sky_mag, filter_name
    kept.save()
    return kept

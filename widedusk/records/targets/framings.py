"""Between the rows of a framing and the framing the core computes with."""

from dataclasses import asdict, fields

from django.contrib.auth.models import AbstractBaseUser

from widedusk.core.errors import Fault, InvalidInput
from widedusk.core.framing.frame import Subject
from widedusk.core.framing.framing import Framing as CoreFraming
from widedusk.records.owned import OwnedQuerySet
from widedusk.records.targets.models import Framing, Target

MOST_FRAMINGS = 1_000


def framings_of(user: AbstractBaseUser) -> OwnedQuerySet[Framing]:
    """This person's framings."""
    return Framing.objects.of(user)


def framing_of(row: Framing) -> CoreFraming:
    """The framing as the core knows it. Raises InvalidInput should a row not hold."""
    told = {one.name: getattr(row, one.name) for one in fields(CoreFraming)}
    dropped = tuple((int(line), int(column)) for line, column in row.dropped)
    return CoreFraming(**{**told, "dropped": dropped, "wanted": tuple(Subject(**one) for one in row.wanted)})


def keep_framing(owner: AbstractBaseUser, target: Target, framing: CoreFraming, row: Framing | None = None) -> Framing:
    """Store a checked framing of one of this person's targets. Raises InvalidInput for a name in use."""
    kept = row or Framing(owner_id=owner.pk)
    kept.target = target
    for name, value in asdict(framing).items():
        setattr(kept, name, value.strip() if isinstance(value, str) else value)
    kept.refuse_a_second_of_its_name()
    if kept.pk is None and framings_of(owner).count() >= MOST_FRAMINGS:
        raise InvalidInput([Fault("name", kept.name, f"You have {MOST_FRAMINGS:,} framings; delete some before you add more.")])
    kept.save()
    return kept

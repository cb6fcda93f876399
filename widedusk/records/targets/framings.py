"""Between the rows of a framing and the framing the core computes with."""

from dataclasses import asdict, dataclass, fields, replace
from datetime import date

from django.contrib.auth.models import AbstractBaseUser

from widedusk.core.errors import Fault, InvalidInput
from widedusk.core.framing.frame import Subject
from widedusk.core.framing.framing import Framing as CoreFraming
from widedusk.core.scene import Target as CoreTarget
from widedusk.records.owned import OwnedQuerySet
from widedusk.records.targets.models import Framing, Target
from widedusk.records.targets.services import target_of

MOST_FRAMINGS = 1_000


def framings_of(user: AbstractBaseUser) -> OwnedQuerySet[Framing]:
    """This person's framings."""
    return Framing.objects.of(user)


def framing_of(row: Framing) -> CoreFraming:
    """The framing as the core knows it. Raises InvalidInput should a row not hold."""
    told = {one.name: getattr(row, one.name) for one in fields(CoreFraming)}
    told["dropped"] = tuple((int(line), int(column)) for line, column in row.dropped)
    for name in ("wanted", "avoided"):
        told[name] = tuple(Subject(**one) for one in told[name])
    return CoreFraming(**told)


def framing_row_of(user: AbstractBaseUser, target: Target, number: int) -> Framing:
    """A framing of a target. Raises InvalidInput where this person has none of that number for it."""
    row = framings_of(user).filter(pk=number, target=target).first()
    if row is None:
        told = f"“{target.name}” has no framing number {number}; choose one from the list, or its own middle."
        raise InvalidInput([Fault("framing", number, told)])
    return row


def aimed(user: AbstractBaseUser, target: Target, framing: int | None) -> CoreTarget:
    """The target as the core knows it, standing where a framing of it has its middle. Raises InvalidInput."""
    found = target_of(target)
    if framing is None:
        return found
    row = framing_row_of(user, target, framing)
    return replace(found, ra_deg=row.ra_deg, dec_deg=row.dec_deg)


def framing_angle(user: AbstractBaseUser, target: Target, framing: int | None) -> float:
    """Position angle of the frame in degrees; 0 where no framing is chosen. Raises InvalidInput."""
    return 0.0 if framing is None else float(framing_row_of(user, target, framing).angle_deg)


@dataclass(frozen=True)
class Arrived:
    """Where a test picture of a rig last stood on a framing, ICRS degrees, and in which night."""

    night: date
    ra_deg: float
    dec_deg: float
    angle_deg: float


def arrived_of(row: Framing, rig: int) -> Arrived | None:
    """The last time this rig stood on the framing."""
    told = row.arrived.get(str(rig))
    return Arrived(date.fromisoformat(told["night"]), told["ra_deg"], told["dec_deg"], told["angle_deg"]) if told else None


def note_arrived(row: Framing, rig: int, arrived: Arrived) -> None:
    """Remember it. What a person keeps of the framing is not touched, and nor is its version."""
    row.arrived = {**row.arrived, str(rig): {**asdict(arrived), "night": arrived.night.isoformat()}}
    Framing.objects.filter(pk=row.pk).update(arrived=row.arrived)


def free_name(owner: AbstractBaseUser, name: str) -> str:
    """A name no framing of this person has: the one given, or with a number."""
    taken = set(framings_of(owner).values_list("name", flat=True))
    found, number = name.strip(), 2
    while found in taken:
        found, number = f"{name.strip()[:110]} ({number})", number + 1
    return found


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

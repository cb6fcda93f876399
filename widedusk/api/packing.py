"""The packing list of one night out."""

from datetime import date
from typing import Annotated

from django.contrib.auth.models import AbstractBaseUser
from django.http import HttpRequest
from ninja import Query, Router, Schema
from pydantic import Field

from widedusk.api.choices import ChoicesShape
from widedusk.api.failures import FailureOut
from widedusk.api.nights import own_spot
from widedusk.api.schemas import user_of
from widedusk.api.weather import choices_with_weather
from widedusk.core.errors import Fault, InvalidInput
from widedusk.core.plan.packing import Packing, key_of, packing
from widedusk.records.grounds.models import Spot
from widedusk.records.habits.services import habits_of, units_of
from widedusk.records.kit.models import Part, Rig
from widedusk.records.kit.services import assembly_of, part_of, rigs_of
from widedusk.records.nights.models import Night
from widedusk.records.nights.nights import MOST_ITEMS, forgotten_before, keep_packing, night_of

router = Router(tags=["packing"])
Key = Annotated[str, Field(max_length=140)]


class SpotNight(Schema):
    spot: int
    night: date


class PackingQuery(ChoicesShape, SpotNight):
    rigs: Annotated[list[int], Field(max_length=6)] = Field(default_factory=list)


class PackingOut(Schema):
    packing: Packing
    rigs: list[int]
    ticked: list[str]
    forgotten: list[str]  # in this night, keys


class PackingIn(SpotNight):
    rigs: Annotated[list[int], Field(max_length=6)]
    ticked: Annotated[list[Key], Field(max_length=MOST_ITEMS)]
    forgotten: Annotated[list[Key], Field(max_length=MOST_ITEMS)]  # names as they stand on the list


def _rigs(user: AbstractBaseUser, numbers: list[int]) -> list[Rig]:
    found = {row.pk: row for row in rigs_of(user).filter(pk__in=numbers)}
    missing = [number for number in numbers if number not in found]
    if missing:
        raise InvalidInput([Fault("rigs", missing[0], f"You have no rig number {missing[0]}; choose one from the list.")])
    return [found[number] for number in dict.fromkeys(numbers)]


def _answer(user: AbstractBaseUser, asked: PackingQuery, spot: Spot, night: Night | None, rigs: list[Rig]) -> PackingOut:
    names, times = forgotten_before(user, night)
    own = [part_of(row) for row in Part.objects.of(user).filter(archived_at=None)]
    weather, limit = choices_with_weather(asked.core(), spot, asked.night), habits_of(user).carry_limit_g
    assemblies = [assembly_of(rig) for rig in rigs]
    found = packing(assemblies, own, weather.choices, weather.air, names, times, limit, units_of(user))
    return PackingOut(
        packing=found,
        rigs=[rig.pk for rig in rigs],
        ticked=night.ticked if night else [],
        forgotten=sorted(night.forgotten) if night else [],
    )


@router.get("", response={200: PackingOut, 422: FailureOut})
def packing_list(request: HttpRequest, asked: Query[PackingQuery]) -> PackingOut:
    """What to pack for these rigs, that spot and that night; the ticks set before. Without rigs, those packed before."""
    user = user_of(request)
    spot = own_spot(user, asked.spot)
    night = night_of(user, spot, asked.night)
    numbers = asked.rigs or ([rig.pk for rig in night.rigs.all() if rig.deleted_at is None] if night else [])
    return _answer(user, asked, spot, night, _rigs(user, numbers))


class Kept(Schema):
    ticked: list[str]
    forgotten: list[str]
    rigs: list[int]


@router.put("", response={200: Kept, 422: FailureOut})
def store_packing(request: HttpRequest, data: PackingIn) -> Kept:
    """Keep ticks, and what was found missing out there; that is asked for every night after."""
    user = user_of(request)
    rigs = _rigs(user, data.rigs)
    memories = {key_of(name): name for name in data.forgotten}
    night = keep_packing(user, own_spot(user, data.spot), data.night, rigs, data.ticked, memories)
    return Kept(ticked=night.ticked, forgotten=sorted(night.forgotten), rigs=[rig.pk for rig in rigs])

"""Reading and keeping habits."""

from typing import cast

from django.contrib.auth.models import AbstractBaseUser

from widedusk.core.choices import OF_ONE_NIGHT, Choices, known_choices, set_choices
from widedusk.core.errors import Checks
from widedusk.core.kit.units import LengthUnit, MassUnit, Units
from widedusk.records.habits.models import Habits

LEAST_CARRY_G, MOST_CARRY_G = 1_000.0, 60_000.0


def habits_of(user: AbstractBaseUser) -> Habits:
    """This person's habits; those of the house where none were kept."""
    return Habits.objects.filter(owner_id=user.pk).first() or Habits(owner_id=user.pk)


def units_of(user: AbstractBaseUser) -> Units:
    """What this person reads masses and lengths in."""
    row = habits_of(user)
    return Units(cast(MassUnit, row.mass_unit), cast(LengthUnit, row.length_unit))


def choices_of(row: Habits) -> Choices:
    return known_choices(row.choices)


def keep_units(user: AbstractBaseUser, units: Units, carry_limit_g: float) -> Habits:
    """Raises InvalidInput for a load nobody carries."""
    checks = Checks()
    checks.within("carry_limit", carry_limit_g, LEAST_CARRY_G, MOST_CARRY_G, "g")
    checks.done()
    Habits.objects.update_or_create(
        owner_id=user.pk, defaults={"mass_unit": units.mass, "length_unit": units.length, "carry_limit_g": carry_limit_g}
    )
    return habits_of(user)


def keep_schools(user: AbstractBaseUser, choices: Choices) -> Habits:
    """Remember how this person works; what belongs to one night is left out."""
    lasting = {name: value for name, value in set_choices(choices).items() if name not in OF_ONE_NIGHT}
    Habits.objects.update_or_create(owner_id=user.pk, defaults={"choices": lasting})
    return habits_of(user)

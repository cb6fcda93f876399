"""Masses and lengths as people write and read them. Inside the core they are grams and millimetres."""

import re
from dataclasses import dataclass
from typing import Literal

from widedusk.core.number_text import parse_number, with_plain_minus
from widedusk.core.verdict import Quantity

MassUnit = Literal["g", "kg", "lb"]
LengthUnit = Literal["mm", "in"]
Dimension = Literal["", "mass", "length"]

GRAMS_PER_POUND = 453.59237  # exact: international yard and pound agreement, 1959
GRAMS_PER_OUNCE = GRAMS_PER_POUND / 16.0
MM_PER_INCH = 25.4  # exact, the same agreement
# In grams and in millimetres.
_WORTH = {
    "g": 1.0,
    "kg": 1000.0,
    "lb": GRAMS_PER_POUND,
    "oz": GRAMS_PER_OUNCE,
    "mm": 1.0,
    "cm": 10.0,
    "m": 1000.0,
    "in": MM_PER_INCH,
}
_WRITTEN = {
    "mass": {"g": "g", "kg": "kg", "lb": "lb", "lbs": "lb", "oz": "oz"},
    "length": {"mm": "mm", "cm": "cm", "m": "m", "in": "in", '"': "in", "″": "in"},
}
_TERM = re.compile(r"\s*([+-]?\d+(?:[.,]\d+)?)\s*([a-z\"″]*)\s*")
G_MM_PER_KG_CM = 10_000.0


@dataclass(frozen=True)
class Units:
    """What a person reads masses and lengths in. "g" writes kilograms from one kilogram up, "lb" pounds and ounces."""

    mass: MassUnit = "g"
    length: LengthUnit = "mm"

    def unit_of(self, dimension: Dimension) -> str:
        """What a bare number typed in a field is taken as."""
        return {"mass": self.mass, "length": self.length, "": ""}[dimension]

    def read(self, text: str, dimension: Dimension) -> float:
        """Grams or millimetres of "480", "1.2 kg", "2 lb 3 oz", "2.5 in"; a bare number is in the person's own unit.

        Raises ValueError when the text is no such thing.
        """
        rest, total = with_plain_minus(text.strip().lower()), 0.0
        terms = 0
        while rest:
            found = _TERM.match(rest)
            if found is None:
                raise ValueError(text)
            unit = _WRITTEN[dimension].get(found[2] or self.unit_of(dimension))
            if unit is None or (terms and not found[2]):
                raise ValueError(text)
            total += parse_number(found[1]) * _WORTH[unit]
            rest, terms = rest[found.end() :], terms + 1
        if not terms:
            raise ValueError(text)
        return total

    def field_text(self, value: float, dimension: Dimension) -> str:
        """How a stored value stands in a form, without losing more than a hundredth of an ounce or an inch."""
        if dimension == "mass":
            if self.mass == "lb":
                return _pounds(value, 2)
            return f"{value / 1000 if self.mass == 'kg' else value:.10g}"
        return f"{value / MM_PER_INCH:.3f}".rstrip("0").rstrip(".") if self.length == "in" else f"{value:.10g}"

    def mass_words(self, grams: float) -> str:
        if self.mass == "lb":
            return _pounds(grams, 1)
        if self.mass == "g" and abs(grams) < 1000:
            return _signed(f"{grams:.0f} g")
        return _signed(f"{grams / 1000:.2f} kg")

    def length_words(self, mm: float) -> str:
        return _signed(f"{mm / MM_PER_INCH:.1f} in" if self.length == "in" else f"{mm:.0f} mm")

    def moment_words(self, g_mm: float) -> str:
        if self.mass == "lb":
            return _signed(f"{g_mm / GRAMS_PER_POUND / MM_PER_INCH:.2f} lb·in")
        return _signed(f"{g_mm / G_MM_PER_KG_CM:.2f} kg·cm")

    def mass_of(self, name: str, grams: float, symbol: str = "", working: str = "") -> Quantity:
        """A mass as a figure."""
        return Quantity(name, grams, "g", symbol, 0, self.mass_words(grams), working=working)

    def length_of(self, name: str, mm: float, symbol: str = "", working: str = "") -> Quantity:
        return Quantity(name, mm, "mm", symbol, 0, self.length_words(mm), working=working)

    def moment_of(self, name: str, g_mm: float, symbol: str = "", working: str = "") -> Quantity:
        return Quantity(name, g_mm, "g·mm", symbol, 0, self.moment_words(g_mm), working=working)


METRIC = Units()


def _signed(words: str) -> str:
    """With the minus of print, and none before a zero."""
    number = words.split(maxsplit=1)[0]
    return words.removeprefix("-") if float(number) == 0 else words.replace("-", "−")


def _pounds(grams: float, decimals: int) -> str:
    sign, ounces = ("−" if grams < 0 else ""), round(abs(grams) / GRAMS_PER_OUNCE, decimals)
    pounds, rest = divmod(ounces, 16)
    small = f"{rest:.{decimals}f}".rstrip("0").rstrip(".")
    if not pounds:
        return f"{sign}{small} oz"
    return f"{sign}{pounds:.0f} lb" + (f" {small} oz" if float(small) else "")

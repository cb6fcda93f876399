"""One way to fail: bad input names the field, the value and what would be right."""

import re
from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import TypeVar

from widedusk.core.number_text import parse_number

T = TypeVar("T")

# What no text may hold: a database cannot store NUL, UTF-8 cannot write half a surrogate pair, and the rest shows as nothing.
_UNSTORABLE = re.compile("[\x00-\x08\x0b\x0c\x0e-\x1f\x7f\ud800-\udfff\ufffe\uffff]")


def unstorable(text: str) -> str:
    """The first character of a text that cannot be kept, by its number such as U+0000; empty when all can."""
    found = _UNSTORABLE.search(text)
    return f"U+{ord(found[0]):04X}" if found else ""


def storable(text: str) -> str:
    """A text as it can be kept on one line: what cannot be stored is left out, breaks and tabs become spaces."""
    return " ".join(_UNSTORABLE.sub("", text).split())


@dataclass(frozen=True)
class Fault:
    """One wrong value. `field` is a dotted path as the caller knows it, e.g. "lens.focal_mm"."""

    field: str
    value: object
    message: str


class InvalidInput(ValueError):
    """Raised with every fault found, so that a form can show all of them at once."""

    def __init__(self, faults: list[Fault]) -> None:
        super().__init__("; ".join(f"{fault.field}: {fault.message}" for fault in faults))
        self.faults = faults


class Checks:
    """Collects faults over several values and raises them together.

    checks = Checks("lens")
    checks.within("focal_mm", focal_mm, 4, 3000, "mm")
    checks.done()
    """

    def __init__(self, prefix: str = "") -> None:
        self.prefix = f"{prefix}." if prefix else ""
        self.faults: list[Fault] = []

    def fault(self, field: str, value: object, message: str) -> None:
        self.faults.append(Fault(self.prefix + field, value, message))

    def of(self, work: Callable[[], T], prefix: str = "") -> T | None:
        """What work() returns; None when it is refused, with its faults among ours and `prefix` before their fields."""
        try:
            return work()
        except InvalidInput as caught:
            self.faults += [replace(fault, field=f"{self.prefix}{prefix}{fault.field}") for fault in caught.faults]
            return None

    def within(self, field: str, value: float, low: float, high: float, unit: str = "") -> None:
        try:
            right = low <= parse_number(value) <= high
        except ValueError:
            right = False
        if not right:
            what = f"{'' if unit in {'°', '′', '″'} else ' '}{unit}" if unit else ""
            said = f"{value:g}" if isinstance(value, float) or abs(value) < 1e15 else f"{str(value)[:15]}…"
            self.fault(field, value, f"{said}{what} cannot be right; give a value from {low:g} to {high:g}{what}.")

    def line(self, field: str, value: str, most: int = 120) -> None:
        """One line of text that can be kept."""
        if found := unstorable(value):
            self.fault(field, storable(value), f"The character {found} in it cannot be kept; take it out.")
        elif "\n" in value or "\r" in value:
            self.fault(field, storable(value), "This runs over several lines; keep it on one.")
        elif len(value) > most:
            self.fault(field, value, f"This is too long; keep it to {most} characters.")

    def named(self, field: str, value: str) -> None:
        if not value.strip():
            self.fault(field, value, "A name is needed, so that you can find it again.")
        self.line(field, value)

    def done(self) -> None:
        if self.faults:
            raise InvalidInput(self.faults)

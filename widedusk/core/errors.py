"""One way to fail: bad input names the field, the value and what would be right."""

import math
from dataclasses import dataclass


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

    def within(self, field: str, value: float, low: float, high: float, unit: str = "") -> None:
        if not (math.isfinite(value) and low <= value <= high):
            what = f"{'' if unit in {'°', '′', '″'} else ' '}{unit}" if unit else ""
            self.fault(field, value, f"{value:g}{what} cannot be right; give a value from {low:g} to {high:g}{what}.")

    def named(self, field: str, value: str) -> None:
        if not value.strip():
            self.fault(field, value, "A name is needed, so that you can find it again.")

    def done(self) -> None:
        if self.faults:
            raise InvalidInput(self.faults)

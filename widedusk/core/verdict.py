"""The one shape in which the core answers: a sentence, what decides, the numbers, the working."""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Literal

Level = Literal["go", "care", "stop"]
Mark = Literal["published", "common practice", "from memory", "definition"]


@dataclass(frozen=True)
class Quantity:
    """One number as a person reads it. `text` replaces the number where words or a clock time say it better;
    a clock time carries its instant too, so that UTC can be shown beside it."""

    name: str
    value: float | None = None
    unit: str = ""
    symbol: str = ""
    decimals: int = 1
    text: str = ""
    moment: datetime | None = None
    working: str = ""  # key of the Working that derives it; empty for what the user typed

    def __post_init__(self) -> None:
        """No figure on a page is without an end or no number: then words stand in its place."""
        if self.value is not None and not math.isfinite(self.value):
            object.__setattr__(self, "text", self.text or ("not known" if math.isnan(self.value) else "without end"))
            object.__setattr__(self, "value", None)


@dataclass(frozen=True)
class Working:
    """How one number came about: formula, inputs with units, result, and where the formula is from."""

    key: str
    title: str
    formula: str
    inputs: tuple[Quantity, ...]
    result: Quantity
    source: str
    mark: Mark
    note: str = ""


@dataclass(frozen=True)
class Limit:
    """One constraint on a choice. `binds` is true for the one that decides."""

    name: str
    kind: Literal["at most", "at least", "chosen"]
    quantity: Quantity
    binds: bool = False
    note: str = ""


@dataclass(frozen=True)
class Verdict:
    """A plain sentence and all that stands behind it."""

    topic: str
    level: Level
    sentence: str
    binding: str
    advice: str = ""
    figures: tuple[Quantity, ...] = ()
    limits: tuple[Limit, ...] = ()
    workings: tuple[Working, ...] = ()
    caution: str = ""


def duration_words(seconds: float) -> str:
    """A length of time as people say it: "2.5 s", "45 s", "2 min 30 s", "3 h 05 min"."""
    if seconds < 29.95 and seconds % 1:
        return f"{round(seconds, 1):g} s"
    whole = round(seconds)
    if whole < 120:
        return f"{whole} s"
    if whole < 3600:
        minutes, rest = divmod(whole, 60)
        return f"{minutes} min {rest:02d} s" if rest else f"{minutes} min"
    hours, minutes = divmod(round(whole / 60), 60)
    return f"{hours} h {minutes:02d} min"


def joined(words: Sequence[str], last: str = "and") -> str:
    """ "a, b and c"."""
    if len(words) < 2:
        return "".join(words)
    return f"{', '.join(words[:-1])} {last} {words[-1]}"

"""How long a step takes: a typical figure, and what this person took in earlier nights.

Two steps ticked one after the other say how long the second one took; a longer rest between them says nothing.
"""

from collections.abc import Mapping, Sequence
from datetime import datetime
from itertools import pairwise
from statistics import median

# Minutes, by the first part of a step's key. Common practice, no source.
TYPICAL_MIN: Mapping[str, float] = {
    "bag": 10,
    "walk": 10,
    "power": 5,
    "sky": 3,
    "azimuth": 3,
    "level": 3,
    "latitude": 2,
    "switch": 1,
    "weight": 2,
    "camera": 3,
    "mirror": 1,
    "guider": 2,
    "hood": 2,
    "scope": 6,
    "sight": 3,
    "payload": 2,
    "again": 3,
    "rough": 3,
    "drift": 25,
    "first": 2,
    "turn": 1,
    "second": 5,
    "frame": 3,
    "find": 4,
    "focus": 3,
    "test": 3,  # and the timer set
    "run": 0,
    "dew": 2,
    "swap": 5,
    "layers": 4,
    "darks": 2,
    "bias": 2,
    "flats": 4,
    "pack": 20,
    "drive": 1,
}
# Minutes, and times the typical figure: outside of them the person did something else, or ticked several at once. Our own.
MIN_STEP_MIN, MAX_OF_TYPICAL = 0.2, 4.0
MIN_COUNT = 3  # from so many times on, what was taken is believed. Our own


def kind_of(key: str) -> str:
    """What a step is, whatever its rig, run or number: find of "find2:1-3.0-0.1"."""
    return key.split(":", maxsplit=1)[0].rstrip("0123456789")


def learned_min(nights: Sequence[Sequence[tuple[datetime, str]]]) -> dict[str, float]:
    """The median of what each kind of step took, minutes. nights: of each, when which step was ticked."""
    took: dict[str, list[float]] = {}
    for night in nights:
        ordered = sorted(night)
        for (before, _), (at, key) in pairwise(ordered):
            kind, minutes = kind_of(key), (at - before).total_seconds() / 60.0
            if kind in TYPICAL_MIN and MIN_STEP_MIN <= minutes <= MAX_OF_TYPICAL * TYPICAL_MIN[kind]:
                took.setdefault(kind, []).append(minutes)
    return {kind: median(minutes) for kind, minutes in took.items() if len(minutes) >= MIN_COUNT}


def minutes_of_step(key: str, learned: Mapping[str, float]) -> tuple[float, bool]:
    """How long a step takes, and whether that was learned from this person."""
    kind = kind_of(key)
    if kind in learned:
        return learned[kind], True
    return TYPICAL_MIN[kind], False

"""One pair of hands: what one person does in a night, one thing after the other.

    daylight   [set up A][set up B]
    stars out                      [align A][align B]
    dark                                             [find A, test, start]      [swap]  [find B ...]
    after its last frame                                              [flats A][darks A > by themselves]

Changes of target have their time from the plan. Everything else is fitted in around them: as early as it may, or as late as it
must, and not into a sleep.
"""

from collections.abc import Sequence
from dataclasses import dataclass, field

Span = tuple[float, float]  # MJD


@dataclass
class Hands:
    """busy: what the hands do, by time; asleep: when they rest."""

    asleep: Sequence[Span] = ()
    busy: list[Span] = field(default_factory=list)

    def take(self, begin: float, lasts: float) -> None:
        """For what has its time already."""
        self.busy.append((begin, begin + lasts))
        self.busy.sort()

    def earliest(self, begin: float, lasts: float) -> float:
        """Take the first free time from a moment on, and return when it begins. lasts: days."""
        for first, last in sorted([*self.busy, *self.asleep]):
            if first < begin + lasts and last > begin:
                begin = last
        self.take(begin, lasts)
        return begin

    def latest(self, end: float, lasts: float, not_before: float) -> float:
        """Take the last free time that is over by a moment; where there is none after not_before, the first after that."""
        begin = end - lasts
        for first, last in sorted([*self.busy, *self.asleep], reverse=True):
            if first < begin + lasts and last > begin:
                begin = first - lasts
        if begin < not_before:
            return self.earliest(not_before, lasts)
        self.take(begin, lasts)
        return begin

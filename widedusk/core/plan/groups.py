"""What fits together: two to four objects that one frame of this rig holds, ranked like single ones.

Whatever a frame holds, it holds every part of. So of the worthiest objects of the night first all pairs are tried, then the threes
whose pairs all fit, then the fours whose threes do. Most are told by a circle: what one within the short side encloses fits at any
angle, what spans more than the diagonal at none; between the two the composer itself is asked.
"""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from itertools import combinations

import numpy as np

from widedusk.core.errors import InvalidInput
from widedusk.core.framing.compose import Composition, compose
from widedusk.core.framing.frame import Subject, sides_deg
from widedusk.core.kit.parts import Rig
from widedusk.core.plan.ranking import Ranked
from widedusk.core.scene import Target
from widedusk.core.sky.places import unit_vectors
from widedusk.core.verdict import Quantity, Verdict, Working, joined

LARGEST = 4
CONSIDERED = 80  # of the worthiest objects
MOST_COMPOSED = 25  # of each size, the worthiest first: a few milliseconds each
MOST_GROWN = 60  # of each size are looked at for a further member, the worthiest first
SMALLEST_SHARE = 0.02  # of the short side: a smaller object is no reason to turn the camera
LEAST_MARGIN = 0.01  # of the short side
SAME_DEG = 0.15  # of the short side: two entries nearer than that are one subject


@dataclass(frozen=True)
class Group:
    """Members from the worthiest; usable_min: of the one that is up for the shortest time."""

    members: tuple[Ranked, ...]
    usable_min: int
    worth: float  # 0..100


def as_subject(target: Target) -> Subject:
    """A target as something that shall be in the picture."""
    return Subject(target.name, target.ra_deg, target.dec_deg, target.extent_deg, target.width_deg, target.angle_deg)


def together(members: Sequence[Ranked]) -> float:
    """Worth of several: 100 (1 - Π (1 - w/100)), so that a second object adds less the worthier the first is."""
    return float(100.0 * (1.0 - np.prod([1.0 - one.worth / 100.0 for one in members])))


class _Field:
    """The objects that count, how far apart they are, and which sets of them a frame holds."""

    def __init__(self, rows: Sequence[Ranked], rig: Rig) -> None:
        self.rows = rows
        self.sides = sides_deg(rig)
        self.diagonal, self.short = float(np.hypot(*self.sides)), min(self.sides)
        ra, dec = (np.radians([getattr(one.entry.target, name) for one in rows]) for name in ("ra_deg", "dec_deg"))
        vectors = unit_vectors(ra, dec)
        chord = np.linalg.norm(vectors[:, None] - vectors[None], axis=2) / 2.0
        apart = np.degrees(2.0 * np.arcsin(np.clip(chord, 0.0, 1.0)))
        radius = np.array([one.entry.target.extent_deg / 2.0 for one in rows])
        self.across = apart + radius[:, None] + radius[None]
        # Neither the same subject twice, nor one inside the other.
        self.apart = (apart > SAME_DEG * self.short) & (apart > np.abs(radius[:, None] - radius[None]))

    def worth(self, group: tuple[int, ...]) -> float:
        return together([self.rows[one] for one in group])

    def fitting(self, candidates: Iterable[tuple[int, ...]]) -> list[tuple[int, ...]]:
        """Those of the sets that one frame holds; all of the doubtful ones past the worthiest few are passed over."""
        found, asked = [], 0
        for group in sorted(candidates, key=lambda one: -self.worth(one)):
            widest = max(float(self.across[pair]) for pair in combinations(group, 2))
            # Jung 1901: a circle of width 2/√3 of the widest span encloses all; of two, of their span itself.
            if widest * (1.0 if len(group) == 2 else 2.0 / np.sqrt(3.0)) <= (1.0 - 2.0 * LEAST_MARGIN) * self.short:
                found.append(group)
            elif widest <= self.diagonal * 1.5 and asked < MOST_COMPOSED:
                asked += 1
                if self._composed(group):
                    found.append(group)
        return found

    def _composed(self, group: tuple[int, ...]) -> bool:
        try:
            wanted = [as_subject(self.rows[one].entry.target) for one in group]
            return compose(wanted, *self.sides, to_the_last=False).margin_share >= LEAST_MARGIN
        except InvalidInput:
            return False


def groups(ranked: Sequence[Ranked], rig: Rig) -> tuple[Group, ...]:
    """Groups among the ranked, the worthiest first; a smaller group within a larger one is left out."""
    wide, high = sides_deg(rig)
    sizes = [SMALLEST_SHARE * min(wide, high), float(np.hypot(wide, high))]
    rows = [one for one in ranked if sizes[0] <= one.entry.target.extent_deg <= sizes[1]][:CONSIDERED]
    if len(rows) < 2:
        return ()
    field = _Field(rows, rig)
    level = field.fitting(pair for pair in combinations(range(len(rows)), 2) if field.apart[pair])
    kept = set(level)
    while level and len(level[0]) < LARGEST:
        known = set(level)
        larger = {(*group, other) for group in level[:MOST_GROWN] for other in range(group[-1] + 1, len(rows))}
        level = field.fitting(one for one in larger if all(part in known for part in combinations(one, len(one) - 1)))
        for group in level:
            kept -= set(combinations(group, len(group) - 1))
        kept |= set(level)
    made = [_group([rows[one] for one in group]) for group in kept]
    return tuple(sorted(made, key=lambda one: -one.worth))


def _group(members: list[Ranked]) -> Group:
    members = sorted(members, key=lambda one: -one.worth)
    return Group(tuple(members), min(one.usable_min for one in members), together(members))


def framed(group: Group, rig: Rig) -> tuple[Composition, Verdict]:
    """The frame that holds a group, and how its worth came about."""
    found = compose([as_subject(one.entry.target) for one in group.members], *sides_deg(rig))
    names = joined([one.entry.target.name for one in group.members])
    working = Working(
        "together",
        "Worth together",
        "100 (1 − Π (1 − wᵢ/100))",
        (
            *(Quantity(one.entry.target.name, one.worth, "of 100", decimals=0) for one in group.members),
            Quantity("Margin in the frame", found.margin_deg, "°", decimals=2),
            Quantity("Usable, the shortest of them", group.usable_min, "min", decimals=0),
        ),
        Quantity("Worth", group.worth, "of 100", decimals=0),
        "Our own weighting, no published figure; the frame by the composer of the workspace Framing",
        "common practice",
    )
    sentence = f"{names} fit one frame with {found.margin_deg:.2f}° to spare."
    return found, Verdict("Together", "go", sentence, "worth of each, and the frame", workings=(working,))

"""A rig as it stands on the bench: parts, where each sits, and what feeds it. It may still lack things.

         camera side                      weight side
      arm > 0                                   arm < 0
    [lens][camera]====bracket====(axis)====shaft====[weight]
      → along: to the front

`arm` is the distance of a part's own centre of mass from the polar axis, at right angles to it; `along` is how far that
centre lies in front of the clamp, towards where the lens looks.
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import TypeVar

from widedusk.core.errors import Checks, Fault, InvalidInput
from widedusk.core.kit.parts import (
    BallHead,
    Battery,
    Bracket,
    Camera,
    Carried,
    Counterweight,
    Filter,
    Guider,
    Hub,
    Lens,
    Origin,
    Part,
    Rig,
    Shaft,
    StepDownRing,
    Support,
    Tracker,
)

P = TypeVar("P", bound=Part)
MOST_PARTS = 60
FARTHEST_MM = 1_500.0
USUAL_REACH_MM = 40.0  # from the axis to the root of a shaft


@dataclass(frozen=True)
class Placed:
    """One part in its place. Names tell parts apart; a part stands in a rig once."""

    part: Part
    arm_mm: float = 0.0
    along_mm: float = 0.0
    carried: bool = True
    fed_by: str | None = None  # name of the battery or hub

    @property
    def name(self) -> str:
        return self.part.name

    @property
    def mass_g(self) -> float:
        return self.part.mass_g

    @property
    def moment_g_mm(self) -> float:
        """About the polar axis; positive on the camera side."""
        return self.part.mass_g * self.arm_mm


@dataclass(frozen=True)
class Assembly:
    name: str
    placed: Sequence[Placed] = ()
    star_fwhm_px: float = 2.5
    focal_mm: float | None = None  # what a zoom is set to
    star_origin: Origin = "by hand"  # of star_fwhm_px

    def __post_init__(self) -> None:
        checks = Checks()
        checks.named("name", self.name)
        checks.within("star_fwhm_px", self.star_fwhm_px, 1, 15, "px")
        if len(self.placed) > MOST_PARTS:
            checks.fault("placed", len(self.placed), f"A rig may have {MOST_PARTS} parts; leave the rest in the inventory.")
        self._check_places(checks)
        self._check_fit(checks)
        self._check_feeding(checks)
        lens = self.first(Lens)
        if lens is not None:
            checks.of(lambda: lens.at(self.focal_mm))
        checks.done()

    def _check_places(self, checks: Checks) -> None:
        seen: set[str] = set()
        for place, one in enumerate(self.placed):
            checks.within(f"placed.{place}.arm_mm", one.arm_mm, -FARTHEST_MM, FARTHEST_MM, "mm")
            checks.within(f"placed.{place}.along_mm", one.along_mm, -FARTHEST_MM, FARTHEST_MM, "mm")
            if one.name in seen:
                checks.fault(f"placed.{place}.part", one.name, f"“{one.name}” is in this rig already; a part can be in one place.")
            seen.add(one.name)
        for kind in (Camera, Lens, Tracker):
            several = [one.name for one in self.placed if isinstance(one.part, kind)]
            if len(several) > 1:
                wrong = f"A rig has one {kind.KIND}; take off {' or '.join(several)}."
                checks.fault("placed", several[1], wrong)

    def _check_fit(self, checks: Checks) -> None:
        shaft = self.first(Shaft)
        if shaft is None:
            return
        for place, one in enumerate(self.placed):
            weight = one.part
            if not isinstance(weight, Counterweight):
                continue
            if weight.thickness_mm > shaft.length_mm:
                wrong = (
                    f"{weight.name} takes {weight.thickness_mm:g} mm of shaft and {shaft.name} is {shaft.length_mm:g} mm long; "
                    "use a longer shaft or a thinner weight."
                )
                checks.fault(f"placed.{place}.part", weight.name, wrong)
            if weight.hole_mm and shaft.diameter_mm and weight.hole_mm < shaft.diameter_mm:
                wrong = f"The hole of {weight.name} is {weight.hole_mm:g} mm, {shaft.name} is {shaft.diameter_mm:g} mm thick."
                checks.fault(f"placed.{place}.part", weight.name, wrong)

    def _check_feeding(self, checks: Checks) -> None:
        by_name = {one.name: one for one in self.placed}
        for place, one in enumerate(self.placed):
            if one.fed_by is None:
                continue
            supply = by_name.get(one.fed_by)
            if supply is None or not isinstance(supply.part, (Battery, Hub)):
                wrong = f"{one.name} cannot be fed by “{one.fed_by}”; choose a battery or a hub of this rig."
                checks.fault(f"placed.{place}.fed_by", one.fed_by, wrong)
            elif isinstance(one.part, Battery) or (isinstance(one.part, Hub) and not isinstance(supply.part, Battery)):
                wrong = f"{one.name} cannot hang on {supply.name}; a hub hangs on a battery, a battery on nothing."
                checks.fault(f"placed.{place}.fed_by", one.fed_by, wrong)

    def all(self, kind: type[P]) -> list[P]:
        return [one.part for one in self.placed if isinstance(one.part, kind)]

    def first(self, kind: type[P]) -> P | None:
        return next(iter(self.all(kind)), None)

    def where(self, kind: type[Part]) -> Placed | None:
        """The first part of a kind with its place."""
        return next((one for one in self.placed if isinstance(one.part, kind)), None)

    def named(self, name: str) -> Placed | None:
        return next((one for one in self.placed if one.name == name), None)

    @property
    def lens(self) -> Lens | None:
        """The lens at the focal length it is set to; behind a narrowband filter with its corners for that."""
        found = self.first(Lens)
        if found is None:
            return None
        used = found.at(self.focal_mm)
        narrow = used.f_best_narrow if self.narrow else None
        return replace(used, f_best=narrow) if narrow else used

    def seen_through(self, one: Filter | None) -> "Assembly":
        """The same rig with another filter in the beam, or with none."""
        kept = tuple(each for each in self.placed if not isinstance(each.part, Filter))
        return replace(self, placed=kept if one is None else (*kept, Placed(one)))

    @property
    def narrow(self) -> bool:
        """Whether a filter of narrow bands is on it."""
        return any(one.narrow for one in self.all(Filter))

    @property
    def support(self) -> Support:
        """A bracket carries the rig even where a ball head stands on it."""
        if self.first(Bracket):
            return "bracket"
        return "ball head" if self.first(BallHead) else "none"

    @property
    def on_tracker(self) -> list[Placed]:
        return [one for one in self.placed if one.carried and not isinstance(one.part, Tracker)]

    def carried(self) -> tuple[Carried, ...]:
        """What rides on the tracker besides camera and lens. Whatever hangs on the weight side counts with the weights."""
        return tuple(
            Carried(one.name, one.mass_g, isinstance(one.part, (Counterweight, Shaft)) or one.arm_mm < 0)
            for one in self.on_tracker
            if not isinstance(one.part, (Camera, Lens))
        )

    def rig(self) -> Rig:
        """The rig a night is worked out for; it may stand still. Raises InvalidInput naming what is still missing."""
        camera, lens = self.first(Camera), self.lens
        if camera is None or lens is None:
            lacks = [kind for kind, part in (("camera", camera), ("lens", lens)) if part is None]
            wrong = f"{self.name} has no {' and no '.join(lacks)} yet; add it on the Bench."
            raise InvalidInput([Fault("rig", self.name, wrong)])
        ring = self.first(StepDownRing)
        clear_mm = ring.clear_mm if ring else None
        return Rig(
            self.name,
            camera,
            lens,
            self.first(Tracker),
            self.support,
            self.star_fwhm_px,
            self.carried(),
            clear_mm,
            tuple(self.all(Filter)),
            self.first(BallHead),
            next((one.name for one in self.all(Guider)), ""),
        )


# Where parts usually sit, mm: (arm on a bracket, arm without one, along). Round figures to start from.
_USUAL = {
    "camera": (95, 55, -40),
    "lens": (95, 55, 45),
    "adapter": (95, 55, 5),
    "lens ring": (90, 50, 20),
    "heater": (95, 55, 90),
    "filter": (95, 55, 95),
    "step-down ring": (95, 55, 95),
    "guider": (60, 60, 30),
    "ball head": (70, 30, 0),
    "plate": (60, 20, 0),
    "bracket": (10, 10, 0),
    "counterweight": (-120, -120, 0),
    "other": (60, 30, 0),
}


def usual_place(part: Part, others: Sequence[Part]) -> tuple[float, float]:
    """(arm, along) at which a part is laid until somebody measures it. A shaft begins where the bracket ends."""
    bracket = next((one for one in others if isinstance(one, Bracket)), None)
    if isinstance(part, Shaft):
        return -((bracket.reach_mm if bracket else USUAL_REACH_MM) + part.length_mm / 2.0), 0.0
    if isinstance(part, Filter) and part.sits == "behind the lens":
        along_behind = _USUAL["adapter"]
        return float(along_behind[0] if bracket else along_behind[1]), float(along_behind[2])
    framed, bare, along = _USUAL.get(part.KIND, (0, 0, 0))
    return float(framed if bracket else bare), float(along)

"""What every other school, aperture, ISO and filter would cost: hours until the target stands out, each at its own sub."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from functools import cached_property
from typing import Literal

import numpy as np

from widedusk.core.choices import SubSchool
from widedusk.core.exposure.light import back_of_camera, clipping_magnitude, read_noise_share, sky_limited_s
from widedusk.core.exposure.response import LINES_NM, line_share
from widedusk.core.exposure.setting import Light, Subject, conditions, light_of, trail_ratio, untracked_s
from widedusk.core.exposure.sub import Conditions, Keeps, SubAdvice, advise_at
from widedusk.core.exposure.workings import hours_working
from widedusk.core.kit.optics import ring_f_number, stops_between
from widedusk.core.kit.parts import Band, Filter, IsoStep, Origin, Rig, iso_field
from widedusk.core.tracking.elongation import uniform_trail_ratio
from widedusk.core.tracking.untracked import UntrackedSchool
from widedusk.core.verdict import Working

SCHOOLS: dict[SubSchool, str] = {
    "best": "Most useful signal per hour",
    "sky": "Sky-limited minimum",
    "tracks": "Longest that tracks",
    "fixed": "A fixed habit",
}
STILL_SCHOOLS: dict[UntrackedSchool, str] = {
    "pixel": "Strict, by pixels",
    "detailed": "The detailed formula",
    "500": "500 over focal length",
}
HABITS_S = (30.0, 60.0, 120.0, 180.0)
F_STOPS = (1.0, 1.4, 2.0, 2.8, 4.0, 5.6, 8.0, 11.0)
THIRDS = (1.2, 1.8, 2.4, 3.2, 3.5)
INVARIANT = 1.05  # read noise within 5 % of the least: more ISO wins nothing. Our own
Whose = Literal["yours", "on the rig", "not yours"]  # only the first can be chosen for a night by its name
LONG_WAY = 1e4  # hours beyond which it is said to be out of reach
# Filters of seven nanometres that many carry, for those who wonder whether one would pay: common practice, no source.
USUAL_FILTERS = (
    Filter("A dual-band filter of 7 nm", 30, bands=(Band(497.2, 504.2), Band(652.8, 659.8))),
    Filter("An Hα filter of 7 nm", 30, bands=(Band(652.8, 659.8),)),
)


@dataclass(frozen=True)
class Price:
    """Hours at the tripod to the signal to noise that is wanted; None when out of reach. against: times those of the chosen."""

    hours: float | None
    against: float | None
    working: Working


@dataclass(frozen=True)
class SchoolRow:
    """What one school takes. elongation: of a star under drift alone; keep: within the trail that the school takes."""

    key: SubSchool | UntrackedSchool
    name: str
    exposure_s: float
    keep: float
    elongation: float
    price: Price
    chosen: bool


@dataclass(frozen=True)
class ApertureRow:
    """One stop. corners: what the lens's findings say of it; ring_mm: clear diameter of a ring that would make it."""

    f_number: float
    stops: float  # less light than wide open
    exposure_s: float
    price: Price
    corners: str
    ring_mm: float
    chosen: bool


@dataclass(frozen=True)
class IsoRow:
    iso: int
    read_noise_e: float
    full_well_e: float
    range_stops: float
    sky_limited_s: float
    noise_share: float  # that read noise adds at the sub in hand
    back_share: float  # where the sky stands on the camera at that sub
    clip_mag: float | None
    price: Price  # at the sub in hand
    invariant: bool  # more ISO wins no read noise
    sky_limited: bool
    chosen: bool
    between: bool  # stands between two rows of the camera's table
    origin: Origin  # of its noise and well


@dataclass(frozen=True)
class FilterRow:
    name: str
    sky_stops: float  # cut from the sky
    target_share: float
    colour: str
    exposure_s: float
    price: Price
    chosen: bool
    words: str
    whose: Whose
    usable_min: int  # of this night: a filter bears more of the Moon


@dataclass(frozen=True)
class _Way:
    """One way to take the target, and the hours it asks for."""

    goal: float
    light: Light
    step: IsoStep
    exposure_s: float
    pause_s: float
    keep: float

    @classmethod
    def by(cls, subject: Subject, light: Light, advice: SubAdvice, pause_s: float) -> "_Way":
        return cls(subject.choices.goal_snr, light, advice.step, advice.exposure_s, pause_s, advice.keep)

    @cached_property
    def hours(self) -> float:
        return self.light.hours_for(self.goal, self.step, self.exposure_s, self.pause_s, self.keep)

    def price(self, against: "_Way") -> Price:
        working = hours_working(self.goal, self.light, self.step, self.exposure_s, self.pause_s, self.keep)
        if not np.isfinite(self.hours) or self.hours > LONG_WAY:
            return Price(None, None, working)
        known = np.isfinite(against.hours) and against.hours > 0
        return Price(self.hours, self.hours / against.hours if known else None, working)


def _standing_still(subject: Subject, light: Light, step: IsoStep, pause_s: float) -> tuple[SchoolRow, ...]:
    """The three schools for a camera without a tracker, each with the trail it takes."""
    found = []
    for key, name in STILL_SCHOOLS.items():
        by = replace(subject, choices=replace(subject.choices, untracked_school=key))
        seconds = untracked_s(by, light.f_number)
        advice = advise_at(conditions(by, light), step, "fixed", seconds)
        found.append((key, name, seconds, advice.keep, trail_ratio(by, seconds), _Way.by(by, light, advice, pause_s)))
    strict = found[0][-1]
    mine = subject.choices.untracked_school
    return tuple(SchoolRow(key, name, t, keep, ratio, way.price(strict), key == mine) for key, name, t, keep, ratio, way in found)


def school_rows(
    subject: Subject, light: Light, wanted: Conditions, step: IsoStep, exposure_s: float, pause_s: float
) -> tuple[SchoolRow, ...]:
    """Each school's sub at the ISO in hand, and what it costs against the best; without a tracker those for standing still."""
    if wanted.drift_by == "untracked" and subject.choices.sub_school != "fixed":
        return _standing_still(subject, light, step, pause_s)
    keeps = Keeps.under(wanted)
    found: list[tuple[SubSchool, str, SubAdvice]] = []
    for key, name in SCHOOLS.items():
        if key != "fixed":
            found.append((key, name, advise_at(wanted, step, key, keeps=keeps)))
    habits = sorted({*HABITS_S, *([subject.choices.fixed_sub_s] if subject.choices.fixed_sub_s else [])})
    found += [("fixed", f"Always {habit:g} s", advise_at(wanted, step, "fixed", habit, keeps)) for habit in habits]
    best = _Way.by(subject, light, found[0][2], pause_s)
    return tuple(
        SchoolRow(
            key,
            name,
            one.exposure_s,
            one.keep,
            float(uniform_trail_ratio(wanted.drift_px_s * one.exposure_s, wanted.star_fwhm_px)),
            _Way.by(subject, light, one, pause_s).price(best),
            key == subject.choices.sub_school and abs(one.exposure_s - exposure_s) < 0.05,
        )
        for key, name, one in found
    )


def _corners(rig: Rig, f_number: float) -> str:
    if f_number >= rig.lens.f_best - 0.01:
        return "round" if f_number < 2.0 * rig.lens.f_best else "round, no better than two stops wider"
    narrow = rig.lens.f_best_narrow
    if narrow is not None and not rig.narrow and f_number >= narrow - 0.01:
        return "soft in broadband, round in narrowband"
    return "soft, by your own finding"


def _own_sub(subject: Subject, light: Light, step: IsoStep, keeps: Keeps | None = None) -> SubAdvice:
    """The sub that another stop or filter asks for: the most useful one; without a tracker what the trail allows."""
    wanted = conditions(subject, light)
    if wanted.drift_by == "untracked" and subject.choices.sub_school != "fixed":
        return advise_at(wanted, step, "fixed", untracked_s(subject, light.f_number), keeps)
    return advise_at(wanted, step, "best", keeps=keeps)


def _at_aperture(subject: Subject, f_number: float, step: IsoStep, keeps: Keeps) -> tuple[Light, SubAdvice]:
    light = light_of(subject, f_number)
    return light, _own_sub(subject, light, step, keeps)


def prices_at(
    subject: Subject, stops: Sequence[float], f_number: float, step: IsoStep, keeps: Keeps, pause_s: float
) -> tuple[tuple[SubAdvice, Price], ...]:
    """Each of these stops with its own best sub and the hours it asks for, against the stop in use."""
    used = _Way.by(subject, *_at_aperture(subject, f_number, step, keeps), pause_s)
    found = [_at_aperture(subject, one, step, keeps) for one in stops]
    return tuple((advice, _Way.by(subject, light, advice, pause_s).price(used)) for light, advice in found)


def aperture_rows(subject: Subject, f_number: float, step: IsoStep, keeps: Keeps, pause_s: float) -> tuple[ApertureRow, ...]:
    """Stops from wide open to three stops down, each with its own best sub; the mounted ring is the widest there is."""
    lens = subject.rig.lens
    widest = ring_f_number(lens.focal_mm, subject.rig.ring_mm, lens.f_widest) if subject.rig.ring_mm else lens.f_widest
    stops = {round(widest, 2), round(lens.f_best, 2), round(f_number, 2)}
    stops |= {one for one in (*F_STOPS, *THIRDS) if widest <= one <= widest * 2.0**1.5 + 0.01}
    apart: list[float] = []
    for one in sorted(stops):
        if one < widest - 0.005:
            continue
        if apart and stops_between(apart[-1], one) < 0.3 and one not in {round(lens.f_best, 2), round(f_number, 2)}:
            continue
        apart.append(one)
    chosen = min(apart, key=lambda one: abs(one - f_number))
    found = prices_at(subject, apart, chosen, step, keeps, pause_s)
    return tuple(
        ApertureRow(
            one,
            stops_between(lens.f_widest, one),
            advice.exposure_s,
            price,
            _corners(subject.rig, one),
            lens.focal_mm / one,
            one == chosen,
        )
        for one, (advice, price) in zip(apart, found, strict=True)
    )


def iso_rows(
    subject: Subject, light: Light, wanted: Conditions, chosen: IsoStep, exposure_s: float, pause_s: float
) -> tuple[IsoRow, ...]:
    """Every ISO of the camera at the sub in hand."""
    camera = subject.rig.camera
    table = {step.iso: step for step in (*camera.iso_steps, chosen)}
    steps = [table[iso] for iso in sorted(table)]
    floor = min(step.read_noise_e for step in steps)
    keep = float(wanted.keep(exposure_s))

    def at(step: IsoStep) -> _Way:
        return _Way(subject.choices.goal_snr, light, step, exposure_s, pause_s, keep)

    def magnitude(step: IsoStep) -> float | None:
        found = float(clipping_magnitude(exposure_s, step.full_well_e, light.background_e_s, wanted.star_fwhm_px, light.star0_e_s))
        return found if np.isfinite(found) else None

    return tuple(
        IsoRow(
            step.iso,
            step.read_noise_e,
            step.full_well_e,
            float(np.log2(step.full_well_e / step.read_noise_e)),
            float(sky_limited_s(step.read_noise_e, light.background_e_s, wanted.noise_share)),
            float(read_noise_share(step.read_noise_e, light.background_e_s, exposure_s)),
            float(back_of_camera(light.background_e_s * exposure_s / step.full_well_e)),
            magnitude(step),
            at(step).price(at(chosen)),
            step.read_noise_e <= INVARIANT * floor,
            float(sky_limited_s(step.read_noise_e, light.background_e_s, wanted.noise_share)) <= exposure_s,
            step.iso == chosen.iso,
            not camera.measured_at(step.iso),
            camera.origin(iso_field(step.iso)),
        )
        for step in steps
    )


@dataclass(frozen=True)
class Sky:
    """What a night has for a target behind some filters: means over its longest stretch, and how long that is."""

    mag: float
    airmass: float
    minutes: int
    moonlit: bool  # the Moon adds more than is allowed all along: the means are those of the stretch with it


Under = Callable[[tuple[Filter, ...]], Sky]


def filter_rows(
    subject: Subject, owned: Sequence[Filter], f_number: float, step: IsoStep, pause_s: float, under: Under
) -> tuple[FilterRow, ...]:
    """No filter, each filter of one's own and the usual ones one lacks, each under the sky that this night has for it: what it
    cuts and passes, and whether it pays."""
    now = subject.rig.filters
    ways: list[tuple[str, tuple[Filter, ...], Whose]] = [("none", (), "yours"), *((one.name, (one,), "yours") for one in owned)]
    if now and not any(filters == tuple(now) for _, filters, _ in ways):
        ways.append((" and ".join(one.name for one in now), tuple(now), "on the rig"))
    lacking = [one for one in USUAL_FILTERS if not any(_passes(own) == _passes(one) for own in (*owned, *now) if own.narrow)]
    ways += [(one.name, (one,), "not yours") for one in lacking]

    skies = {filters: under(filters) for _, filters, _ in ways}

    def taken(filters: tuple[Filter, ...]) -> _Way:
        sky = skies[filters]
        seen = replace(subject, rig=replace(subject.rig, filters=filters), sky_mag=sky.mag, mean_airmass=sky.airmass)
        light = light_of(seen, f_number)
        return _Way.by(subject, light, _own_sub(seen, light, step), pause_s)

    found = [(name, filters, whose, taken(filters)) for name, filters, whose in ways]
    without = found[0][3]
    chosen = next((way for _, filters, _, way in found if filters == tuple(now)), without)
    return tuple(
        FilterRow(
            "No filter" if name == "none" else name,
            float(np.log2(1.0 / max(way.light.response.sky, 1e-9))),
            way.light.response.target,
            way.light.response.colour,
            way.exposure_s,
            way.price(chosen),
            filters == tuple(now),
            "; ".join(filter(None, (_pays(way, without) if filters else "", TOO_BRIGHT if skies[filters].moonlit else ""))),
            whose,
            skies[filters].minutes,
        )
        for name, filters, whose, way in found
    )


TOO_BRIGHT = "the Moon adds more than you allow"


def _passes(one: Filter) -> frozenset[str]:
    """The spectral lines a filter lets through."""
    return frozenset(name for name, line_nm in LINES_NM.items() if line_share((one,), line_nm) > 0.0)


def _pays(way: _Way, bare: _Way) -> str:
    hours, without = way.hours, bare.hours
    if way.light.response.target <= 0.0:
        return "passes nothing of this target"
    if not np.isfinite(without) or not np.isfinite(hours):
        return "out of reach either way" if not np.isfinite(hours) else "the only way to reach it"
    if hours < 0.97 * without:
        return f"pays: saves {without - hours:.1f} h" if without - hours < LONG_WAY else "pays"
    if hours > 1.03 * without:
        return f"costs {hours - without:.1f} h more" if hours - without < LONG_WAY else "costs more than it brings"
    return "makes no difference"

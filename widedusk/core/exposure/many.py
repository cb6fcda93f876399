"""How many frames: signal to noise against hours, what the next hour adds, and time gathered on earlier nights."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from math import ceil

import numpy as np

from widedusk.core.errors import Checks
from widedusk.core.exposure.card import FrameLimit
from widedusk.core.exposure.light import signal_to_noise
from widedusk.core.exposure.setting import Light, Subject, light_of
from widedusk.core.kit.optics import image_scale_arcsec_px
from widedusk.core.kit.parts import Filter, IsoStep, Rig
from widedusk.core.verdict import Quantity, Working

HOURS = (0.25, 0.5, 1.0, 1.5, 2.0, 3.0, 4.0, 6.0, 8.0, 12.0, 16.0, 24.0)
LITTLE = 0.05  # an hour that adds less than this to the signal to noise: sleep is worth more. Our own


@dataclass(frozen=True)
class Sum:
    """What has been gathered already."""

    frames: int
    kept_hours: float
    equivalent_hours: float  # at the f-number in hand: t (N_ref / N)²
    weighted_hours: float  # at the setting in hand: the kept time that would bring the same SNR²
    snr: float


@dataclass(frozen=True)
class Session:
    """Kept frames of one earlier night on this target. None: as the setting in hand has it."""

    name: str
    frames: int
    exposure_s: float
    f_number: float
    read_noise_e: float | None = None
    sky_mag: float | None = None
    filters: tuple[Filter, ...] | None = None  # in the beam that night
    rig: Rig | None = None  # that took them, as it was then

    def __post_init__(self) -> None:
        checks = Checks()
        checks.named("name", self.name)
        checks.within("frames", self.frames, 1, 100_000)
        checks.within("exposure_s", self.exposure_s, 0.1, 7200, "s")
        checks.within("f_number", self.f_number, 0.7, 64)
        if self.read_noise_e is not None:
            checks.within("read_noise_e", self.read_noise_e, 0.1, 100, "e⁻")
        if self.sky_mag is not None:
            checks.within("sky_mag", self.sky_mag, 12, 22.5, "mag/arcsec²")
        checks.done()

    @property
    def hours(self) -> float:
        return self.frames * self.exposure_s / 3600.0


def equivalent_hours(hours: float, f_number: float, f_reference: float) -> float:
    """Time at another f-number that gathers as much light in a pixel: t (N_ref / N)²."""
    return hours * (f_reference / f_number) ** 2


@dataclass(frozen=True)
class NightAdded:
    """One earlier night, reckoned to the setting in hand."""

    name: str
    frames: int
    hours: float
    equivalent_hours: float
    weighted_hours: float
    snr: float
    working: Working


def _scale(rig: Rig) -> float:
    return float(image_scale_arcsec_px(rig.camera.pitch_um, rig.lens.focal_mm))


def _added(one: Session, then: Light, noise_e: float, light: Light, per_hour: float, wider: float) -> NightAdded:
    """One night in hours of the setting in hand. per_hour: SNR² that a kept hour brings at that setting.

    wider: image scale in use over that of then. A patch of sky as large as a pixel in use held the square of it in pixels of then.
    """
    snr = wider * float(signal_to_noise(then.target_e_s, then.background_e_s, noise_e, one.exposure_s, one.frames))
    weighted = snr**2 / per_hour if per_hour > 0 else 0.0
    by_aperture = equivalent_hours(one.hours, one.f_number, light.f_number)
    working = Working(
        "gathered",
        "An earlier night in hours of tonight's setting",
        "(s/s′ n S t / √(n ((S + E) t + R²)))² / SNR² of a kept hour tonight",
        (
            Quantity("Frames kept", one.frames, "", "n", 0),
            Quantity("Each", one.exposure_s, "s", "t", 0 if one.exposure_s >= 10 else 1),
            Quantity("f-number", one.f_number, "", "N", 1),
            Quantity("Target, that night", then.target_e_s, "e⁻/s", "S", 4),
            Quantity("Sky and dark current, that night", then.background_e_s, "e⁻/s", "E", 3),
            Quantity("Read noise, that night", noise_e, "e⁻", "R", 2),
            Quantity("Image scale tonight over that night's", wider, "", "s/s′", 2),
            Quantity("Signal to noise it brought to a pixel of tonight", snr, "", decimals=2),
            Quantity("SNR² of a kept hour tonight", per_hour, "", decimals=2),
        ),
        Quantity("Counts for", weighted, "h", decimals=2),
        "CCD equation, Howell, Handbook of CCD Astronomy; weights of SNR² add up",
        "published",
        f"By the f-number alone {one.hours:.2f} h × ({light.f_number:g} / {one.f_number:g})² = {by_aperture:.2f} h.",
    )
    return NightAdded(one.name, one.frames, one.hours, by_aperture, weighted, snr, working)


def _snr_squared_per_hour(light: Light, step_noise_e: float, exposure_s: float) -> float:
    once = float(signal_to_noise(light.target_e_s, light.background_e_s, step_noise_e, exposure_s))
    return once**2 * 3600.0 / exposure_s


def add_up(
    sessions: Sequence[Session], subject: Subject, light: Light, step: IsoStep, exposure_s: float
) -> tuple[tuple[NightAdded, ...], Sum]:
    """Earlier nights in hours of the setting in hand, by f-number alone and weighted by SNR².

    Signal and sky scale with 1/N²; each night has its own sky, its own filter and, where that is known, its own camera and lens.
    What cameras of different pixels gather adds up over the same patch of sky.
    """
    rate = _snr_squared_per_hour(light, step.read_noise_e, exposure_s)
    rows = []
    for one in sessions:
        then = replace(subject, sky_mag=subject.sky_mag if one.sky_mag is None else one.sky_mag)
        if one.rig is not None:
            then = replace(then, rig=one.rig)
        if one.filters is not None:
            then = replace(then, rig=replace(then.rig, filters=one.filters))
        lit = light_of(then, one.f_number)
        noise = step.read_noise_e if one.read_noise_e is None else one.read_noise_e
        rows.append(_added(one, lit, noise, light, rate, _scale(subject.rig) / _scale(then.rig)))
    total = Sum(
        sum(row.frames for row in rows),
        sum(row.hours for row in rows),
        sum(row.equivalent_hours for row in rows),
        sum(row.weighted_hours for row in rows),
        float(np.sqrt(sum(row.snr**2 for row in rows))),
    )
    return tuple(rows), total


@dataclass(frozen=True)
class HourRow:
    """So many hours at the tripod tonight, on top of what is gathered."""

    hours: float
    frames: int
    snr: float
    adds: float | None  # share by which one hour more would raise it; None where nothing is gathered at all


STACKS = (16, 32, 64, 128)


@dataclass(frozen=True)
class StackRow:
    """So many frames of this sub stacked: signal to noise of one pixel, and its noise as a share of the target's light."""

    frames: int
    snr: float
    noise_share: float


@dataclass(frozen=True)
class Many:
    """Progress and prospects."""

    rows: Sequence[HourRow]
    stacks: Sequence[StackRow]
    gathered: Sum
    added: Sequence[NightAdded]
    goal_frames: int | None  # to shoot until the goal, culls counted; None when out of reach
    goal_hours: float | None
    tonight_snr: float  # after tonight's frames
    limits: Sequence[FrameLimit]
    enough_hours: float | None  # from here on the next hour adds little


def how_many(
    subject: Subject,
    light: Light,
    step: IsoStep,
    exposure_s: float,
    pause_s: float,
    keep: float,
    frames_tonight: int,
    limits: Sequence[FrameLimit],
    sessions: Sequence[Session],
) -> Many:
    """Signal to noise of one pixel against hours. Frames to shoot are those kept over the keep rate."""
    added, gathered = add_up(sessions, subject, light, step, exposure_s)
    goal_snr = subject.choices.goal_snr
    once = float(signal_to_noise(light.target_e_s, light.background_e_s, step.read_noise_e, exposure_s)) ** 2
    per_hour = 3600.0 / (exposure_s + pause_s)
    have = gathered.snr**2

    def snr(hours: float) -> float:
        return float(np.sqrt(have + once * keep * per_hour * hours))

    def adds(hours: float) -> float | None:
        now = snr(hours)
        return snr(hours + 1.0) / now - 1.0 if now > 0 else None

    rows = tuple(HourRow(hours, int(per_hour * hours), snr(hours), adds(hours)) for hours in HOURS)
    missing = max(goal_snr**2 - have, 0.0)
    reachable = once * keep > 0 and missing / (once * keep) < 1e6
    goal_frames = ceil(missing / (once * keep) - 1e-9) if reachable else None
    # sqrt((h0 + h + 1) / (h0 + h)) - 1 = LITTLE
    enough = 1.0 / ((1.0 + LITTLE) ** 2 - 1.0) - have / (once * keep * per_hour) if once * keep > 0 else None
    per_frame = float(np.sqrt(once))
    stacks = tuple(StackRow(n, per_frame * n**0.5, 1.0 / (per_frame * n**0.5)) for n in STACKS) if per_frame > 0 else ()
    return Many(
        rows,
        stacks,
        gathered,
        added,
        goal_frames,
        goal_frames / per_hour if goal_frames is not None else None,
        float(np.sqrt(have + once * keep * frames_tonight)),
        limits,
        max(enough, 0.0) if enough is not None else None,
    )

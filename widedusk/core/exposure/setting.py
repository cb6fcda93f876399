"""From a rig, a sky and a person's choices to what falls into one pixel and what moves it."""

from dataclasses import dataclass, replace
from typing import Literal

import numpy as np

from widedusk.core.choices import Choices
from widedusk.core.errors import Checks
from widedusk.core.exposure.light import central_share, electrons_per_s, frames_for, star0_e_s
from widedusk.core.exposure.response import Response, response
from widedusk.core.exposure.sub import Conditions, DriftKey, limit_with_reserve
from widedusk.core.kit.aperture import ApertureSchool, optics_verdict, school_f_number
from widedusk.core.kit.optics import crop_factor, image_scale_arcsec_px, ring_f_number
from widedusk.core.kit.parts import IsoStep, Rig
from widedusk.core.kit.payload import carried_mass_g
from widedusk.core.scene import Target
from widedusk.core.sky.brightness import EXTINCTION_V
from widedusk.core.sky.time import Floats
from widedusk.core.tracking.drift import SIDEREAL_RATE_ARCSEC_S, worst_drift_arcsec_s
from widedusk.core.tracking.elongation import FWHM_PER_SIGMA, tolerated_trail_px, uniform_trail_ratio
from widedusk.core.tracking.keep_rate import Motion
from widedusk.core.tracking.untracked import UntrackedSchool, detailed_rule_s, pixel_rule_s, rule_of_500_s
from widedusk.core.tracking.wind import gust_free_s
from widedusk.core.verdict import Verdict

DARKEST_E_S = 1e-9  # a filter that shuts everything out still divides by something
WHOLE_FROM_S = 10.0  # from here on timers key whole seconds
NO_WORM_S = 480.0  # a period for a worm that does not turn
EASY_LOAD = 0.6  # of the rating; beyond it the drive's errors grow in proportion. Common practice, the proportion our own


# How the axis is known. measured: a place; expected: so far off, taken in the worst direction; usual: what a way of aligning
# leaves, over all the sizes and directions it may have.
AxisKnown = Literal["measured", "expected", "usual"]
DIRECTIONS = np.radians(np.linspace(90.0, 0.0, 7))  # of an axis about the pole, seen from the target; the rest mirror these
AVERAGED = np.radians([15.0, 45.0, 75.0])  # middles of a quarter's thirds, each as likely as the others
QUANTILES = np.array([0.1, 0.3, 0.5, 0.7, 0.9])  # of an axis's distance from the pole, each for a fifth of all
SURE = 0.9  # of such alignments stand within what a way is said to leave at worst. Our own reading of common practice


@dataclass(frozen=True)
class Drift:
    """What the axis does to the target, arcsec per second: along right ascension and declination, and the field rotation
    about the middle in radians per second; and how far off the pole that axis stands."""

    ra_arcsec_s: float
    dec_arcsec_s: float
    turn_rad_s: float
    axis_arcmin: float


def lag_arcsec_s(axis_arcmin: float, dec_rad: float) -> float:
    """How much slower than the sky an axis off the pole carries a target along right ascension: w (1 - cos(e)) cos(dec)."""
    return float(SIDEREAL_RATE_ARCSEC_S * (1.0 - np.cos(np.radians(axis_arcmin / 60.0))) * np.cos(dec_rad))


def drift_towards(axis_arcmin: float, direction_rad: float, dec_rad: float) -> Drift:
    """Of an axis so far off, in a direction about the pole: seen from the target 90° shifts it along declination by all of
    w sin(e), 0° turns the field by w sin(e) cos(dec) and shifts along right ascension by w sin(e) sin(dec). From w (M - P) x s,
    whose part along the pole, w (1 - cos(e)) cos(dec) along right ascension, is taken to add to the rest."""
    rate = float(worst_drift_arcsec_s(np.sin(np.radians(axis_arcmin / 60.0))))
    along, across = float(np.cos(direction_rad)), float(np.sin(direction_rad))
    turn = float(np.radians(rate / 3600.0) * np.cos(dec_rad)) * abs(along)
    ra = rate * float(np.sin(dec_rad)) * along
    return Drift(ra + float(np.copysign(lag_arcsec_s(axis_arcmin, dec_rad), ra)), rate * across, turn, axis_arcmin)


def expected_drifts(axis_arcmin: float, dec_rad: float) -> tuple[Drift, ...]:
    """An axis off by so much in every direction that may be the worst; the fastest first."""
    return tuple(drift_towards(axis_arcmin, float(one), dec_rad) for one in DIRECTIONS)


def usual_drifts(worst_arcmin: float, dec_rad: float) -> tuple[Drift, ...]:
    """What a way of aligning leaves when nobody measures: an axis anywhere about the pole, normally scattered both ways, nine in
    ten within what the way leaves at worst. Each drift stands for as many alignments as any other; the fastest first."""
    sizes = worst_arcmin * np.sqrt(np.log1p(-QUANTILES) / np.log1p(-SURE))
    return tuple(drift_towards(float(size), float(one), dec_rad) for size in sizes[::-1] for one in AVERAGED[::-1])


@dataclass(frozen=True)
class Subject:
    """With what, at what, under which sky, and how: all that exposures are reckoned from."""

    rig: Rig
    target: Target
    sky_mag: float  # at the target, mean of the window
    mean_airmass: float
    choices: Choices
    drifts: tuple[Drift, ...]  # measured: at even moments of the window; else: of every axis it may be; the fastest first
    axis: AxisKnown = "expected"

    @property
    def drift(self) -> Drift:
        """The fastest."""
        return self.drifts[0]


@dataclass(frozen=True)
class Light:
    """Electrons per second in one pixel."""

    target_e_s: float
    sky_e_s: float
    dark_e_s: float
    response: Response
    f_number: float
    star0_e_s: float  # from a whole star listed with V = 0, through the air

    @property
    def background_e_s(self) -> float:
        """Sky and dark current."""
        return self.sky_e_s + self.dark_e_s

    def hours_for(self, snr: float, step: IsoStep, exposure_s: float, pause_s: float, keep: float) -> float:
        """Hours at the tripod until one pixel of the target has a signal to noise, culls and pauses counted; inf when never."""
        if keep <= 0.0 or self.target_e_s <= 0.0:
            return float("inf")
        kept = float(frames_for(snr, self.target_e_s, self.background_e_s, step.read_noise_e, exposure_s))
        return kept / keep * (exposure_s + pause_s) / 3600.0


def stands_still(rig: Rig, choices: Choices) -> bool:
    return rig.tracker is None or choices.tracking == "untracked"


def aperture_school(rig: Rig, choices: Choices) -> ApertureSchool:
    """The person's own; else the lens's best corners, and wide open where nothing tracks: there light counts most."""
    return choices.aperture_school or ("wide" if stands_still(rig, choices) else "corners")


def aperture(rig: Rig, choices: Choices) -> float:
    """The f-number in use. Raises InvalidInput for one the lens cannot open to."""
    f_number = choices.f_number
    if f_number is None:
        return school_f_number(rig.lens, rig.ring_mm, aperture_school(rig, choices))
    if f_number < rig.lens.f_widest:
        checks = Checks()
        checks.fault(
            "f_number", f_number, f"f/{f_number:.3g} is wider than {rig.lens.name} opens; give f/{rig.lens.f_widest:.3g} or more."
        )
        checks.done()
    return max(f_number, ring_f_number(rig.lens.focal_mm, rig.ring_mm, rig.lens.f_widest)) if rig.ring_mm else f_number


def optics_of(rig: Rig, choices: Choices) -> Verdict:
    """What pixel and frame see at the aperture in use."""
    still = stands_still(rig, choices)
    return optics_verdict(rig.camera, rig.lens, aperture(rig, choices), rig.ring_mm, aperture_school(rig, choices), still)


def aperture_cm2(rig: Rig, f_number: float) -> float:
    """Area of the entrance pupil."""
    return float(np.pi / 4.0 * (rig.lens.focal_mm / 10.0 / f_number) ** 2)


def rates_under(
    rig: Rig, target: Target, through: Response, f_number: float, sky_mag: Floats | float, air: Floats | float
) -> tuple[Floats, Floats]:
    """Electrons per second in one pixel from a target and from the sky behind it, under any sky and airmass; arrays broadcast."""

    def electrons(mag: Floats | float) -> Floats:
        return electrons_per_s(mag, rig.camera.pitch_um, f_number, rig.camera.response_nm)

    dimmed = target.surface_mag + EXTINCTION_V * np.asarray(air)
    return electrons(dimmed) * through.target, np.maximum(electrons(sky_mag) * through.sky, DARKEST_E_S)


def light_of(subject: Subject, f_number: float) -> Light:
    """Electrons from target and sky through the rig's filters, the target dimmed by the air."""
    rig = subject.rig
    through = response(rig.camera, rig.filters, subject.target)
    target, sky = rates_under(rig, subject.target, through, f_number, subject.sky_mag, subject.mean_airmass)
    return Light(
        float(target),
        float(sky),
        rig.camera.dark_e_s,
        through,
        f_number,
        star0_e_s(aperture_cm2(rig, f_number), rig.camera.response_nm * through.sky, subject.mean_airmass),
    )


def as_carried(rig: Rig, choices: Choices) -> Choices:
    """The choices as far as they fit the rig: without a tracker the camera stands still, whatever is chosen."""
    return replace(choices, tracking="untracked") if rig.tracker is None else choices


def overload(rig: Rig) -> float:
    """By how much the drive's errors grow under the load: 1 up to 60 % of the rating, then in proportion."""
    if rig.tracker is None:
        return 1.0
    return max(carried_mass_g(rig) / rig.tracker.rating_g / EASY_LOAD, 1.0)


def star_width_px(rig: Rig, choices: Choices) -> float:
    """Width of a star before any drift: the rig's own, and what guiding leaves when it guides."""
    if choices.tracking not in {"guided", "guided in RA"}:
        return rig.star_fwhm_px
    scale = float(image_scale_arcsec_px(rig.camera.pitch_um, rig.lens.focal_mm))
    return float(np.hypot(rig.star_fwhm_px, FWHM_PER_SIGMA * choices.guide_rms_arcsec / scale))


def motion_of(subject: Subject, drift: Drift) -> tuple[Motion, DriftKey]:
    """What moves stars on the sensor in the way of tracking that is chosen, and what the drift in it is called.

    Guiding takes periodic error and the drift of the axes it corrects; the field goes on turning about the guide star,
    which is taken to stand half a diagonal from the corner that suffers most.
    """
    rig, choices = subject.rig, subject.choices
    scale = float(image_scale_arcsec_px(rig.camera.pitch_um, rig.lens.focal_mm))
    cos_dec = float(np.cos(np.radians(subject.target.dec_deg)))
    corner_px = float(np.hypot(rig.camera.width_mm, rig.camera.height_mm)) / 2.0 * 1000.0 / rig.camera.pitch_um
    turn_px_s = drift.turn_rad_s * corner_px
    tracker = rig.tracker
    if tracker is None or choices.tracking == "untracked":
        return Motion(0.0, NO_WORM_S, 0.0, SIDEREAL_RATE_ARCSEC_S * cos_dec / scale), "untracked"
    period = tracker.pe_period_s
    if choices.tracking == "guided":
        return Motion(0.0, period, turn_px_s), "rotation"
    if choices.tracking == "guided in RA":
        return Motion(0.0, period, float(np.hypot(drift.dec_arcsec_s / scale, turn_px_s))), "alignment"
    worm = tracker.pe_half_amplitude_arcsec * overload(rig) * cos_dec / scale
    return Motion(worm, period, drift.dec_arcsec_s / scale, drift.ra_arcsec_s / scale), "alignment"


def conditions(subject: Subject, light: Light) -> Conditions:
    """What bears on the sub: background, motion, wind, and the user's limits."""
    rig, choices = subject.rig, subject.choices
    scale = float(image_scale_arcsec_px(rig.camera.pitch_um, rig.lens.focal_mm))
    moved = sorted((motion_of(subject, drift) for drift in subject.drifts), key=lambda one: -one[0].drift_speed_px_s)
    width = star_width_px(rig, choices)
    limit = limit_with_reserve(choices.elongation_limit)
    if moved[0][1] == "untracked" and choices.sub_school != "fixed":
        # Whoever goes by a rule takes the trail that it leaves.
        limit = max(limit, trail_ratio(subject, untracked_s(subject, light.f_number)) * (1.0 + 1e-9))
    return Conditions(
        light.background_e_s,
        tuple(motion for motion, _ in moved),
        width,
        limit,
        choices.gap_s + choices.mirror_s,
        choices.keep_percent / 100.0,
        choices.noise_percent / 100.0,
        choices.ceiling_percent / 100.0,
        gust_free_s(choices.wind_level, scale),
        3600.0 / choices.spoils_per_h if choices.spoils_per_h else np.inf,
        light.star0_e_s * 10.0 ** (-0.4 * choices.star_mag) * float(central_share(width)),
        moved[0][1],
        subject.axis == "expected",
    )


def trail_ratio(subject: Subject, exposure_s: float) -> float:
    """Long over short axis of a star that a camera standing still lets pass for so long."""
    rig = subject.rig
    scale = float(image_scale_arcsec_px(rig.camera.pitch_um, rig.lens.focal_mm))
    trail = SIDEREAL_RATE_ARCSEC_S * float(np.cos(np.radians(subject.target.dec_deg))) / scale * exposure_s
    return float(uniform_trail_ratio(trail, rig.star_fwhm_px))


def untracked_s(subject: Subject, f_number: float, school: UntrackedSchool | None = None) -> float:
    """Longest exposure on a camera that stands still, by a school or the person's own, in whole seconds, tenths below ten."""
    rig, choices, dec = subject.rig, subject.choices, float(np.radians(subject.target.dec_deg))
    school = school or choices.untracked_school
    if school == "500":
        seconds = rule_of_500_s(rig.lens.focal_mm, crop_factor(rig.camera.width_mm, rig.camera.height_mm))
    elif school == "detailed":
        seconds = detailed_rule_s(rig.lens.focal_mm, f_number, rig.camera.pitch_um, dec)
    else:
        scale = float(image_scale_arcsec_px(rig.camera.pitch_um, rig.lens.focal_mm))
        seconds = pixel_rule_s(tolerated_trail_px(limit_with_reserve(choices.elongation_limit), rig.star_fwhm_px), scale, dec)
    return float(np.floor(seconds)) if seconds >= WHOLE_FROM_S else max(float(np.floor(seconds * 10.0)) / 10.0, 0.1)

"""One night looked through once: window, sky, light, limits, the sub and its card. Tonight and Exposure both begin here."""

from dataclasses import dataclass, replace
from datetime import date
from functools import lru_cache

import numpy as np

from widedusk.core.choices import Choices, Tracking
from widedusk.core.exposure.card import Calibration, Card, Pauses, card
from widedusk.core.exposure.response import Through
from widedusk.core.exposure.setting import (
    AxisKnown,
    Drift,
    Light,
    Subject,
    aperture,
    as_carried,
    conditions,
    drift_towards,
    expected_drifts,
    light_of,
    untracked_s,
    usual_drifts,
)
from widedusk.core.exposure.sub import Conditions, SubAdvice, advise
from widedusk.core.kit.assembly import Assembly
from widedusk.core.kit.dew import Air
from widedusk.core.kit.parts import Camera, Rig, Timer, Tracker
from widedusk.core.kit.power import Swap, air_for, lanes, tripped
from widedusk.core.night.windows import Night, Run, Track, mean_sky_mag, night_at, setup_minute, track
from widedusk.core.pole.at_target import drifts_at
from widedusk.core.pole.axis import Axis, UsualAxis
from widedusk.core.pole.tolerance import Tolerance, card_tolerance
from widedusk.core.scene import Spot, Target
from widedusk.core.sky.brightness import airmass
from widedusk.core.sky.horizon import HorizonProfile
from widedusk.core.sky.time import MINUTE, Floats

NEEDED = (Camera, Tracker, Timer)  # without current for these there are no frames
MOMENTS = 3  # of the window at which a measured axis is reckoned with: its drift turns with the sky


@dataclass(frozen=True)
class Outlook:
    night: Night
    path: Track
    run: Run | None  # the longest usable stretch
    subject: Subject
    light: Light
    wanted: Conditions
    advice: SubAdvice
    card: Card
    wished: Card  # if there were power enough
    powered_s: float  # from the first frame until what takes pictures has no current; infinite where it lasts
    axis: Axis | None  # where it stands, or what the way it was aligned usually leaves; None: only expected
    guided: SubAdvice | None  # if the guider on the rig were used; none where it is, or cannot be
    tolerance: (
        Tolerance  # of the axis, for the sub as planned, or the longer one that the axis allows, and the run there is time for
    )

    @property
    def window_s(self) -> float:
        return (self.run[1] - self.run[0]) * 60.0 if self.run else 0.0

    @property
    def begins_mjd(self) -> float | None:
        return float(self.night.mjd[self.run[0]]) if self.run else None


def _held(spot: Spot) -> Spot:
    """The same spot with its profile as tuples, so that it can be a key."""
    return replace(
        spot, horizon=HorizonProfile(tuple((float(azimuth), float(height)) for azimuth, height in spot.horizon.points_deg))
    )


@lru_cache(maxsize=64)
def _night(spot: Spot, evening: date) -> Night:
    return night_at(spot, evening)


@lru_cache(maxsize=128)
def _track(spot: Spot, evening: date, target: Target, darkness: Choices, through: Through | None) -> Track:
    return track(_night(spot, evening), target, darkness, through)


def under_way(night: Night, path: Track, run: Run | None) -> tuple[float, float]:
    """Sky at the target and airmass, means over a stretch; of a moonless zenith where there is none."""
    if run is None:
        return night.spot.sky_mag, 1.0
    return mean_sky_mag(path, run), float(np.mean(airmass(path.altitude[run[0] : run[1] + 1])))


def night_of(spot: Spot, evening: date) -> Night:
    """Sun and Moon of a night, kept for the last few asked; read only. Raises InvalidInput for years out of reach."""
    return _night(_held(spot), evening)


def looked_at(spot: Spot, evening: date, target: Target, choices: Choices, through: Through | None = None) -> tuple[Night, Track]:
    """Night and path, kept for the last few asked: a change of ISO does not move the Moon. Both are read only."""
    spot = _held(spot)
    seen = Choices(darkness=choices.darkness, min_altitude_deg=choices.min_altitude_deg, moon_limit_mag=choices.moon_limit_mag)
    return _night(spot, evening), _track(spot, evening, target, seen, through if through and through.filters else None)


def pauses_of(choices: Choices) -> Pauses:
    return Pauses(choices.gap_s, choices.mirror_s, choices.noise_reduction == "on")


def calibration_of(choices: Choices) -> Calibration:
    """Frames to follow; whoever dithers takes no darks."""
    return Calibration(0 if choices.dark_school == "dither" else choices.darks, choices.flats, choices.bias)


@dataclass(frozen=True)
class Supply:
    """What feeds a rig, and the air it stands in; none where nobody told any."""

    assembly: Assembly
    air: Air | None

    def lasts_s(self, setup: float, begins: float, made: Card) -> float:
        """From the first frame until camera, tracker or timer have no current; infinite where that is after the programme.

        The load begins at set-up. setup, begins: MJD.
        """
        count = round((begins - setup) / MINUTE + (made.total_s + made.calibration_s) / 60.0)
        if count < 1:
            return np.inf
        minutes = setup + np.arange(count + 1.0) * MINUTE
        first = min((ends for ends, _ in feeding(self.assembly, air_for(self.air, minutes))), default=count)
        return max((setup + first * MINUTE - begins) * 86_400.0, 0.0) if first < count else np.inf


def feeding(assembly: Assembly, air_c: Floats) -> list[tuple[int, tuple[Swap, ...]]]:
    """Of each battery that camera, tracker or timer need: the minute at which it ends, spares counted, and the swaps for those.
    air_c: minute by minute from when all is switched on."""
    needed = {one.name for one in assembly.placed if isinstance(one.part, NEEDED)}
    over = tripped(assembly)
    found = []
    for lane in lanes(assembly, air_c):
        mine = [feed for feed in lane.feeds if feed.name in needed]
        if mine:
            off = any({lane.battery, feed.hub} & over for feed in mine)
            found.append((0 if off else lane.lasts_min, lane.swaps))
    return found


def programme(rig: Rig, choices: Choices, window_s: float, exposure_s: float, keep: float, powered_s: float = float("inf")) -> Card:
    """The card for one length of sub."""
    most = choices.most_hours * 3600.0 if choices.most_hours is not None else float("inf")
    return card(
        window_s,
        exposure_s,
        pauses_of(choices),
        choices.delay_s,
        keep,
        rig.camera.raw_file_mb,
        choices.card_gb,
        calibration_of(choices),
        most,
        powered_s,
    )


def advised(subject: Subject, light: Light, wanted: Conditions) -> SubAdvice:
    """The sub by the person's school; without a tracker by the school of that, unless a habit is kept."""
    choices, camera = subject.choices, subject.rig.camera
    if choices.tracking == "untracked" and choices.sub_school != "fixed":
        stands = untracked_s(subject, light.f_number)
        found = advise(wanted, camera, "fixed", stands, choices.iso)
        return replace(found, binds="untracked")
    return advise(wanted, camera, choices.sub_school, choices.fixed_sub_s, choices.iso)


def _guided(subject: Subject, light: Light) -> SubAdvice | None:
    """What the guider that is on the rig would bring."""
    rig, choices = subject.rig, subject.choices
    axes = rig.tracker.guide_axes if rig.tracker else "no"
    if not rig.guider or axes == "no" or choices.tracking != "tracked" or choices.sub_school == "fixed":
        return None
    way: Tracking = "guided" if axes == "both axes" else "guided in RA"
    seen = replace(subject, choices=replace(choices, tracking=way))
    return advised(seen, light, conditions(seen, light))


def _set_out(subject: Subject, light: Light, advice: SubAdvice) -> tuple[SubAdvice, SubAdvice]:
    """The sub that one sets out to take, and that of an axis on the pole.

    One sets out with the axis one expects; where it turns out better and allows a longer sub, with that.
    """
    dec = float(np.radians(subject.target.dec_deg))

    def under(*drifts: Drift) -> SubAdvice:
        seen = replace(subject, drifts=drifts, axis="expected")
        return advised(seen, light, conditions(seen, light))

    planned = advice if subject.axis == "expected" else under(*expected_drifts(subject.choices.alignment_arcmin, dec))
    return max(advice, planned, key=lambda one: one.exposure_s), under(drift_towards(0.0, 0.0, dec))


def outlook(
    rig: Rig, spot: Spot, evening: date, target: Target, choices: Choices, axis: Axis | None = None, supply: Supply | None = None
) -> Outlook:
    """Work out the exposures of one night.

    axis: as measured or left tonight; None: off by what the person expects, the worst way. supply: with it the frames end where the
    power does. Raises InvalidInput naming every field that cannot be right.
    """
    choices = as_carried(rig, choices)
    night, path = looked_at(spot, evening, target, choices, Through(rig.camera, tuple(rig.filters)))
    run = path.best_run
    sky_mag, through = under_way(night, path, run)
    top = int(np.argmax(path.altitude))
    inside = slice(run[0], run[1] + 1) if run else slice(top, top + 1)
    dec = float(np.radians(target.dec_deg))
    drifts: tuple[Drift, ...]
    known: AxisKnown
    if axis is None:
        drifts, known = expected_drifts(choices.alignment_arcmin, dec), "expected"
    elif isinstance(axis, UsualAxis):
        drifts, known = usual_drifts(axis.worst_arcmin, dec), "usual"
    else:
        moments = night.mjd[inside.start] + (np.arange(MOMENTS) + 0.5) / MOMENTS * (
            night.mjd[inside.stop - 1] - night.mjd[inside.start]
        )
        drifts, known = drifts_at(axis, spot.observer, choices.pole, target, moments), "measured"
    subject = Subject(rig, target, sky_mag, through, choices, drifts, known)
    light = light_of(subject, aperture(rig, choices))
    wanted = conditions(subject, light)
    advice = advised(subject, light, wanted)
    window_s = (run[1] - run[0]) * 60.0 if run else 0.0
    wished = programme(rig, choices, window_s, advice.exposure_s, advice.keep)
    powered_s = np.inf
    if supply is not None and run is not None and wished.frames:
        powered_s = supply.lasts_s(setup_minute(night, choices), float(night.mjd[run[0]]), wished)
    made = programme(rig, choices, window_s, advice.exposure_s, advice.keep, powered_s)
    patient_s = choices.most_hours * 3600.0 if choices.most_hours is not None else np.inf
    tolerance = card_tolerance(subject, light, *_set_out(subject, light, advice), min(window_s, patient_s))
    guided = _guided(subject, light)
    return Outlook(night, path, run, subject, light, wanted, advice, made, wished, powered_s, axis, guided, tolerance)


def ends_mjd(begins: float, made: Card) -> float:
    return begins + made.total_s / 60.0 * MINUTE

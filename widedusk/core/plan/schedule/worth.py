"""What each minute of a night is worth: a rig on an aim, from the sky, the air, the Moon and the filter of that minute."""

from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from datetime import date
from functools import cached_property

import numpy as np

from widedusk.core.choices import DARK_SUN_DEG, Choices
from widedusk.core.exposure.light import signal_to_noise
from widedusk.core.exposure.response import Through
from widedusk.core.exposure.setting import as_carried, rates_under
from widedusk.core.framing.frame import MAX_SHARE, MIN_SHARE, share_of_frame, sides_deg
from widedusk.core.kit.assembly import Assembly
from widedusk.core.kit.dew import Air
from widedusk.core.kit.optics import image_scale_arcsec_px
from widedusk.core.kit.parts import Counterweight, Rig
from widedusk.core.kit.power import Swap, air_for
from widedusk.core.night.windows import STATES, Track, setup_minute
from widedusk.core.plan.outlook import Outlook, calibration_of, feeding, looked_at, night_of, outlook, pauses_of
from widedusk.core.plan.schedule.problem import Bools, Way
from widedusk.core.pole.axis import Axis
from widedusk.core.pole.keeping import FRAMES
from widedusk.core.scene import Spot, Target
from widedusk.core.sky.brightness import airmass
from widedusk.core.sky.horizon import hour_angle
from widedusk.core.sky.places import star_place
from widedusk.core.sky.time import MINUTE, Floats

FRAMED_SUN_DEG = DARK_SUN_DEG["nautical"]  # from here on enough stars are out to frame by
# What interrupts a run; common practice, no source.
LOOK_MIN = 2.0  # at the axis, after every so many frames
REFOCUS_EVERY_MIN, REFOCUS_MIN = 60.0, 3.0  # as the lens cools
SWAP_MIN = 5  # of a battery


@dataclass(frozen=True)
class Stand:
    """A rig out there, with what feeds it, how it is used and how its axis stands."""

    name: str
    rig: Rig
    choices: Choices
    assembly: Assembly | None = None
    axis: Axis | None = None

    @property
    def turns_over(self) -> bool:
        """Whether the camera has to be turned over at the meridian: on a bracket against a counterweight it meets the tripod."""
        return self.rig.support == "bracket" and self.assembly is not None and bool(self.assembly.all(Counterweight))


@dataclass(frozen=True)
class PanelWish:
    """One panel of a wished picture, or the whole of it. elsewhere: what other planned nights are to bring it, as the square of the
    signal to noise of one square arcsecond."""

    name: str  # empty for the only one
    ra_deg: float
    dec_deg: float
    elsewhere: float = 0.0


@dataclass(frozen=True)
class Wish:
    """A picture that somebody wants of a night."""

    target: Target
    panels: Sequence[PanelWish]
    weight: float = 1.0
    least_h: float = 0.0
    framed: bool = False  # somebody chose the frame, whatever it shows of the target


@dataclass(frozen=True)
class Current:
    """Minute of the night at which what takes pictures runs out of power, and which batteries are swapped when."""

    ends: int
    swaps: tuple[Swap, ...] = ()


@dataclass(frozen=True)
class Taken:
    """A wish through one stand: how it is exposed, and each of its panels through the night."""

    stand: Stand
    wish: Wish
    seen: Outlook  # of its middle
    paths: Sequence[Track] = field(default=())

    @property
    def share(self) -> float:
        """How much of the frame the target fills, along its tighter side."""
        target = self.wish.target
        width = target.extent_deg if target.width_deg is None else target.width_deg
        return float(share_of_frame(target.extent_deg, width, sides_deg(self.stand.rig)))

    @property
    def suits(self) -> bool:
        return self.wish.framed or MIN_SHARE <= self.share <= MAX_SHARE

    @property
    def _plain_s(self) -> float:
        """From the start of one frame to the next, nobody interrupting."""
        return self.seen.advice.exposure_s + pauses_of(self.stand.choices).after(self.seen.advice.exposure_s)

    @cached_property
    def cycle_s(self) -> float:
        """From the start of one frame to the next, with what looks and focusing take of each."""
        choices = self.stand.choices
        looks = LOOK_MIN * 60.0 / FRAMES if choices.recheck_school == "thirty frames" and choices.tracking != "untracked" else 0.0
        return (self._plain_s + looks) * REFOCUS_EVERY_MIN / (REFOCUS_EVERY_MIN - REFOCUS_MIN)

    @property
    def duty(self) -> float:
        """Share of a run for which the shutter is open."""
        return self.seen.advice.exposure_s / self.cycle_s

    def pace(self, sky_mag: Floats | float, air: Floats | float) -> Floats:
        """Square of the signal to noise that an hour brings to a patch of sky of one square arcsecond."""
        rig, advice, light = self.seen.subject.rig, self.seen.advice, self.seen.light
        target, sky = rates_under(rig, self.wish.target, light.response, light.f_number, sky_mag, air)
        once = signal_to_noise(target, sky + light.dark_e_s, advice.step.read_noise_e, advice.exposure_s)
        scale = float(image_scale_arcsec_px(rig.camera.pitch_um, rig.lens.focal_mm))
        return np.asarray(once**2 * advice.keep * 3600.0 / self.cycle_s / scale**2)

    @property
    def best_pace(self) -> float:
        """Under a moonless zenith of this spot, nobody interrupting."""
        return float(self.pace(self.seen.night.spot.sky_mag, 1.0)) * self.cycle_s / self._plain_s


def taken(stand: Stand, wish: Wish, spot: Spot, evening: date) -> Taken:
    """Look through one wish with one stand. One sub serves all panels, so that one set of darks does. Raises InvalidInput."""
    choices = as_carried(stand.rig, stand.choices)
    seen = outlook(stand.rig, spot, evening, wish.target, choices, stand.axis)
    through = Through(stand.rig.camera, tuple(stand.rig.filters))
    paths = [
        looked_at(spot, evening, replace(wish.target, ra_deg=one.ra_deg, dec_deg=one.dec_deg), choices, through)[1]
        for one in wish.panels
    ]
    return Taken(replace(stand, choices=choices), wish, seen, paths)


def current(stand: Stand, spot: Spot, evening: date, air: Air | None) -> Current:
    """When the power of camera, tracker and timer ends, everything on from set-up to sunrise, spares put in as the Bench does."""
    night = night_of(spot, evening)
    last = len(night.mjd) - 1
    if stand.assembly is None:
        return Current(last)
    begin = round((setup_minute(night, stand.choices) - night.mjd[0]) / MINUTE)
    _, up = night.sunset_and_sunrise()
    end = round((up - night.mjd[0]) / MINUTE) if up is not None else last
    if end <= begin:
        return Current(last)
    minutes = night.mjd[0] + np.arange(begin, end + 1.0) * MINUTE
    ends, swaps = last, list[Swap]()
    for runs_out, fresh in feeding(stand.assembly, air_for(air, minutes)):
        swaps += [replace(one, minute=begin + one.minute) for one in fresh]
        if runs_out < len(minutes) - 1:
            ends = min(ends, begin + runs_out)
    return Current(ends, tuple(sorted((one for one in swaps if one.minute < ends), key=lambda one: (one.minute, one.empty))))


def card_room(stand: Stand) -> float:
    """Frames that its memory card holds in a night, those of calibration taken off."""
    return float(max(stand.choices.card_gb * 1000.0 // stand.rig.camera.raw_file_mb - calibration_of(stand.choices).total, 0.0))


def _sides(one: Taken, panel: PanelWish) -> list[tuple[int, Bools]]:
    """Sides of the meridian on which the camera may be, and when: -1 before it, 1 after; 0 where it does not matter."""
    night, choices = one.seen.night, one.stand.choices
    if not one.stand.turns_over or choices.meridian_school == "ignore":
        return [(0, np.ones(len(night.mjd), dtype=bool))]
    ra, _ = star_place(np.radians(panel.ra_deg), np.radians(panel.dec_deg), float(night.mjd[len(night.mjd) // 2]))
    turned = hour_angle(ra, night.mjd, night.spot.observer.longitude_rad)
    past_min = np.degrees((turned + np.pi) % (2.0 * np.pi) - np.pi) * 4.0
    before = (-1, past_min <= choices.past_meridian_min)
    after = (1, past_min >= -choices.past_meridian_min)
    return [after] if choices.meridian_school == "wait" else [before, after]


def ways_of(
    found: Sequence[Taken],
    lane: int,
    first_aim: Sequence[int],
    best: Sequence[float],
    power: Current,
    asleep: tuple[int, int] | None,
    between: tuple[int, int],
) -> list[Way]:
    """Every way one lane can shoot the panels of all wishes. first_aim, best: of each wish, its first aim and the best pace.

    between: minutes before and after which nothing is done.
    """
    made = []
    for one, first, pace in zip(found, first_aim, best, strict=True):
        if pace <= 0.0:
            continue
        night = one.seen.night
        setup = round((setup_minute(night, one.stand.choices) - night.mjd[0]) / MINUTE)
        minutes = np.arange(len(night.mjd))
        fed = (minutes >= max(setup, between[0])) & (minutes < min(power.ends, between[1]))
        swapped = np.zeros(len(minutes), dtype=bool)
        until = power.ends
        for swap in (one.minute for one in power.swaps):
            if asleep is not None and asleep[0] <= swap < asleep[1]:
                fed &= minutes < swap  # nobody is up to change it
                until = min(until, swap)
            swapped |= (minutes >= swap) & (minutes < swap + SWAP_MIN)
        out = np.degrees(night.sun_altitude) <= FRAMED_SUN_DEG
        for number, (panel, path) in enumerate(zip(one.wish.panels, one.paths, strict=True)):
            worth = one.pace(path.sky_mag, airmass(path.altitude)) / pace / 60.0
            usable = (path.state == STATES.index("usable")) & fed
            seen = (path.altitude > np.maximum(path.obstruction, 0.0)) & out & fed | usable
            for side, free in _sides(one, panel):
                goes_on = usable & free
                counts = np.where(goes_on & ~swapped, worth, 0.0)
                made.append(Way(first + number, lane, counts, goes_on, seen & free, side, until, 60.0 / one.cycle_s))
    return made

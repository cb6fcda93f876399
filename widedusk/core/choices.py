"""How this person works: the schools and figures on which practitioners differ, with the default of the house.

Every one can be changed for a plan; none is hidden in a formula.
"""

from collections.abc import Mapping
from dataclasses import dataclass, fields
from typing import Any, Literal

from widedusk.core.errors import Checks
from widedusk.core.exposure.card import Convention
from widedusk.core.exposure.sub import SubSchool
from widedusk.core.kit.aperture import ApertureSchool
from widedusk.core.kit.balance import DecSchool, Lifting
from widedusk.core.kit.dew import DewSchool, Weather
from widedusk.core.kit.mounting import SupportSchool
from widedusk.core.kit.payload import PayloadSchool
from widedusk.core.pole.dial import PoleKind
from widedusk.core.tracking.untracked import UntrackedSchool
from widedusk.core.tracking.wind import WindLevel

RecheckSchool = Literal["thirty frames", "each target", "never"]
Darkness = Literal["astronomical", "nautical"]
Tracking = Literal["tracked", "guided in RA", "guided", "untracked"]
DarkSchool = Literal["matched", "dither"]
# What belongs to one night or one target; all the rest is how a person works, and is remembered.
OF_ONE_NIGHT = (
    "setup_time",
    "f_number",
    "iso",
    "filter_name",
    "wind_level",
    "air_evening_c",
    "air_low_c",
    "humidity_percent",
    "wind_m_s",
)
DARK_SUN_DEG: dict[Darkness, float] = {"astronomical": -18.0, "nautical": -12.0}


@dataclass(frozen=True)
class Choices:
    payload_school: PayloadSchool = "sixty"
    payload_percent: float | None = None  # own share of the rating, with payload_school "own"
    darkness: Darkness = "astronomical"
    min_altitude_deg: float = 25.0
    moon_limit_mag: float = 0.5  # how much the Moon may brighten the sky at the target
    pole: PoleKind = "refracted"
    recheck_school: RecheckSchool = "thirty frames"
    setup_time: str | None = None  # local "HH:MM"; none: 45 minutes before it is dark
    alignment_arcmin: float = 5.0  # axis error expected after aligning
    shift_percent: float = 5.0  # of the frame's short side that the field may wander over the run, for an axis off the pole
    elongation_limit: float = 1.3  # long over short axis of a star that still counts as round
    keep_percent: float = 90.0
    noise_percent: float = 5.0  # share of the noise that read noise may add
    ceiling_percent: float = 20.0  # of the clip level that the sky may fill
    f_number: float | None = None  # none: the lens's own best corners
    sub_school: SubSchool = "best"
    fixed_sub_s: float | None = None  # with sub_school "fixed"
    iso: int | None = None  # none: lowest that stays sky-limited
    tracking: Tracking = "tracked"
    untracked_school: UntrackedSchool = "pixel"
    guide_rms_arcsec: float = 1.5  # what guiding leaves, each way
    wind_level: WindLevel = "none"
    spoils_per_h: float = 1.0  # how often something else spoils a frame: a knock, a cloud, a lamp, a cable. From memory
    filter_name: str | None = None  # one of the person's filters, or "none"; empty: as the rig stands on the Bench
    star_mag: float = 8.0  # stars fainter than this shall keep their colour
    goal_snr: float = 10.0  # of one pixel of the target
    most_hours: float | None = None  # patience; none: to the end of the window
    gap_s: float = 2.0
    mirror_s: float = 0.0  # mirror lock-up by the self-timer
    noise_reduction: Literal["off", "on"] = "off"  # the body's own dark after each frame
    delay_s: float = 10.0
    convention: Convention = "gap"
    card_gb: float = 64.0
    dark_school: DarkSchool = "matched"
    darks: int = 20
    flats: int = 20
    bias: int = 20
    aperture_school: ApertureSchool = "corners"
    support_school: SupportSchool = "bracket from 100"
    dec_school: DecSchool = "note"
    lifting: Lifting = "none"
    lifting_g_cm: float = 300.0  # residual torque that keeps the gears meshed
    dew_school: DewSchool = "heater"
    air_evening_c: float | None = None  # the weather as typed; where it is not, the forecast stands in
    air_low_c: float | None = None
    humidity_percent: float | None = None
    wind_m_s: float | None = None

    def __post_init__(self) -> None:
        checks = Checks()
        checks.within("min_altitude_deg", self.min_altitude_deg, 0, 80, "°")
        checks.within("moon_limit_mag", self.moon_limit_mag, 0, 10, "mag")
        checks.within("alignment_arcmin", self.alignment_arcmin, 0.1, 600, "′")
        checks.within("shift_percent", self.shift_percent, 0.1, 100, "%")
        checks.within("elongation_limit", self.elongation_limit, 1.02, 3)
        checks.within("keep_percent", self.keep_percent, 1, 99.9, "%")
        checks.within("noise_percent", self.noise_percent, 0.5, 100, "%")
        checks.within("ceiling_percent", self.ceiling_percent, 1, 90, "%")
        if self.f_number is not None:
            checks.within("f_number", self.f_number, 0.7, 64)
        checks.within("gap_s", self.gap_s, 0, 120, "s")
        checks.within("delay_s", self.delay_s, 0, 3600, "s")
        checks.within("card_gb", self.card_gb, 0.5, 100_000, "GB")
        for name in ("darks", "flats", "bias"):
            checks.within(name, getattr(self, name), 0, 500)
        checks.within("guide_rms_arcsec", self.guide_rms_arcsec, 0, 30, "″")
        checks.within("spoils_per_h", self.spoils_per_h, 0, 60, "an hour")
        checks.within("star_mag", self.star_mag, -2, 16, "mag")
        checks.within("goal_snr", self.goal_snr, 0.5, 500)
        if self.most_hours is not None:
            checks.within("most_hours", self.most_hours, 0.05, 24, "h")
        checks.within("mirror_s", self.mirror_s, 0, 30, "s")
        checks.within("lifting_g_cm", self.lifting_g_cm, 0, 5_000, "g·cm")
        if self.setup_time is not None and self.setup_minutes() is None:
            checks.fault("setup_time", self.setup_time, f"{self.setup_time!r} is no time of day; write it like 20:30.")
        checks.done()
        self.weather()

    def weather(self) -> Weather | None:
        """The typed weather, or None while it is not whole. Raises InvalidInput; one temperature alone stands for both."""
        evening = self.air_low_c if self.air_evening_c is None else self.air_evening_c
        low = self.air_evening_c if self.air_low_c is None else self.air_low_c
        if evening is None or low is None:
            return None
        # Without humidity the driest air is meant, and whoever asks for dew is told that it is missing.
        return Weather(evening, low, self.humidity_percent or 1.0, self.wind_m_s or 0.0)

    def setup_minutes(self) -> int | None:
        """Minutes after local midnight of the set-up time, or None when it is not given or not readable."""
        hours, colon, minutes = (self.setup_time or "").partition(":")
        if not (colon and hours.isdecimal() and minutes.isdecimal() and int(hours) < 24 and int(minutes) < 60):
            return None
        return int(hours) * 60 + int(minutes)


def set_choices(choices: Choices) -> dict[str, Any]:
    """Only what differs from the defaults, so that a better default reaches what was stored before it."""
    return {one.name: getattr(choices, one.name) for one in fields(Choices) if getattr(choices, one.name) != one.default}


def known_choices(stored: Mapping[str, Any]) -> Choices:
    """Stored choices; names that are no longer known are passed over. Raises InvalidInput."""
    known = {one.name for one in fields(Choices)}
    return Choices(**{name: value for name, value in stored.items() if name in known})

"""How this person works: the schools and figures on which practitioners differ, with the default of the house.

Every one can be changed for a plan; none is hidden in a formula. Each is described here and nowhere else: the form, the address,
the API's shape and its types follow from it.
"""

from collections.abc import Mapping
from dataclasses import dataclass, field, fields
from typing import Any, Literal

from widedusk.core.errors import Checks
from widedusk.core.kit.aperture import ApertureSchool
from widedusk.core.kit.balance import DecSchool, Lifting
from widedusk.core.kit.described import About, abouts, check, number, one_of, whole, words
from widedusk.core.kit.dew import DewSchool, Weather
from widedusk.core.kit.mounting import SupportSchool
from widedusk.core.kit.payload import PayloadSchool
from widedusk.core.tracking.untracked import UntrackedSchool
from widedusk.core.tracking.wind import WindLevel

Convention = Literal["gap", "start to start"]  # what a timer calls the interval
SubSchool = Literal["best", "sky", "tracks", "fixed"]
PoleKind = Literal["refracted", "true"]
RecheckSchool = Literal["thirty frames", "each target", "never"]
Darkness = Literal["astronomical", "nautical"]
Tracking = Literal["tracked", "guided in RA", "guided", "untracked"]
DarkSchool = Literal["matched", "dither"]
WayKey = Literal["star", "hop", "compass", "picture"]
Finder = Literal["eye", "finder", "binoculars", "frame"]
PanelSchool = Literal["all", "one"]
MeridianSchool = Literal["turn", "wait", "ignore"]
ComesAlong = Literal["phone", "laptop", "connection"]
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
Group = Literal[
    "Exposure",
    "Pole",
    "Window",
    "Payload",
    "Bench",
    "Weather you expect this night",
    "Timer and card",
    "Framing",
    "Whole night",
    "Out there",
    "Frames",
]


def _in(group: Group, described: Any, empty: str = "") -> Any:
    """A described field in a part of the form. empty: what stands where nothing is given and the default is no figure."""
    return field(default=described.default, metadata={**described.metadata, "group": group, "empty": empty})


@dataclass(frozen=True)
class Choices:
    sub_school: SubSchool = _in(
        "Exposure",
        one_of(
            "Sub length",
            {
                "best": "most useful signal per hour",
                "sky": "sky-limited minimum",
                "tracks": "longest that tracks",
                "fixed": "a fixed habit",
            },
            "best",
        ),
    )
    fixed_sub_s: float | None = _in("Exposure", number("The habit", "s", 0.1, 1_200, None, "with a fixed habit"), "none")
    f_number: float | None = _in("Exposure", number("f-number", "", 0.7, 64, None), "by Aperture, under Bench")
    iso: int | None = _in("Exposure", whole("ISO", "", 1, 1_000_000, None), "most useful")
    keep_percent: float = _in("Exposure", number("Frames to keep", "%", 1, 99.9, 90.0))
    elongation_limit: float = _in(
        "Exposure", number("Elongation of a star, at most", "×", 1.02, 3, 1.3, "long over short axis: 1.15 strict, 1.5 relaxed")
    )
    noise_percent: float = _in("Exposure", number("Read noise may add", "% of the noise", 0.5, 100, 5.0))
    ceiling_percent: float = _in("Exposure", number("Sky may fill", "% of clip", 1, 90, 20.0))
    tracking: Tracking = _in(
        "Exposure",
        one_of(
            "The camera is",
            {"tracked": "tracked", "guided in RA": "guided in RA", "guided": "guided, both axes", "untracked": "untracked"},
            "tracked",
        ),
    )
    untracked_school: UntrackedSchool = _in(
        "Exposure",
        one_of(
            "Untracked by",
            {"pixel": "strict, by pixels", "detailed": "the detailed formula", "500": "500 over focal length"},
            "pixel",
        ),
    )
    guide_rms_arcsec: float = _in("Exposure", number("Guiding error, RMS", "″", 0, 30, 1.5, "each axis"))
    wind_level: WindLevel = _in(
        "Exposure", one_of("Wind", {"none": "none", "light": "light", "fresh": "fresh", "strong": "strong"}, "none")
    )
    spoils_per_h: float = _in(
        "Exposure", number("Something spoils a frame", "times an hour", 0, 60, 1.0, "a knock, a cloud, a lamp, a cable")
    )  # from memory
    filter_name: str | None = _in("Exposure", words("Filter", None, "the name of one of yours, or none"), "as on the rig")
    star_mag: float = _in("Exposure", number("Star colour from", "mag", -2, 16, 8.0, "brighter stars may clip"))
    goal_snr: float = _in("Exposure", number("S/N wanted", "", 0.5, 500, 10.0, "of one pixel of the target"))
    most_hours: float | None = _in("Exposure", number("At most", "h", 0.05, 24, None), "the window")
    alignment_arcmin: float = _in("Pole", number("Alignment error you expect", "′", 0.1, 600, 5.0, "until one is measured"))
    shift_percent: float = _in(
        "Pole", number("The field may wander", "% of the frame", 0.1, 100, 5.0, "over the whole run, for an axis off the pole")
    )
    setup_time: str | None = _in("Pole", words("Set-up at, local time", None, "like 20:30"), "45 min before dark")
    pole: PoleKind = _in("Pole", one_of("Aim at the pole", {"refracted": "as seen, refracted", "true": "true"}, "refracted"))
    recheck_school: RecheckSchool = _in(
        "Pole",
        one_of(
            "Check the alignment again",
            {"thirty frames": "after every 30 frames", "each target": "at each target", "never": "never"},
            "thirty frames",
        ),
    )
    darkness: Darkness = _in(
        "Window", one_of("Dark from", {"astronomical": "astronomical, Sun −18°", "nautical": "nautical, Sun −12°"}, "astronomical")
    )
    min_altitude_deg: float = _in("Window", number("Lowest altitude", "°", 0, 80, 25.0))
    moon_limit_mag: float = _in("Window", number("The Moon may add", "mag", 0, 10, 0.5, "to the sky at the target"))
    payload_school: PayloadSchool = _in(
        "Payload",
        one_of(
            "Load the tracker to",
            {"sixty": "60 % of its rating", "half": "50 % of its rating", "full": "its full rating", "own": "a share of my own"},
            "sixty",
        ),
    )
    payload_percent: float | None = _in("Payload", number("Own share", "%", 10, 100, None, "with a share of my own"), "none")
    aperture_school: ApertureSchool | None = _in(
        "Bench",
        one_of(
            "Aperture",
            {"corners": "the lens's own best corners", "wide": "wide open", "ring": "a step-down ring instead of the iris"},
            None,
        ),
        "best corners, fully open if untracked",
    )
    support_school: SupportSchool = _in(
        "Bench",
        one_of(
            "Ball head or bracket",
            {"bracket from 100": "bracket from 100 mm on", "ball head to 200": "ball head up to 200 mm"},
            "bracket from 100",
        ),
    )
    dec_school: DecSchool = _in("Bench", one_of("Balance in declination", {"note": "a note only", "balance": "balance it"}, "note"))
    lifting: Lifting = _in(
        "Bench",
        one_of(
            "Residual torque",
            {
                "none": "none, balance exactly",
                "camera east": "lifting, camera to the east",
                "camera west": "lifting, camera to the west",
            },
            "none",
        ),
    )
    lifting_g_cm: float = _in("Bench", number("Torque left", "g·cm", 0, 5_000, 300.0, "keeps the gears meshed"))
    dew_school: DewSchool = _in(
        "Bench", one_of("Against dew", {"heater": "hood and heater", "hood": "hood only", "warmers": "hand warmers"}, "heater")
    )
    # The weather as typed; where it is not, the forecast stands in.
    air_evening_c: float | None = _in("Weather you expect this night", number("Air at sunset", "°C", -45, 50, None), "as forecast")
    air_low_c: float | None = _in(
        "Weather you expect this night", number("Coldest in the night", "°C", -45, 50, None), "as forecast"
    )
    humidity_percent: float | None = _in(
        "Weather you expect this night", number("Humidity at sunset", "%", 1, 100, None), "as forecast"
    )
    wind_m_s: float | None = _in("Weather you expect this night", number("Wind", "m/s", 0, 40, None), "as forecast")
    convention: Convention = _in(
        "Timer and card",
        one_of("The timer's interval means", {"gap": "the pause between frames", "start to start": "from start to start"}, "gap"),
    )
    gap_s: float = _in("Timer and card", number("Gap", "s", 0, 120, 2.0, "5 lets the sensor rest"))
    mirror_s: float = _in("Timer and card", number("Mirror lock-up", "s", 0, 30, 0.0, "2 for the usual self-timer"))
    noise_reduction: Literal["off", "on"] = _in(
        "Timer and card", one_of("Long-exposure noise reduction", {"off": "off", "on": "on, doubles each frame"}, "off")
    )
    delay_s: float = _in("Timer and card", number("Delay before the first", "s", 0, 3_600, 10.0))
    card_gb: float = _in("Timer and card", number("Memory card", "GB", 0.5, 100_000, 64.0))
    dark_school: DarkSchool = _in(
        "Timer and card",
        one_of("Against hot pixels", {"matched": "darks, same length and temperature", "dither": "dither, no darks"}, "matched"),
    )
    darks: int = _in("Timer and card", whole("Darks", "", 0, 500, 20))
    flats: int = _in("Timer and card", whole("Flats", "", 0, 500, 20))
    bias: int = _in("Timer and card", whole("Bias", "", 0, 500, 20))
    way: WayKey = _in(
        "Framing",
        one_of(
            "Find the frame",
            {
                "picture": "by test picture",
                "star": "from a bright star",
                "hop": "hopping over stars",
                "compass": "by compass and inclinometer",
            },
            "picture",
        ),
    )
    finder: Finder = _in(
        "Framing",
        one_of(
            "Hop with",
            {"eye": "the bare eye", "finder": "a finder", "binoculars": "binoculars", "frame": "test pictures of this lens"},
            "binoculars",
        ),
    )
    panel_school: PanelSchool = _in(
        "Framing", one_of("Panels over the nights", {"all": "every panel every night", "one": "a panel a night"}, "all")
    )
    change_min: int = _in(
        "Whole night", whole("A change of target takes", "min", 0, 120, 10, "frame, focus, look at the axis; no frames in it")
    )
    shortest_min: int = _in("Whole night", whole("Shortest run worth it", "min", 1, 600, 20, "frames, after the change"))
    meridian_school: MeridianSchool = _in(
        "Whole night",
        one_of(
            "At the meridian, on a bracket with a counterweight",
            {"turn": "turn the camera over", "wait": "wait until it has passed", "ignore": "ignore it"},
            "turn",
        ),
    )
    past_meridian_min: int = _in(
        "Whole night", whole("Clear of the tripod past the meridian", "min", 0, 360, 30, "before the camera meets a leg")
    )
    comes_along: ComesAlong = _in(
        "Out there",
        one_of(
            "What comes along",
            {
                "phone": "the phone only",
                "laptop": "the phone, and a laptop with Wide Dusk",
                "connection": "the phone, with a connection there",
            },
            "laptop",
            "pictures can only be measured with a laptop or a connection",
        ),
    )
    width_limit: float = _in(
        "Frames", number("Width of a star, at most", "×", 1.05, 3, 1.3, "against the run’s good frames: 1.15 strict, 1.5 relaxed")
    )

    def __post_init__(self) -> None:
        checks = Checks()
        check(self, checks)
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
        return minutes_of(self.setup_time or "")


def minutes_of(clock: str) -> int | None:
    """Minutes after midnight of a time of day like 20:30; none where it cannot be read."""
    hours, colon, minutes = clock.partition(":")
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


@dataclass(frozen=True)
class ChoiceOption:
    value: str
    label: str


@dataclass(frozen=True)
class DescribedChoice:
    """One choice as a form shows it. empty: what stands in the field while nothing is given."""

    name: str
    group: str
    kind: Literal["number", "word"]
    label: str
    unit: str
    hint: str
    empty: str
    options: tuple[ChoiceOption, ...]


def described_choices() -> tuple[DescribedChoice, ...]:
    """Every choice, in the order of the form."""
    groups = {one.name: (one.metadata["group"], one.metadata["empty"]) for one in fields(Choices)}
    return tuple(_as_shown(name, about, default, *groups[name]) for name, about, default in abouts(Choices))


def _as_shown(name: str, about: About, default: Any, group: str, empty: str) -> DescribedChoice:
    options = tuple(ChoiceOption(value, label) for value, label in zip(about.options, about.spoken, strict=True))
    spoken = dict(zip(about.options, about.spoken, strict=True))
    shown = empty or (spoken[default] if about.options else f"{default:g}")
    kind: Literal["number", "word"] = "number" if about.sort in {"number", "whole"} else "word"
    return DescribedChoice(name, group, kind, about.label, about.unit, about.hint, shown, options)

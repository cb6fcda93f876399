"""What to key into the remote timer."""

from dataclasses import dataclass
from math import floor, inf
from typing import Literal

from widedusk.core.choices import Convention

CardLimit = Literal["window", "power", "card", "patience"]
SPOKEN: dict[CardLimit, str] = {"window": "window", "power": "battery", "card": "memory card", "patience": "patience"}
BULB_FROM_S = 30.0  # longer than most bodies expose by their own clock: common practice


@dataclass(frozen=True)
class Calibration:
    """Frames that follow the run, cap or flat light on: how many of each."""

    darks: int = 0
    flats: int = 0
    bias: int = 0

    @property
    def total(self) -> int:
        return self.darks + self.flats + self.bias


@dataclass(frozen=True)
class Pauses:
    """What passes between two exposures, seconds."""

    rest_s: float  # to write the file and let the sensor rest
    mirror_s: float = 0.0  # mirror lock-up, by the body's self-timer
    noise_reduction: bool = False  # the body takes a dark as long as the exposure after each frame

    def after(self, exposure_s: float) -> float:
        """From the end of one exposure to the beginning of the next."""
        return self.rest_s + self.mirror_s + (exposure_s if self.noise_reduction else 0.0)


@dataclass(frozen=True)
class FrameLimit:
    """How many frames window, power, memory card or patience allow."""

    name: str
    frames: int


@dataclass(frozen=True)
class Card:
    """The programme. Times are seconds from the moment the timer is started."""

    window_s: float
    delay_s: float
    exposure_s: float
    rest_s: float
    mirror_s: float
    noise_reduction: bool
    interval_gap_s: float  # for timers whose interval is the pause after an exposure
    interval_start_s: float  # for timers that count from start to start
    frames: int
    frames_in_window: int  # before power, memory card and patience have their say
    limits: tuple[FrameLimit, ...]  # the window, and whatever else bounds them
    total_s: float
    kept_frames: int
    kept_s: float
    storage_gb: float
    limited_by: CardLimit
    calibration: Calibration
    calibration_s: float  # for the darks, the only ones that take long
    shutter_count: int
    raw_file_mb: float
    bulb: bool  # longer than the body's own clock: the lens may have opened


def card(
    window_s: float,
    exposure_s: float,
    pauses: Pauses,
    delay_s: float,
    keep: float,
    raw_file_mb: float,
    card_gb: float,
    calibration: Calibration,
    most_s: float = inf,
    powered_s: float = inf,
) -> Card:
    """Fill a window with whole frames, as far as power, the memory card (calibration frames included) and patience go.

    n exposures and n - 1 pauses after the delay: n = floor((window - delay + pause) / (exposure + pause)), at least 0.
    The mirror goes up before the first frame too; it counts with the delay.
    """
    pause = pauses.after(exposure_s)
    delay = delay_s + pauses.mirror_s

    def fit(seconds: float) -> int:
        return max(floor((seconds - delay + pause) / (exposure_s + pause) + 1e-9), 0)

    fits = fit(window_s)
    room = max(floor(card_gb * 1000.0 / raw_file_mb) - calibration.total, 0)
    allowed: dict[CardLimit, int] = {"window": fits}
    if powered_s < window_s:
        allowed["power"] = fit(powered_s)
    allowed["card"] = room
    if most_s < inf:
        allowed["patience"] = fit(min(most_s, window_s))
    limited = min(allowed, key=lambda name: allowed[name])  # of equal ones the first
    frames = allowed[limited]
    total = delay + frames * exposure_s + max(frames - 1, 0) * pause if frames else 0.0
    kept = floor(frames * keep + 1e-9)
    return Card(
        window_s,
        delay_s,
        exposure_s,
        pauses.rest_s,
        pauses.mirror_s,
        pauses.noise_reduction,
        pause,
        exposure_s + pause,
        frames,
        fits,
        tuple(FrameLimit(SPOKEN[name], count) for name, count in allowed.items()),
        total,
        kept,
        kept * exposure_s,
        (frames + calibration.total if frames else 0) * raw_file_mb / 1000.0,
        limited,
        calibration,
        calibration.darks * (exposure_s + pauses.rest_s),
        frames + calibration.total if frames else 0,
        raw_file_mb,
        exposure_s > BULB_FROM_S,
    )


def _seconds(value: float) -> str:
    return f"{value:.1f}".rstrip("0").rstrip(".") + " s"


def card_text(made: Card, convention: Convention, heading: str, iso: int, f_number: float, start: str, end: str) -> str:
    """The card as plain lines for one kind of timer, to copy into a message or onto paper."""
    interval = made.interval_gap_s if convention == "gap" else made.interval_start_s
    means = "the pause after a frame" if convention == "gap" else "from start to start"
    after = made.calibration
    lines = [heading, f"Camera    f/{f_number:.3g}, ISO {iso}, {'bulb' if made.bulb else 'its own clock'}"]
    if made.mirror_s:
        lines.append(f"Mirror    lock-up with the self-timer, {_seconds(made.mirror_s)}, counted below")
    lines.append(f"Reduction {'ON, counted below' if made.noise_reduction else 'off (long-exposure noise reduction)'}")
    lines += [
        f"Delay     {_seconds(made.delay_s)}",
        f"Exposure  {_seconds(made.exposure_s)}",
        f"Interval  {_seconds(interval)} ({means})",
        f"Number    {made.frames}",
        f"Runs      {start} to {end}",
        f"Then      {after.darks} darks of {_seconds(made.exposure_s)}, {after.flats} flats, {after.bias} bias",
        f"Storage   {made.storage_gb:.1f} GB, {made.shutter_count} shutter releases",
    ]
    if made.bulb:
        lines.append("Bulb      look at the aperture again after switching to bulb")
    return "\n".join(lines) + "\n"


@dataclass(frozen=True)
class Rung:
    """One step of the framing ladder."""

    iso: int
    exposure_s: float


FRAMING_ISO = 12_800
SHORTEST_FRAMING_S = 1.0


def framing_ladder(iso: int, exposure_s: float, highest_iso: int = FRAMING_ISO) -> tuple[Rung, ...]:
    """Exposures of the same brightness, from a bright short one for framing down to the real one: halve ISO, double time.

    Ends at the real exposure; begins at the highest ISO, or where the time would fall below a second.
    """
    rungs = [Rung(iso, exposure_s)]
    while rungs[0].iso * 2 <= highest_iso and rungs[0].exposure_s / 2 >= SHORTEST_FRAMING_S:
        rungs.insert(0, Rung(rungs[0].iso * 2, rungs[0].exposure_s / 2))
    return tuple(rungs)

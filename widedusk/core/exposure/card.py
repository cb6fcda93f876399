"""What to key into the remote timer."""

from dataclasses import dataclass
from math import floor
from typing import Literal

Convention = Literal["gap", "start to start"]


@dataclass(frozen=True)
class Card:
    """The programme. Times are seconds from the moment the timer is started."""

    window_s: float
    delay_s: float
    exposure_s: float
    interval_gap_s: float  # for timers whose interval is the pause after an exposure
    interval_start_s: float  # for timers that count from start to start
    frames: int
    frames_in_window: int  # before the memory card has its say
    total_s: float
    kept_frames: int
    kept_s: float
    storage_gb: float
    limited_by: Literal["window", "card"]
    darks: int
    darks_s: float
    raw_file_mb: float


def card(
    window_s: float, exposure_s: float, gap_s: float, delay_s: float, keep: float, raw_file_mb: float, card_gb: float, darks: int
) -> Card:
    """Fill a window with whole frames, as far as the memory card goes (darks included).

    n exposures and n - 1 gaps after the delay: n = floor((window - delay + gap) / (exposure + gap)), at least 0.
    """
    fits = max(floor((window_s - delay_s + gap_s) / (exposure_s + gap_s) + 1e-9), 0)
    room = max(floor(card_gb * 1000.0 / raw_file_mb) - darks, 0)
    frames = min(fits, room)
    total = delay_s + frames * exposure_s + max(frames - 1, 0) * gap_s if frames else 0.0
    kept = floor(frames * keep + 1e-9)
    return Card(
        window_s,
        delay_s,
        exposure_s,
        gap_s,
        exposure_s + gap_s,
        frames,
        fits,
        total,
        kept,
        kept * exposure_s,
        (frames + darks if frames else 0) * raw_file_mb / 1000.0,
        "window" if fits <= room else "card",
        darks,
        darks * (exposure_s + gap_s),
        raw_file_mb,
    )

"""Which frames belong together: a run is what one camera shot of one field with one setting and no long pause."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from widedusk.core.frames.facts import FrameKind
from widedusk.core.sky.time import SECOND

LONGEST_PAUSE_S, PAUSE_IN_SUBS = 1200.0, 6.0
SAME_EXPOSURE, SAME_FOCAL = 0.03, 0.02
HOUR_S, STEP_WITHIN_S, HOURS_STEPPED, LEAST_STEADY = 3600.0, 30.0, (1, 2), 3  # of a clock, and frames that tell the usual pace
OTHER_FIELD = 0.3  # of a picture's width, between one frame and the next


@dataclass(frozen=True)
class Taken:
    """What of a frame says where it belongs. began_mjd: UTC, NaN where no clock says it; ra_deg, dec_deg, width_deg: NaN where it
    was not solved. sides_px: of the picture, whichever way it was turned."""

    number: int
    kind: FrameKind
    began_mjd: float
    exposure_s: float | None
    iso: int | None = None
    f_number: float | None = None
    focal_mm: float | None = None
    camera: str = ""
    ra_deg: float = np.nan
    dec_deg: float = np.nan
    width_deg: float = np.nan
    sides_px: tuple[int, int] | None = None


def _near(a: float | None, b: float | None, share: float) -> bool:
    return a is None or b is None or abs(a - b) <= share * max(a, b)


def same_setting(a: Taken, b: Taken) -> bool:
    """Whether camera, size of the picture, exposure, ISO, stop and focal length are alike, as far as both files say them."""
    return (
        a.camera == b.camera
        and (a.sides_px is None or b.sides_px is None or sorted(a.sides_px) == sorted(b.sides_px))
        and _near(a.exposure_s, b.exposure_s, SAME_EXPOSURE)
        and (a.iso is None or b.iso is None or a.iso == b.iso)
        and _near(a.f_number, b.f_number, 0.05)
        and _near(a.focal_mm, b.focal_mm, SAME_FOCAL)
    )


def same_field(a: Taken, b: Taken) -> bool:
    """Whether both look at the same field, as far as both were solved."""
    if not np.isfinite(a.ra_deg + b.ra_deg):
        return True
    ra, dec = np.radians([a.ra_deg - b.ra_deg, (a.dec_deg + b.dec_deg) / 2])
    off = np.degrees(np.hypot(np.sin(ra / 2) * 2 * np.cos(dec), np.radians(a.dec_deg - b.dec_deg)))
    return bool(off < OTHER_FIELD * max(a.width_deg, b.width_deg))


def follows(before: Taken, after: Taken) -> bool:
    """Whether a frame goes on with the run of another."""
    if not same_setting(before, after) or not same_field(before, after):
        return False
    pause = (after.began_mjd - before.began_mjd) / SECOND - (before.exposure_s or 0.0)
    return bool(not np.isfinite(pause) or pause < max(LONGEST_PAUSE_S, PAUSE_IN_SUBS * (before.exposure_s or 0.0)))


def clock_steps(frames: Sequence[Taken]) -> dict[int, int]:
    """By number of a frame, how many hours the camera's clock is ahead of what it was in the frames before (behind: negative), for
    each from where it stepped on; empty where it went on evenly. frames: in the order in which they were taken.

    A clock that is put to another time, or follows summer time by itself, steps by an hour from one frame of a row to the next.
    """
    lights = [one for one in frames if one.kind == "light" and np.isfinite(one.began_mjd)]
    between = np.diff([one.began_mjd for one in lights]) / SECOND
    usual = between[(between > 0) & (between < LONGEST_PAUSE_S)]
    if usual.size < LEAST_STEADY:
        return {}
    pace, ahead, found = float(np.median(usual)), 0, {}
    for place, gap in enumerate(between):
        before, after = lights[place], lights[place + 1]
        hours = round((gap - pace) / HOUR_S)
        exact = abs(gap - pace - hours * HOUR_S) < STEP_WITHIN_S and abs(hours) in HOURS_STEPPED
        if exact and same_setting(before, after) and same_field(before, after):
            ahead += hours
        if ahead:
            found[after.number] = ahead
    return found


def runs_of(frames: Sequence[Taken]) -> tuple[tuple[int, ...], ...]:
    """Numbers of the light frames of each run, in order of time; those without a time in the order given, last.

    A frame joins the run that it follows; dark frames among the lights of a run, or right after it, stay out and are counted apart.
    """
    lights = [one for one in frames if one.kind == "light"]
    order = sorted(lights, key=lambda one: (not np.isfinite(one.began_mjd), one.began_mjd if np.isfinite(one.began_mjd) else 0.0))
    runs: list[list[Taken]] = []
    for one in order:
        # Two cameras on one card take turns: the latest run that it follows, not the latest of all.
        home = next((run for run in reversed(runs) if follows(run[-1], one)), None)
        if home is None:
            runs.append([one])
        else:
            home.append(one)
    return tuple(tuple(one.number for one in run) for run in runs)

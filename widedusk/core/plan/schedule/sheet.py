"""One sheet for the whole night: what to key in for each run, how to get there, and what happens when."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date
from typing import Literal

from widedusk.core.framing.frame import Frame, sides_deg
from widedusk.core.framing.ways import WAYS, Search, Way
from widedusk.core.night.cues import Cue, in_order, marks
from widedusk.core.night.windows import setup_mjd
from widedusk.core.plan.outlook import calibration_of, pauses_of
from widedusk.core.plan.schedule.compose import Composed
from widedusk.core.plan.schedule.runs import NightRun
from widedusk.core.plan.schedule.whole import panel_name
from widedusk.core.plan.schedule.worth import Stand
from widedusk.core.scene import Spot
from widedusk.core.sky.time import mjd_from_datetime
from widedusk.core.verdict import duration_words, joined

FLAT_S, BIAS_S = 1.0, 0.1  # a bright panel fills a flat in about a second. Common practice, no source


@dataclass(frozen=True)
class SheetRun:
    """Intervals for both kinds of timer. way: what the first steps follow."""

    rig: str
    name: str
    change_clock: str
    begins_clock: str
    ends_clock: str
    frames: int
    exposure_s: float
    iso: int
    f_number: float
    delay_s: float
    mirror_s: float
    noise_reduction: bool
    interval_gap_s: float
    interval_start_s: float
    way: str
    steps: tuple[str, ...]


@dataclass(frozen=True)
class Sheet:
    time_zone: str
    cues: tuple[Cue, ...]
    runs: tuple[SheetRun, ...]
    calibration: tuple[str, ...]
    cautions: tuple[str, ...]


CAUTIONS = (
    "Tell someone where you are and when you return.",
    "Red light, whistle, warm layers before you are cold.",
    "Do not drive tired: sleep first.",
    "The app advises; local rules decide.",
)


def way_to(made: Composed, spot: Spot, evening: date, run: NightRun, angle_deg: float) -> Way:
    """The way to the frame of a run at the moment of its change. It is the one this person takes; a way that begins with a picture
    has nothing to tell on paper or without a connection, where the nearest bright star stands for it."""
    stand, panel = made.stands[run.stand], made.wishes[run.wish].panels[run.panel]
    frame = Frame(panel.ra_deg, panel.dec_deg, angle_deg, *sides_deg(stand.rig))
    return way_without_pictures(stand, spot, evening, frame, mjd_from_datetime(run.change_at))


def way_without_pictures(stand: Stand, spot: Spot, evening: date, frame: Frame, mjd: float) -> Way:
    """As above, of any frame."""
    choices = stand.choices
    search = Search(frame, spot, mjd, evening, stand.rig.lens.focal_mm, stand.rig.support, choices.finder)
    return dict(WAYS)["star" if choices.way == "picture" else choices.way](search)


def same_frame(run: NightRun, before: NightRun | None) -> str:
    """What to do where the rig stands on this frame already; empty where it does not."""
    if before is None or (before.wish, before.panel) != (run.wish, run.panel):
        return ""
    turned = "Turn the camera over to the other side, then frame" if before.side != run.side else "Frame"
    return f"{turned} and focus again."


@dataclass(frozen=True)
class CalibrationSet:
    """Frames of one kind that are taken one after the other. lasts_s: until the last is done, nobody touching the camera."""

    kind: Literal["flats", "bias", "darks"]
    words: str
    lasts_s: float


def calibration_sets(stand: Stand, subs: Sequence[tuple[float, int]]) -> tuple[CalibrationSet, ...]:
    """Flats while focus and aperture are untouched, bias, then one set of darks for each sub and ISO. subs: seconds and ISO."""
    wanted, taken = calibration_of(stand.choices), sorted(set(subs))
    if not taken:
        return ()
    pauses = pauses_of(stand.choices)
    after_run: tuple[tuple[Literal["flats", "bias"], int, float], ...] = (
        ("flats", wanted.flats, FLAT_S),
        ("bias", wanted.bias, BIAS_S),
    )
    sets = [
        CalibrationSet(kind, f"{count} {kind}", count * (seconds + pauses.rest_s)) for kind, count, seconds in after_run if count
    ]
    for exposure_s, iso in taken if wanted.darks else []:
        lasts_s = wanted.darks * (exposure_s + pauses.rest_s)
        sets.append(CalibrationSet("darks", f"{wanted.darks} darks of {exposure_s:g} s at ISO {iso}", lasts_s))
    return tuple(sets)


def _calibration(made: Composed, runs: Sequence[NightRun]) -> tuple[str, ...]:
    found = []
    for number, stand in enumerate(made.stands):
        sets = calibration_sets(stand, [(run.exposure_s, run.iso) for run in runs if run.stand == number])
        words = [f"{one.words} ({duration_words(one.lasts_s)})" if one.kind == "darks" else one.words for one in sets]
        found += [f"{stand.name}: {joined(words)}."] if sets else []
    return tuple(found)


def night_sheet(made: Composed, runs: Sequence[NightRun], spot: Spot, evening: date, angles_deg: Sequence[float]) -> Sheet:
    """angles_deg: position angle of each wish's framing."""
    night, told = made.night, []
    last: dict[int, NightRun] = {}
    for run in sorted(runs, key=lambda one: one.change_at):
        choices = made.found[run.stand][run.wish].stand.choices
        again = same_frame(run, last.get(run.stand))
        way: str = "Same frame as before"
        steps: tuple[str, ...] = (again, "Take a test picture.")
        if not again:
            found = way_to(made, spot, evening, run, angles_deg[run.wish])
            way, steps = found.name, found.steps or (found.verdict.sentence,)
        last[run.stand] = run
        told.append(
            SheetRun(
                made.stands[run.stand].name,
                panel_name(made, run.wish, run.panel),
                run.change_clock,
                run.begins_clock,
                run.ends_clock,
                run.frames,
                run.exposure_s,
                run.iso,
                run.f_number,
                choices.delay_s,
                choices.mirror_s,
                choices.noise_reduction == "on",
                run.pause_s,
                run.exposure_s + run.pause_s,
                way,
                steps,
            )
        )
    return Sheet(night.spot.time_zone, night_cues(made, runs), tuple(told), _calibration(made, runs), CAUTIONS)


def night_cues(made: Composed, runs: Sequence[NightRun]) -> tuple[Cue, ...]:
    """What happens in the night, and when each run is framed and ends."""
    first, night = made.stands[0], made.night
    happens = marks(night, first.choices, setup_mjd(night, first.choices), first.choices.tracking != "untracked")
    for run in runs:
        what = f"{panel_name(made, run.wish, run.panel)}, {made.stands[run.stand].name}"
        happens.append(("change", f"Frame and focus: {what}", mjd_from_datetime(run.change_at)))
        happens.append(("ends", f"Ends: {what}", mjd_from_datetime(run.ends_at)))
    return in_order(night, happens)

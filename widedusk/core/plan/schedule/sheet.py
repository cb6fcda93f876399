"""One sheet for the whole night: what to key in for each run, how to get there, and what happens when."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date

from widedusk.core.framing.frame import Frame, sides_deg
from widedusk.core.framing.ways import WAYS, Search
from widedusk.core.night.cues import Cue, in_order, marks
from widedusk.core.night.windows import setup_mjd
from widedusk.core.plan.outlook import calibration_of
from widedusk.core.plan.schedule.compose import Composed
from widedusk.core.plan.schedule.runs import NightRun
from widedusk.core.plan.schedule.whole import panel_name
from widedusk.core.scene import Spot
from widedusk.core.sky.time import mjd_from_datetime
from widedusk.core.verdict import joined


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


Steps = tuple[str, tuple[str, ...]]


def _steps(made: Composed, spot: Spot, evening: date, run: NightRun, angle_deg: float, before: NightRun | None) -> Steps:
    """The first steps to the frame at the moment of the change, and what that way is called. It is the one this person takes; a way
    that begins with a picture has nothing to tell on paper, where the nearest bright star stands for it."""
    if before is not None and (before.wish, before.panel) == (run.wish, run.panel):
        turned = "Turn the camera over to the other side, then frame" if before.side != run.side else "Frame"
        return "Same frame as before", (f"{turned} and focus again.", "Take a test picture.")
    stand, panel = made.stands[run.stand], made.wishes[run.wish].panels[run.panel]
    frame = Frame(panel.ra_deg, panel.dec_deg, angle_deg, *sides_deg(stand.rig))
    choices = stand.choices
    search = Search(
        frame, spot, mjd_from_datetime(run.change_at), evening, stand.rig.lens.focal_mm, stand.rig.support, choices.finder
    )
    way = dict(WAYS)["star" if choices.way == "picture" else choices.way](search)
    return way.name, way.steps or (way.verdict.sentence,)


def _calibration(made: Composed, runs: Sequence[NightRun]) -> tuple[str, ...]:
    """One set of darks for each sub and ISO of a rig; flats and bias for each rig."""
    found = []
    for number, stand in enumerate(made.stands):
        wanted = calibration_of(stand.choices)
        subs = sorted({(run.exposure_s, run.iso) for run in runs if run.stand == number})
        told = [f"{wanted.darks} darks of {exposure:g} s at ISO {iso}" for exposure, iso in subs if wanted.darks]
        told += [f"{count} {name}" for count, name in ((wanted.flats, "flats"), (wanted.bias, "bias")) if count and subs]
        found += [f"{stand.name}: {joined(told)}."] if told else []
    return tuple(found)


def night_sheet(made: Composed, runs: Sequence[NightRun], spot: Spot, evening: date, angles_deg: Sequence[float]) -> Sheet:
    """angles_deg: position angle of each wish's framing."""
    night, told = made.night, []
    last: dict[int, NightRun] = {}
    for run in sorted(runs, key=lambda one: one.change_at):
        choices = made.found[run.stand][run.wish].stand.choices
        way, steps = _steps(made, spot, evening, run, angles_deg[run.wish], last.get(run.stand))
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
    first = made.stands[0]
    happens = marks(night, first.choices, setup_mjd(night, first.choices), first.choices.tracking != "untracked")
    for run in runs:
        what = f"{panel_name(made, run.wish, run.panel)}, {made.stands[run.stand].name}"
        happens.append(("change", f"Frame and focus: {what}", mjd_from_datetime(run.change_at)))
        happens.append(("ends", f"Ends: {what}", mjd_from_datetime(run.ends_at)))
    return Sheet(night.spot.time_zone, in_order(night, happens), tuple(told), _calibration(made, runs), CAUTIONS)

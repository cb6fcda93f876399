"""The answer for a whole night: runs, what each picture gets of it, how good the order is, and what sharing by head would cost."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, datetime

import numpy as np

from widedusk.core.choices import DARK_SUN_DEG
from widedusk.core.kit.optics import image_scale_arcsec_px
from widedusk.core.night.windows import runs_where, strip_span
from widedusk.core.plan.schedule.compose import Composed
from widedusk.core.plan.schedule.problem import Bools, Problem
from widedusk.core.plan.schedule.runs import LeftOut, NightRun, left_out, runs_of, school_values
from widedusk.core.plan.schedule.solve import Solution
from widedusk.core.plan.schedule.worth import LOOK_MIN, REFOCUS_EVERY_MIN, REFOCUS_MIN
from widedusk.core.pole.keeping import FRAMES
from widedusk.core.scene import Spot
from widedusk.core.sky.time import datetime_from_mjd
from widedusk.core.verdict import Level, Quantity, Verdict, Working, duration_words, joined

EVEN = "an even split"
FAIR_GAP = 0.05  # up to which a plan is worth taking as it is. Our own


@dataclass(frozen=True)
class NightSpan:
    """Minutes from the start of the strip."""

    first: int
    last: int


@dataclass(frozen=True)
class PanelWindow:
    """When one rig can take frames of one panel."""

    stand: int
    wish: int
    panel: int
    spans: tuple[NightSpan, ...]


@dataclass(frozen=True)
class PlannedRun:
    run: NightRun
    name: str
    verdict: Verdict


@dataclass(frozen=True)
class PanelTotal:
    """What one panel, or a picture of one frame, gets this night."""

    wish: int
    panel: int
    name: str
    frames: int
    open_s: float
    stacks: tuple["Stack", ...]  # one for each rig
    storage_gb: float
    hours: float  # weighted
    gathered_h: float  # weighted, from other nights: shot earlier, and planned where the night is part of a trip
    even_h: float  # weighted, if the night were split evenly
    verdict: Verdict


@dataclass(frozen=True)
class Stack:
    """What one rig takes of it this night. snr: of one of its own pixels; those of rigs of another scale are never added to it."""

    stand: int
    frames: int
    snr: float


@dataclass(frozen=True)
class Suits:
    """Whether a target is of a size for the frame of a rig. on: whether it may be planned, by its size or because it was ticked."""

    stand: int
    wish: int
    share_percent: float  # of the frame, along its tighter side
    suits: bool
    on: bool


@dataclass(frozen=True)
class SchoolPrice:
    name: str
    loses_percent: float  # of what the best order gains


@dataclass(frozen=True)
class WholeNight:
    start: datetime
    time_zone: str
    minutes: int
    slot: int
    dark: NightSpan | None
    asleep: NightSpan | None
    windows: tuple[PanelWindow, ...]
    runs: tuple[PlannedRun, ...]
    totals: tuple[PanelTotal, ...]
    schools: tuple[SchoolPrice, ...]
    left: tuple[LeftOut, ...]
    suits: tuple[Suits, ...]
    gap_percent: float | None  # none where nothing was proved
    verdict: Verdict


def panel_name(made: Composed, wish: int, panel: int) -> str:
    one = made.wishes[wish]
    return f"{one.target.name}, {one.panels[panel].name}" if one.panels[panel].name else one.target.name


def _spans(inside: Bools, start: int) -> tuple[NightSpan, ...]:
    return tuple(NightSpan(first - start, last + 1 - start) for first, last in runs_where(inside))


def _windows(made: Composed) -> tuple[PanelWindow, ...]:
    start = strip_span(made.night)[0]
    open_: dict[tuple[int, int], Bools] = {}
    for way in made.problem.ways:
        before = open_.get((way.lane, way.aim))
        open_[way.lane, way.aim] = way.open if before is None else before | way.open
    return tuple(PanelWindow(lane, *made.wish_and_panel(aim), _spans(inside, start)) for (lane, aim), inside in open_.items())


def _scale(made: Composed, stand: int) -> float:
    """Arcseconds a pixel."""
    rig = made.stands[stand].rig
    return float(image_scale_arcsec_px(rig.camera.pitch_um, rig.lens.focal_mm))


def _stacks(made: Composed, runs: Sequence[NightRun]) -> tuple[Stack, ...]:
    """One of each rig: the square of the signal to noise grows with its own runs, and goes with the area of its pixel."""
    stacks = []
    for stand in sorted({run.stand for run in runs}):
        mine = [run for run in runs if run.stand == stand]
        snr = float(np.sqrt(sum(run.signal for run in mine))) * _scale(made, stand)
        stacks.append(Stack(stand, sum(run.frames for run in mine), snr))
    return tuple(stacks)


def _suits(made: Composed) -> tuple[Suits, ...]:
    return tuple(
        Suits(stand, wish, 100.0 * taken.share, taken.suits, (stand, wish) not in made.unsuited)
        for stand, row in enumerate(made.found)
        for wish, taken in enumerate(row)
    )


def _totals(made: Composed, runs: Sequence[NightRun], even: Sequence[float]) -> tuple[PanelTotal, ...]:
    found = []
    for aim, one in enumerate(made.problem.aims):
        wish, panel = made.wish_and_panel(aim)
        mine = [run for run in runs if (run.wish, run.panel) == (wish, panel)]
        hours = sum(run.hours for run in mine)
        stacks = _stacks(made, mine)
        found.append(
            PanelTotal(
                wish,
                panel,
                panel_name(made, wish, panel),
                sum(run.frames for run in mine),
                sum(run.frames * run.exposure_s for run in mine),
                stacks,
                sum(run.frames * made.stands[run.stand].rig.camera.raw_file_mb for run in mine) / 1000.0,
                hours,
                one.gathered_h,
                float(even[aim]),
                _total_verdict(made, panel_name(made, wish, panel), mine, stacks, float(even[aim])),
            )
        )
    return tuple(found)


def _total_verdict(made: Composed, name: str, runs: Sequence[NightRun], stacks: Sequence[Stack], even_h: float) -> Verdict:
    hours, frames = sum(run.hours for run in runs), sum(run.frames for run in runs)
    open_s = sum(run.frames * run.exposure_s for run in runs)
    gets = Working(
        "gets",
        "What it gets of the night",
        "Σ of its runs",
        tuple(
            Quantity(
                f"{made.stands[run.stand].name}, {run.begins_clock} to {run.ends_clock}",
                text=f"{run.frames} × {run.exposure_s:g} s, {run.hours:.2f} h weighted",
            )
            for run in runs
        ),
        Quantity("Weighted time", hours, "h", decimals=2),
        "As each run tells; hours under a moonless zenith with the best rig for it that bring as much",
        "definition",
        f"An even split of the night would give it {even_h:.2f} h.",
    )
    each = [(made.stands[one.stand].name, one) for one in stacks]
    noise = Working(
        "snr",
        "Signal to noise of a pixel, stack by stack",
        "S/N = s √Σ (S/N)²",
        tuple(
            quantity
            for rig, one in each
            for quantity in (
                Quantity(f"{rig}: (S/N)² of a square arcsecond", sum(r.signal for r in runs if r.stand == one.stand), decimals=3),
                Quantity(f"{rig}: image scale", _scale(made, one.stand), "″/px", "s", 2),
            )
        ),
        Quantity("S/N per pixel", text=_stack_words(each) or "no frames"),
        "CCD equation, Howell, Handbook of CCD Astronomy; it grows with the root of the time",
        "published",
        "Of this night alone. Rigs of different scale make stacks of their own, whose figures are not added.",
    )
    return Verdict(
        name,
        "go" if frames else "care",
        f"{frames} frames, {duration_words(open_s)} of exposure" + (f"; S/N per pixel {_stack_words(each)}." if each else "."),
        "its runs",
        "",
        (
            Quantity("Weighted time", hours, "h", decimals=2, working="gets"),
            *(Quantity(f"S/N per pixel, {rig}", one.snr, decimals=1, working="snr") for rig, one in each),
        ),
        workings=(gets, noise),
    )


def _stack_words(each: Sequence[tuple[str, Stack]]) -> str:
    return joined([f"{one.snr:.1f} with {rig}" for rig, one in each] if len(each) > 1 else [f"{one.snr:.1f}" for _, one in each])


def proof_words(found: Solution) -> str:
    """How far from the best a schedule is at most, and whether the search was ended early."""
    if not np.isfinite(found.gap):
        return "The best order is being looked for."
    busy = " The server was too busy to look any longer; look again later." if found.cut_short else ""
    if found.gap < 0.0005:
        return f"No other order of these runs is better.{busy}"
    return f"No order of these runs brings {at_most_percent(found.gap):g} % more.{busy}"


def against_even(gains: float, slot: int, limited: bool = False) -> str:
    """gains: per cent over an even split, whose edges need not lie on slots. limited: whether a card or hours at most bound
    the night, which the even split does not know."""
    if gains >= 0.5:
        return f"It gains {gains:.0f} % more than an even split."
    if gains > -0.5:
        return "An even split would be as good."
    if limited:
        return f"An even split that keeps to neither card nor hours at most would bring {-gains:.0f} % more."
    return f"An even split, its edges off the {slot} min of these runs, would bring {-gains:.0f} % more."


def at_most_percent(gap: float) -> float:
    """Per cent, never rounded down."""
    return float(np.ceil(gap * 1000.0 - 1e-9) / 10.0)


def _run_verdict(made: Composed, run: NightRun, name: str) -> Verdict:
    one = made.found[run.stand][run.wish]
    rig = made.stands[run.stand].name
    share = run.hours / max(run.frames * one.cycle_s / 3600.0, 1e-9)
    choices = one.stand.choices
    looks = choices.recheck_school == "thirty frames" and choices.tracking != "untracked"
    turned = {-1: " Before the meridian.", 0: "", 1: " The camera turned over, past the meridian."}[run.side]
    frames = Working(
        "frames",
        "How many frames the run holds",
        "n = T / c, whole",
        (
            Quantity("From the first frame to the end", text=f"{run.begins_clock} to {run.ends_clock}"),
            Quantity("Exposure", one.seen.advice.exposure_s, "s", "t"),
            Quantity("A look at the axis", text=f"{LOOK_MIN:g} min after every {FRAMES} frames" if looks else "none"),
            Quantity("Focus again", text=f"{REFOCUS_MIN:g} min an hour" if REFOCUS_EVERY_MIN == 60 else ""),
            Quantity("From one frame to the next, all counted", one.cycle_s, "s", "c"),
            Quantity("Shutter open", one.duty * 100.0, "% of the time", decimals=0),
        ),
        Quantity("Frames", run.frames, decimals=0),
        "Sub and gap as on Exposure; what looks and focusing take is common practice",
        "common practice",
        "Panels of one picture are evened out to within one sub." if len(made.wishes[run.wish].panels) > 1 else "",
    )
    worth = Working(
        "hours",
        "What the run is worth",
        "Σ (S/N of a frame in that minute)² / (S/N of a frame under a moonless zenith)², in hours",
        (
            Quantity("Frames", run.frames, "", "n", 0),
            Quantity("Time they take", run.frames * one.cycle_s / 3600.0, "h", decimals=2),
            Quantity("Worth of an hour of it", share, "h", decimals=2),
            Quantity("Sky at the zenith, no Moon", made.night.spot.sky_mag, "mag/arcsec²", decimals=2),
        ),
        Quantity("Weighted time", run.hours, "h", decimals=2),
        "CCD equation, Howell, Handbook of CCD Astronomy; moonlight by Krisciunas & Schaefer 1991, PASP 103, 1033",
        "published",
        "Measured by the rig that gathers fastest on this target; a slower one brings less in the same time.",
    )
    return Verdict(
        name,
        "go",
        f"{rig}: {run.frames} × {run.exposure_s:g} s at ISO {run.iso}, f/{run.f_number:.3g}, "
        f"{run.begins_clock} to {run.ends_clock}.{turned}",
        f"begins when {run.begins_with}, ends when {run.ends_with}" if not run.held else "you fixed it",
        f"Frame and focus from {run.change_clock}.",
        (
            Quantity("Frames", run.frames, decimals=0, working="frames"),
            Quantity("Weighted time", run.hours, "h", decimals=2, working="hours"),
        ),
        workings=(frames, worth),
    )


def _full_cards(made: Composed, runs: Sequence[NightRun]) -> list[str]:
    """Rigs whose memory card leaves no room for one more slot of frames."""
    problem = made.problem
    shot = [sum(run.frames for run in runs if run.stand == lane) for lane in range(len(problem.room))]
    slot = problem.rules.slot * max((way.frames_min for way in problem.ways), default=0.0)
    return [made.stands[lane].name for lane, room in enumerate(problem.room) if shot[lane] > room - slot]


def _night_verdict(
    made: Composed, found: Solution, runs: Sequence[NightRun], schools: Sequence[SchoolPrice], left: Sequence[LeftOut]
) -> Verdict:
    problem = made.problem
    if not runs:
        none = "Nothing can be taken this night: " + (left[0].reason if left else "no target has a window.")
        return Verdict("Whole night", "stop", none, "the windows of all targets", "Choose another night, or other targets.")
    pictures = len({(run.wish, run.panel) for run in runs})
    rigs = len({run.stand for run in runs})
    even = next(one for one in schools if one.name == EVEN)
    gains = 100.0 / max(1.0 - even.loses_percent / 100.0, 1e-6) - 100.0
    compared = against_even(gains, problem.rules.slot, bool(problem.room or problem.most_min))
    told = f"{len(runs)} run{'s' if len(runs) > 1 else ''} on {pictures} picture{'s' if pictures > 1 else ''}"
    with_rigs = f" with {rigs} rigs" if rigs > 1 else ""
    level: Level = "go" if (found.gap <= FAIR_GAP or not np.isfinite(found.gap)) and not left else "care"
    advice = f"Left out: {joined([one.name for one in left])}." if left else ""
    full = _full_cards(made, runs)
    advice += f" Full: the memory card of {joined(full)}; a larger one allows more." if full else ""
    return Verdict(
        "Whole night",
        level,
        f"{told}{with_rigs}. {proof_words(found)}",
        "the hours of darkness",
        f"{compared} {advice}".strip(),
        (
            Quantity("Shutter open", text=duration_words(sum(run.frames * run.exposure_s for run in runs)), working="sum"),
            Quantity("Frames", sum(run.frames for run in runs), decimals=0, working="sum"),
            _missed(found, "bound"),
            Quantity("Against an even split", gains, "% more", decimals=0, working="even"),
        ),
        workings=(_sum_working(made, runs), _bound_working(problem, found), _even_working(found, schools)),
    )


def _missed(found: Solution, working: str = "") -> Quantity:
    if not np.isfinite(found.gap):
        return Quantity("At most missed", text="not known yet", working=working)
    return Quantity("At most missed", at_most_percent(found.gap), "%", decimals=1, working=working)


def _sum_working(made: Composed, runs: Sequence[NightRun]) -> Working:
    return Working(
        "sum",
        "Frames of the night",
        "Σ frames × exposure",
        tuple(
            Quantity(
                f"{made.stands[run.stand].name}: {panel_name(made, run.wish, run.panel)}",
                text=f"{run.frames} × {run.exposure_s:g} s",
            )
            for run in runs
        ),
        Quantity("Shutter open", text=duration_words(sum(run.frames * run.exposure_s for run in runs))),
        "Whole subs in each run",
        "definition",
    )


def _bound_working(problem: Problem, found: Solution) -> Working:
    rules = problem.rules
    return Working(
        "bound",
        "How good the order is",
        "maximise Σ w √(weighted time); a picture of panels counts as its poorest panel, once for each",
        (
            Quantity("Worth of this order", found.value, "", decimals=3),
            Quantity("No order is worth more than", found.bound, decimals=3)
            if np.isfinite(found.bound)
            else Quantity("No order is worth more than", text="not known yet"),
            Quantity("Runs begin and end every", rules.slot, "min", decimals=0),
            Quantity("A change takes", rules.change, "min", decimals=0),
            Quantity("Shortest run", rules.shortest, "min", decimals=0),
        ),
        _missed(found),
        "Signal to noise grows with the root of the time; integer program by HiGHS, bound by Lagrange over all possible runs",
        "published",
        "Weights say how much a picture matters to you; a picture of three panels asks for three times the time of one frame.",
    )


def _even_working(found: Solution, schools: Sequence[SchoolPrice]) -> Working:
    return Working(
        "even",
        "What sharing by head would bring",
        "Σ w √(weighted time) of each way over that of this order",
        tuple(Quantity(one.name.capitalize(), -one.loses_percent, "%", decimals=1) for one in schools),
        Quantity("This order", found.value, "", decimals=3),
        "The same night, targets and changes, shared the way people do in their heads",
        "definition",
    )


def whole_night(made: Composed, found: Solution, spot: Spot, evening: date) -> WholeNight:
    """All there is to say about a night that has been solved."""
    problem, night = made.problem, made.night
    start, end = strip_span(night)
    choices = made.stands[0].choices
    values = school_values(problem)
    schools = tuple(
        SchoolPrice(name, 100.0 * (1.0 - value / found.value) if found.value > 0.0 else 0.0) for name, (value, _) in values.items()
    )
    runs = runs_of(made, found.stretches)
    left = left_out(made, runs, spot, evening)
    dark = _spans(night.sun_altitude <= np.radians(DARK_SUN_DEG[choices.darkness]), start)
    asleep = [NightSpan(begin - start, end - start) for begin, end in problem.rules.asleep]
    named = tuple(PlannedRun(run, name := panel_name(made, run.wish, run.panel), _run_verdict(made, run, name)) for run in runs)
    return WholeNight(
        datetime_from_mjd(float(night.mjd[start])),
        spot.time_zone,
        end - start,
        problem.rules.slot,
        dark[0] if dark else None,
        asleep[0] if asleep else None,
        _windows(made),
        named,
        _totals(made, runs, values[EVEN][1].tolist()),
        schools,
        left,
        _suits(made),
        found.gap * 100.0 if np.isfinite(found.gap) else None,
        _night_verdict(made, found, runs, schools, left),
    )

"""The night as one step after the other: what to do now, the one or two numbers that matter, and its caution the first time.

Steps follow the rigs, how each is aligned, how its frames are found, and the weather: no polar scope for two photographs, no heater
without dew, no mirror lock-up for a body that has none.
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import datetime, timedelta
from typing import Literal

import numpy as np

from widedusk.core.choices import DARK_SUN_DEG
from widedusk.core.exposure.light import back_of_camera
from widedusk.core.exposure.window import read
from widedusk.core.field.finder_view import FinderView, finder_views
from widedusk.core.field.planned import PlannedNight, PlannedRun
from widedusk.core.kit.dew import below_air_c
from widedusk.core.kit.parts import Battery, Counterweight, Heater
from widedusk.core.night.windows import setup_mjd
from widedusk.core.plan.schedule.sheet import calibration_words
from widedusk.core.plan.schedule.worth import Stand, current
from widedusk.core.pole.axis import arc_words
from widedusk.core.pole.rough import bearings
from widedusk.core.pole.sight import pole_hidden
from widedusk.core.pole.tolerance import way_that_suffices
from widedusk.core.scene import Spot
from widedusk.core.sky.time import MINUTE, datetime_from_mjd, mjd_from_datetime

Phase = Literal["by daylight", "polar alignment", "find and focus", "run", "meanwhile", "at the end"]
Kind = Literal["check", "list", "pole", "align", "find", "test", "run"]
ALIGN_MIN = 15.0  # before a rig is framed for the first time
HOME_MIN, WALK_MIN = 180.0, 60.0  # before set-up: the bag is packed, one is at the place
HEATER_BEFORE_MIN = 20.0  # the glass takes so long to warm through. Common practice, no source
SWAP_BEFORE_MIN = 5.0


@dataclass(frozen=True)
class StepFigure:
    """One number that matters."""

    name: str
    text: str


@dataclass(frozen=True)
class Step:
    """key: the same in every pack of this night. rig: place in the list of rigs, none for all; run: key of the run it belongs to.
    view: what one sees in the finder."""

    key: str
    phase: Phase
    kind: Kind
    sentence: str
    due: datetime
    figures: tuple[StepFigure, ...] = ()
    caution: str = ""
    rig: int | None = None
    run: str = ""
    view: FinderView | None = None


CAUTIONS = {
    "walk": "Edges, water, tide, animals. Tell someone where you are and when you return.",
    "power": "Never charge below freezing. Leave a damaged pack alone. Mains outdoors only behind a residual-current breaker.",
    "weight": "A counterweight falls on feet: screw its stop on first.",
    "sun": "Never point eye, finder or lens at the Sun.",
    "laser": "Laser: never near aircraft, vehicles, people or animals. Follow local law; in doubt use the scope or photographs.",
    "sight": "White light off before you look in.",
    "cold": "Put the warm layer on before you are cold.",
    "flats": "Do not look into a bright panel after a night in the dark.",
    "drive": "Tired driving is as dangerous as drunk driving. Sleep first.",
    "storm": "Lightning, smoke or rising water: leave everything and go.",
}


def _at(mjd: float) -> datetime:
    return datetime_from_mjd(mjd)


def _tracks(stand: Stand) -> bool:
    return stand.rig.tracker is not None and stand.choices.tracking != "untracked"


def steps_of(planned: PlannedNight, spot: Spot, ways_aligned: Sequence[str]) -> tuple[Step, ...]:
    """The whole night in the order in which it is due. ways_aligned: of each rig, the key of its way of aligning; empty for advice.

    A caution stands at the first step where it matters and nowhere else.
    """
    blocks = [_by_daylight(planned, spot)]
    for number, stand in enumerate(planned.stands):
        if any(run.stand == number for run in planned.runs):
            blocks.append(_set_up(planned, number, stand, spot))
            blocks.append(_aligned(planned, number, stand, spot, ways_aligned[number] if number < len(ways_aligned) else ""))
            blocks += [[step] for step in _meanwhile(planned, number, stand, spot)]
    blocks += [_of_run(planned, run, spot) for run in planned.runs]
    blocks.append(_at_the_end(planned, spot))
    # What belongs together stays together: one person finishes one rig before the next.
    ordered = sorted((block for block in blocks if block), key=lambda block: block[0].due)
    said: set[str] = set()
    made = []
    for step in (step for block in ordered for step in block):
        if step.caution in said:
            step = replace(step, caution="")  # noqa: PLW2901 - the step as it is kept
        said.add(step.caution)
        made.append(step)
    return tuple(made)


def _begin(planned: PlannedNight) -> float:
    return min(setup_mjd(planned.night, stand.choices) for stand in planned.stands)


def _by_daylight(planned: PlannedNight, spot: Spot) -> list[Step]:
    night, begin = planned.night, _begin(planned)
    down, _ = night.sunset_and_sunrise()
    dark, _ = night.sun_crossing(np.radians(DARK_SUN_DEG[planned.stands[0].choices.darkness]))
    light = [StepFigure(name, spot.clock(at)) for name, at in (("Sunset", down), ("Dark", dark)) if at is not None]
    first = _at(begin - WALK_MIN * MINUTE)
    batteries = sum(len(stand.assembly.all(Battery)) for stand in planned.stands if stand.assembly)
    told = [StepFigure("Batteries", f"{batteries}")] if batteries else []
    home = _at(begin - HOME_MIN * MINUTE)
    return [
        Step("bag", "by daylight", "list", "At home: is everything in the bag, the hood and the spare cells too?", home),
        Step("walk", "by daylight", "check", "Walk the ground while it is light.", first, tuple(light[:2]), CAUTIONS["walk"]),
        Step(
            "power",
            "by daylight",
            "check",
            "Put the batteries in, switch everything on once, and off again.",
            first + timedelta(minutes=10),
            tuple(told),
            CAUTIONS["power"],
        ),
        Step(
            "sky",
            "by daylight",
            "check",
            "Look around: what the forecast says, and what the sky says.",
            first + timedelta(minutes=15),
            (),
            CAUTIONS["storm"],
        ),
    ]


def _set_up(planned: PlannedNight, number: int, stand: Stand, spot: Spot) -> list[Step]:
    begin = setup_mjd(planned.night, stand.choices)
    south = spot.observer.south
    towards = bearings(spot, _at(begin))
    steps: list[Step] = []

    def add(key: str, sentence: str, *figures: StepFigure, caution: str = "") -> None:
        due = _at(begin + len(steps) * 3 * MINUTE)
        steps.append(Step(f"{key}:{number}", "by daylight", "check", sentence, due, figures, caution, number))

    if _tracks(stand):
        pole = "south" if south else "north"
        magnetic = StepFigure("Magnetic compass", f"{towards.magnetic_deg:.0f}°")
        true = StepFigure("True", f"{towards.true_deg:.0f}°")
        add("azimuth", f"Turn the tripod until the axis looks {pole}.", magnetic, true, caution=CAUTIONS["sun"])
        add("level", "Level the tripod, legs spread low.")
        add("latitude", "Raise the axis to the latitude.", StepFigure("Latitude", f"{abs(spot.latitude_deg):.1f}°"))
        rate = StepFigure("Rate", "sidereal")
        add("switch", f"Hemisphere switch to {pole}, rate to the stars.", StepFigure("Hemisphere", pole), rate)
        if stand.assembly is not None and stand.assembly.all(Counterweight):
            add("weight", "Weight on before the camera, and its stop.", caution=CAUTIONS["weight"])
    run = next(run for run in planned.runs if run.stand == number)
    camera = (StepFigure("Aperture", f"f/{run.f_number:.3g}"), StepFigure("ISO", f"{run.iso}"))
    add("camera", "Camera to bulb, raw, noise reduction off. Then read the aperture once more.", *camera)
    if stand.choices.noise_reduction == "on":
        steps[-1] = replace(steps[-1], sentence="Camera to bulb, raw. Then read the aperture once more.")
    if stand.choices.mirror_s > 0.0:
        add("mirror", "Mirror lock-up with the self-timer: one press must open the shutter.")
    if stand.rig.guider and stand.choices.tracking.startswith("guided"):
        add("guider", "Guider plugged in, its cable slack.")
    add("hood", "Hood on. Cables tied to a leg, slack.")
    return steps


def _way(stand: Stand, run: PlannedRun, spot: Spot, chosen: str) -> str:
    """The way of aligning: the one that is chosen, else the quickest that suffices here."""
    if chosen:
        return chosen
    found = way_that_suffices(run.seen.tolerance.arcmin, stand.rig, pole_hidden(spot))
    return found.key if found else "photographs"


def _aligned(planned: PlannedNight, number: int, stand: Stand, spot: Spot, chosen: str) -> list[Step]:
    if not _tracks(stand):
        return []
    runs = [run for run in planned.runs if run.stand == number]
    run = min(runs, key=lambda run: run.seen.tolerance.arcmin)  # one axis serves them all
    way = _way(stand, run, spot, chosen)
    enough = StepFigure("Good enough", arc_words(run.seen.tolerance.arcmin))
    begin = mjd_from_datetime(min(run.change_at for run in runs)) - ALIGN_MIN * MINUTE
    steps: list[Step] = []

    def add(key: str, sentence: str, kind: Kind = "align", caution: str = "", *figures: StepFigure) -> None:
        due = _at(begin + len(steps) * 3 * MINUTE)
        steps.append(Step(f"{key}:{number}", "polar alignment", kind, sentence, due, figures, caution, number))

    payload = ("payload", "Camera on, clamps tight, nothing knocked.")
    if way == "scope":
        add("scope", "Screws only: stars to where the view has them.", "pole", CAUTIONS["sight"], enough)
        add(*payload)
        add("again", "Look through the polar scope again, the camera on.", "pole", "", enough)
    elif way == "sight":
        add("sight", "Sight along the axis at the pole, from a step behind.", "align", CAUTIONS["laser"], enough)
        add(*payload)
        add("again", "Sight along the axis again, the camera on.", "align", "", enough)
    elif way == "drift":
        add(*payload)
        add("drift", "Watch one star near the meridian, then one low in the east or west.", "align", "", enough)
    elif way == "photographs":
        add(*payload)
        add("first", "First picture, anywhere 30° to 70° up.", "align", "", enough)
        add("turn", "Turn the tracker 30° or more about its axis. Touch nothing else.")
        add("second", "Second picture, same settings. Then the screws, as told, and once more.", "align", "", enough)
    else:
        add(*payload)
        add("rough", "Compass and latitude scale are enough: look at both again.", "align", "", enough)
    return steps


def _meanwhile(planned: PlannedNight, number: int, stand: Stand, spot: Spot) -> list[Step]:
    """What the weather and the batteries ask for while it runs."""
    found = []
    fogs = planned.air.fogs_mjd(below_air_c(stand.choices.dew_school)) if planned.air else None
    if fogs is not None:
        heater = stand.assembly is not None and bool(stand.assembly.all(Heater))
        what = "Heater on: dew is near." if heater else "Hand warmer under the lens: dew is near."
        if not heater and stand.choices.dew_school == "hood":
            what = "Look at the front glass: dew is near."
        due = _at(max(fogs - HEATER_BEFORE_MIN * MINUTE, setup_mjd(planned.night, stand.choices)))
        clock = StepFigure("Dew from", spot.clock(fogs))
        found.append(Step(f"dew:{number}", "meanwhile", "check", what, due, (clock,), "", number))
    power = current(stand, spot, planned.evening, planned.air)
    for order, swap in enumerate(power.swaps, 1):
        at = float(planned.night.mjd[0]) + swap.minute * MINUTE
        clock = StepFigure("Empty at", spot.clock(at))
        due = _at(at - SWAP_BEFORE_MIN * MINUTE)
        found.append(Step(f"swap{order}:{number}", "meanwhile", "check", f"Swap {swap.words}.", due, (clock,), "", number))
    if planned.air is not None and min(planned.air.temperature_c) < 5.0 and number == 0:
        low = StepFigure("Coldest", f"{min(planned.air.temperature_c):.0f} °C")
        due = _at(_begin(planned) + 40 * MINUTE)
        found.append(Step("layers", "meanwhile", "check", "Warm layers on, and a hot drink.", due, (low,), CAUTIONS["cold"]))
    return found


def _of_run(planned: PlannedNight, run: PlannedRun, spot: Spot) -> list[Step]:
    stand, choices = planned.stands[run.stand], run.choices
    first = run.change_at
    name = StepFigure("Target", run.name)
    steps: list[Step] = []

    def add(key: str, phase: Phase, kind: Kind, sentence: str, *figures: StepFigure, view: FinderView | None = None) -> None:
        due = first + timedelta(minutes=len(steps))
        steps.append(Step(f"{key}:{run.key}", phase, kind, sentence, due, figures, "", run.stand, run.key, view))

    if run.way is None:
        add("frame", "find and focus", "find", run.again, name)
    else:
        views = finder_views(run.way, spot, mjd_from_datetime(run.change_at))
        lines = run.way.steps or (run.way.verdict.sentence,)
        # The first line finds the star on which the first view begins; each line after it is a step along the path.
        for number, line in enumerate(line for line in lines if line != "Take a test picture."):
            view = views[min(max(number - 1, 0), len(views) - 1)] if views else None
            shown = (name,) if number == 0 else ()
            add(f"find{number + 1}", "find and focus", "find", line, *shown, view=view)
    add("focus", "find and focus", "check", "Focus on a bright star, magnified; smallest point wins. Then tape.")
    wanted = run.seen.wanted
    reading = read(stand.rig, run.seen.light, wanted, run.seen.advice.step, run.exposure_s)
    peak = StepFigure("Histogram peak at", f"{100.0 * float(back_of_camera(reading.background_share)):.0f} %")
    add(
        "test",
        "find and focus",
        "test",
        "One test frame: stars in the middle and all four corners, the peak, the frame.",
        StepFigure("Sub", f"{run.exposure_s:g} s at ISO {run.iso}"),
        peak,
    )
    count = StepFigure("Frames", f"{run.frames}")
    sub = StepFigure("Sub", f"{run.exposure_s:g} s")
    gap = run.pause_s if choices.convention == "gap" else run.exposure_s + run.pause_s
    interval = StepFigure("Interval", f"{gap:g} s")
    delay = StepFigure("Delay", f"{choices.delay_s:g} s")
    steps.append(
        Step(
            f"run:{run.key}",
            "run",
            "run",
            f"{run.name}: key it in, then press the button.",
            run.begins_at,
            (delay, sub, interval, count),
            "",
            run.stand,
            run.key,
        )
    )
    return steps


def _at_the_end(planned: PlannedNight, spot: Spot) -> list[Step]:
    if not planned.runs:
        return []
    last = max(run.ends_at for run in planned.runs)
    steps: list[Step] = []

    def add(key: str, sentence: str, caution: str = "", *figures: StepFigure, rig: int | None = None) -> None:
        due = last + timedelta(minutes=2 + 3 * len(steps))
        steps.append(Step(key, "at the end", "check", sentence, due, figures, caution, rig))

    for number, stand in enumerate(planned.stands):
        subs = [(run.exposure_s, run.iso) for run in planned.runs if run.stand == number]
        for order, told in enumerate(calibration_words(stand, subs), 1):
            cap = "Cap on: " if "dark" in told or "bias" in told else ""
            what = f"{cap}{told}." if cap else f"Focus and ring untouched: {told}."
            add(f"calibration{order}:{number}", what, "" if cap else CAUTIONS["flats"], rig=number)
    add("pack", "Pack up by the list, and look over the ground with a light.")
    steps[-1] = replace(steps[-1], kind="list")
    add("drive", "Are you fit to drive?", CAUTIONS["drive"])
    return steps

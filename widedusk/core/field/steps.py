"""The night as one step after the other: what to do now, the one or two numbers that matter, and its caution the first time.

Steps follow the rigs, how each is aligned, how its frames are found, and the weather: no polar scope for two photographs, no heater
without dew, no mirror lock-up for a body that has none.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import UTC, datetime, timedelta
from typing import Literal

import numpy as np

from widedusk.core.choices import DARK_SUN_DEG
from widedusk.core.exposure.light import back_of_camera
from widedusk.core.exposure.window import read
from widedusk.core.field.durations import kind_of, minutes_of_step
from widedusk.core.field.finder_view import FinderView, finder_views
from widedusk.core.field.hands import Hands
from widedusk.core.field.planned import PlannedNight, PlannedRun
from widedusk.core.kit.dew import below_air_c
from widedusk.core.kit.parts import Battery, Counterweight, Heater
from widedusk.core.night.windows import setup_mjd
from widedusk.core.plan.dusk import is_tracked, stars_out_mjd
from widedusk.core.plan.schedule.sheet import calibration_sets
from widedusk.core.plan.schedule.worth import Stand, current
from widedusk.core.pole.axis import arc_words
from widedusk.core.pole.rough import bearings
from widedusk.core.pole.sight import pole_hidden
from widedusk.core.pole.tolerance import METHODS, way_that_suffices, why_not
from widedusk.core.scene import Spot
from widedusk.core.sky.time import MINUTE, datetime_from_mjd, mjd_from_datetime
from widedusk.core.verdict import duration_words

Phase = Literal["by daylight", "polar alignment", "find and focus", "run", "meanwhile", "at the end"]
Kind = Literal["check", "list", "pole", "align", "measure", "find", "test", "run"]
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
    view: what one sees in the finder. lasts_min: for which the person is busy; yours: as this person took in earlier nights, else
    typical. goes_on_min: for which it goes on by itself after that."""

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
    lasts_min: float = 0.0
    yours: bool = False
    goes_on_min: float = 0.0


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


SOMETIME = datetime.min.replace(tzinfo=UTC)  # of a step that has no time yet


def steps_of(
    planned: PlannedNight, spot: Spot, ways_aligned: Sequence[str], learned: Mapping[str, float] | None = None
) -> tuple[Step, ...]:
    """The whole night in the order in which it is due, for one pair of hands.

    ways_aligned: of each rig, the key of its way of aligning; empty for advice. learned: minutes that this person takes for a kind
    of step. A caution stands at the first step where it matters and nowhere else.
    """
    night = _Night(planned, spot, ways_aligned, learned or {})
    ordered = sorted((block for block in night.blocks() if block), key=lambda block: block[0].due)
    said: set[str] = set()
    made = []
    for step in (step for block in ordered for step in block):
        if step.caution in said:
            step = replace(step, caution="")  # noqa: PLW2901 - the step as it is kept
        said.add(step.caution)
        made.append(step)
    return tuple(made)


@dataclass(frozen=True)
class _Night:
    """What is done in one night, block by block: a block is what belongs together and is done without a break."""

    planned: PlannedNight
    spot: Spot
    ways_aligned: Sequence[str]
    learned: Mapping[str, float]

    def blocks(self) -> list[list[Step]]:
        hands = Hands(self.planned.asleep)
        rigs = [number for number, _ in enumerate(self.planned.stands) if any(r.stand == number for r in self.planned.runs)]
        rigs.sort(key=lambda number: min(run.change_at for run in self.planned.runs if run.stand == number))
        blocks = [self._change_steps(run, hands) for run in self.planned.runs]
        blocks += self._preparation_steps(rigs, hands)
        for number in rigs:
            blocks += [[step] for step in self._upkeep_steps(number, hands)]
            blocks += self._calibration_steps(number, hands)
        last = max((_end(step) for block in blocks for step in block if not step.goes_on_min), default=None)
        return [*blocks, *self._packing_steps(last, blocks)] if last is not None else blocks

    def _timed(self, steps: Sequence[Step]) -> list[Step]:
        """Each with its length, none with a time."""
        timed = []
        for step in steps:
            minutes, yours = minutes_of_step(step.key, self.learned)
            timed.append(replace(step, lasts_min=round(minutes, 1), yours=yours))
        return timed

    def _in_sequence(self, steps: Sequence[Step], begin: float) -> list[Step]:
        """One after the other from a moment on."""
        timed = []
        for step in steps:
            timed.append(replace(step, due=_at(begin)))
            begin += step.lasts_min * MINUTE
        return timed

    def _change_steps(self, run: PlannedRun, hands: Hands) -> list[Step]:
        """Finding, focus, test and timer, in the time that the plan gives; the run is started as it is over."""
        *before, start = self._timed(_of_run(self.planned, run, self.spot))
        change, begins = mjd_from_datetime(run.change_at), mjd_from_datetime(run.begins_at)
        find = [step for step in before if step.key.startswith("find")]
        before = [replace(one, lasts_min=round(one.lasts_min / len(find), 1)) if one in find else one for one in before]
        given, wanted = (begins - change) / MINUTE, sum(step.lasts_min for step in before)
        share = given / wanted if 0.0 < given < wanted else 1.0
        shrunk = [replace(step, lasts_min=round(step.lasts_min * share, 1)) for step in before]
        hands.take(change, begins - change)
        return [*self._in_sequence(shrunk, change), replace(start, due=run.begins_at)]

    def _preparation_steps(self, rigs: Sequence[int], hands: Hands) -> list[list[Step]]:
        """By daylight, each rig set up; then, as stars are out, each axis, all of them before the first frame is looked for."""
        planned, spot = self.planned, self.spot
        set_up = [self._timed(_set_up(planned, number, planned.stands[number], spot)) for number in rigs]
        aligned = [self._timed(_aligned(planned, number, planned.stands[number], spot, self._way_of(number))) for number in rigs]
        last = self._timed(_by_daylight(planned, spot))
        before = mjd_from_datetime(min(run.change_at for run in planned.runs))
        busy = sum(step.lasts_min for block in set_up for step in block) * MINUTE
        aligning = sum(step.lasts_min for block in aligned for step in block) * MINUTE
        begin = min(setup_mjd(planned.night, planned.stands[number].choices) for number in rigs)
        out = stars_out_mjd(planned.night)
        axis = min(max(begin + busy, out if out is not None else begin), before - aligning)
        begin = min(begin, axis - busy)
        blocks = []
        for block in set_up:
            blocks.append(self._in_sequence(block, begin))
            begin += sum(step.lasts_min for step in block) * MINUTE
        for block in aligned:
            blocks.append(self._in_sequence(block, axis))
            axis += sum(step.lasts_min for step in block) * MINUTE
        first = mjd_from_datetime(blocks[0][0].due) if blocks and blocks[0] else begin
        home, *there = last
        walk = self._in_sequence(there, first - WALK_MIN * MINUTE)
        for block in (*blocks, walk):
            if block:
                start = mjd_from_datetime(block[0].due)
                hands.take(start, mjd_from_datetime(_end(block[-1])) - start)
        return [[replace(home, due=_at(first - HOME_MIN * MINUTE)), *walk], *blocks]

    def _way_of(self, number: int) -> str:
        return self.ways_aligned[number] if number < len(self.ways_aligned) else ""

    def _upkeep_steps(self, number: int, hands: Hands) -> list[Step]:
        """What the weather and the batteries ask for: done by when it must be, between two changes."""
        begin = setup_mjd(self.planned.night, self.planned.stands[number].choices)
        timed = []
        for step in self._timed(_meanwhile(self.planned, number, self.planned.stands[number], self.spot)):
            lasts, by = step.lasts_min * MINUTE, mjd_from_datetime(step.due)
            timed.append(replace(step, due=_at(hands.latest(by + lasts, lasts, begin))))
        return timed

    def _calibration_steps(self, number: int, hands: Hands) -> list[list[Step]]:
        """After the last frame of a rig; what goes on by itself leaves the hands free."""
        runs = [run for run in self.planned.runs if run.stand == number]
        free, timed = mjd_from_datetime(max(run.ends_at for run in runs)) + 2.0 * MINUTE, []
        for step in self._timed(_calibration(self.planned, number)):
            begin = hands.earliest(free, step.lasts_min * MINUTE)
            timed.append([replace(step, due=_at(begin))])
            free = begin + (step.lasts_min + step.goes_on_min) * MINUTE
        return timed

    def _packing_steps(self, last: datetime, blocks: Sequence[Sequence[Step]]) -> list[list[Step]]:
        """Packing, while the last darks go on by themselves; the drive when both are over."""
        pack, drive = self._timed(_at_the_end())
        last = max(last, *(run.ends_at for run in self.planned.runs))
        goes_on = [step for block in blocks for step in block if step.goes_on_min and _end(step) > last]
        if goes_on:
            still = max(goes_on, key=_end)
            rig = "" if still.rig is None else f" of {self.planned.stands[still.rig].name}"
            clock = self.spot.clock(mjd_from_datetime(_end(still)))
            until = f"The last {kind_of(still.key)}{rig} go on until {clock}: pack the rest first."
            pack = replace(pack, sentence=f"{pack.sentence} {until}")
            last = max(last, *(still.due + timedelta(minutes=still.lasts_min) for still in goes_on))
        pack = replace(pack, due=last)
        return [[pack, replace(drive, due=max([_end(pack), *(_end(step) for step in goes_on)]))]]


def _end(step: Step) -> datetime:
    """When it is over, what goes on by itself included."""
    return step.due + timedelta(minutes=step.lasts_min + step.goes_on_min)


def _by_daylight(planned: PlannedNight, spot: Spot) -> list[Step]:
    night = planned.night
    down, _ = night.sunset_and_sunrise()
    dark, _ = night.sun_crossing(np.radians(DARK_SUN_DEG[planned.stands[0].choices.darkness]))
    light = [StepFigure(name, spot.clock(at)) for name, at in (("Sunset", down), ("Dark", dark)) if at is not None]
    batteries = sum(len(stand.assembly.all(Battery)) for stand in planned.stands if stand.assembly)
    told = [StepFigure("Batteries", f"{batteries}")] if batteries else []
    switch_on = "Put the batteries in, switch everything on once, and off again."
    return [
        Step("bag", "by daylight", "list", "Before leaving: is everything packed, lens hood and spare batteries too?", SOMETIME),
        Step("walk", "by daylight", "check", "Walk the ground while it is light.", SOMETIME, tuple(light[:2]), CAUTIONS["walk"]),
        Step("power", "by daylight", "check", switch_on, SOMETIME, tuple(told), CAUTIONS["power"]),
        Step("sky", "by daylight", "check", "Check the forecast and the sky.", SOMETIME, (), CAUTIONS["storm"]),
    ]


def _set_up(planned: PlannedNight, number: int, stand: Stand, spot: Spot) -> list[Step]:
    south = spot.observer.south
    towards = bearings(spot, _at(setup_mjd(planned.night, stand.choices)))
    steps: list[Step] = []

    def add(key: str, sentence: str, *figures: StepFigure, caution: str = "") -> None:
        steps.append(Step(f"{key}:{number}", "by daylight", "check", sentence, SOMETIME, figures, caution, number))

    if is_tracked(stand):
        pole = "south" if south else "north"
        magnetic = StepFigure("Magnetic compass", f"{towards.magnetic_deg:.0f}°")
        true = StepFigure("True", f"{towards.true_deg:.0f}°")
        add("azimuth", f"Turn the tripod until the axis points {pole}.", magnetic, true, caution=CAUTIONS["sun"])
        add("level", "Level the tripod, legs spread low.")
        add("latitude", "Raise the axis to the latitude.", StepFigure("Latitude", f"{abs(spot.latitude_deg):.1f}°"))
        rate = StepFigure("Rate", "sidereal")
        add("switch", f"Hemisphere switch to {pole}, rate to sidereal.", StepFigure("Hemisphere", pole), rate)
        if stand.assembly is not None and stand.assembly.all(Counterweight):
            add("weight", "Fit the counterweight and its safety stop first, then the camera.", caution=CAUTIONS["weight"])
    run = next(run for run in planned.runs if run.stand == number)
    camera = (StepFigure("Aperture", f"f/{run.f_number:.3g}"), StepFigure("ISO", f"{run.iso}"))
    noise = "" if stand.choices.noise_reduction == "on" else ", noise reduction off"
    add("camera", f"Camera to bulb, raw{noise}. Then check the aperture: some cameras reset it to wide open.", *camera)
    if stand.choices.mirror_s > 0.0:
        add("mirror", "Mirror lock-up with the self-timer: one tap must open the shutter.")
    if stand.rig.guider and stand.choices.tracking.startswith("guided"):
        add("guider", "Guider plugged in, its cable slack.")
    add("hood", "Hood on. Cables tied to a leg, slack.")
    return steps


def _way(stand: Stand, run: PlannedRun, spot: Spot, chosen: str) -> str:
    """The way of aligning: the one that is chosen and can be gone with what comes along, else the quickest that suffices here, else
    the finest that can be gone."""
    known = next((one for one in METHODS if one.key == chosen), None)
    if chosen and not (known and known.needs_computer and stand.choices.comes_along == "phone"):
        return chosen
    hidden, along = pole_hidden(spot), stand.choices.comes_along
    found = way_that_suffices(run.seen.tolerance.arcmin, stand.rig, hidden, along)
    if found:
        return found.key
    possible = [one for one in METHODS if not why_not(one, stand.rig, hidden, along)]
    return min(possible, key=lambda one: one.worst_arcmin).key if possible else "rough"


def _aligned(planned: PlannedNight, number: int, stand: Stand, spot: Spot, chosen: str) -> list[Step]:
    if not is_tracked(stand):
        return []
    runs = [run for run in planned.runs if run.stand == number]
    run = min(runs, key=lambda run: run.seen.tolerance.arcmin)  # one axis serves them all
    way = _way(stand, run, spot, chosen)
    enough = StepFigure("Good enough", arc_words(run.seen.tolerance.arcmin))
    steps: list[Step] = []

    def add(key: str, sentence: str, kind: Kind = "align", caution: str = "", *figures: StepFigure) -> None:
        steps.append(Step(f"{key}:{number}", "polar alignment", kind, sentence, SOMETIME, figures, caution, number))

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
        add("first", "Take the first photo, anywhere 30° to 70° up.", "align", "", enough)
        add("turn", "Turn the tracker 30° or more about its axis. Touch nothing else.")
        measured = "on the laptop" if stand.choices.comes_along == "laptop" else "over the connection"
        told = f"Take the second photo, measure both {measured}, turn the screws as shown, then repeat."
        add("second", told, "measure", "", enough)
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
        due = _at(fogs - HEATER_BEFORE_MIN * MINUTE)
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
        due = _at(setup_mjd(planned.night, stand.choices) + 40 * MINUTE)
        found.append(Step("layers", "meanwhile", "check", "Warm layers on, and a hot drink.", due, (low,), CAUTIONS["cold"]))
    return found


def _of_run(planned: PlannedNight, run: PlannedRun, spot: Spot) -> list[Step]:
    stand, choices = planned.stands[run.stand], run.choices
    name = StepFigure("Target", run.name)
    steps: list[Step] = []

    def add(key: str, phase: Phase, kind: Kind, sentence: str, *figures: StepFigure, view: FinderView | None = None) -> None:
        steps.append(Step(f"{key}:{run.key}", phase, kind, sentence, SOMETIME, figures, "", run.stand, run.key, view))

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
        "Take a test frame. Check focus in the middle and all four corners, the histogram, and the framing.",
        StepFigure("Sub", f"{run.exposure_s:g} s at ISO {run.iso}"),
        peak,
    )
    count = StepFigure("Frames", f"{run.frames}")
    sub = StepFigure("Sub", f"{run.exposure_s:g} s")
    gap = run.pause_s if choices.convention == "gap" else run.exposure_s + run.pause_s
    interval = StepFigure("Interval", f"{gap:g} s")
    delay = StepFigure("Delay", f"{choices.delay_s:g} s")
    waits = (StepFigure("Later than its plan", f"{run.waits_min:.0f} min: one pair of hands"),) if run.waits_min else ()
    steps.append(
        Step(
            f"run:{run.key}",
            "run",
            "run",
            f"{run.name}: set the timer, then start it.",
            run.begins_at,
            (sub, count, StepFigure("ISO", f"{run.iso}"), StepFigure("Aperture", f"f/{run.f_number:.3g}"), interval, delay, *waits),
            "",
            run.stand,
            run.key,
        )
    )
    return steps


def _calibration(planned: PlannedNight, number: int) -> list[Step]:
    """Flats, bias and darks of one rig."""
    stand = planned.stands[number]
    steps = []
    for order, one in enumerate(calibration_sets(stand, [(r.exposure_s, r.iso) for r in planned.runs if r.stand == number]), 1):
        alone = one.lasts_s / 60.0
        figures = (StepFigure("Takes", duration_words(one.lasts_s)),)
        if one.kind == "flats":
            what, caution = f"Without touching focus or aperture, take {one.words}.", CAUTIONS["flats"]
        else:
            by_itself = " They go on by themselves." if one.kind == "darks" else ""
            what, caution = f"Cap on: take {one.words}.{by_itself}", ""
        key = f"{one.kind}{order}:{number}"
        steps.append(Step(key, "at the end", "check", what, SOMETIME, figures, caution, number, goes_on_min=round(alone, 1)))
    return steps


def _at_the_end() -> list[Step]:
    pack = "Pack up by the list, and look over the ground with a light."
    return [
        Step("pack", "at the end", "list", pack, SOMETIME),
        Step("drive", "at the end", "check", "Are you fit to drive?", SOMETIME, (), CAUTIONS["drive"]),
    ]

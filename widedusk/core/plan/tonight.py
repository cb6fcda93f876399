"""The whole of one night: rig, spot, evening and target in, five verdicts, the dusk strip, the dial and the card out."""

from dataclasses import dataclass
from datetime import date, datetime
from functools import lru_cache

import numpy as np

from widedusk.core.choices import Choices
from widedusk.core.exposure.card import Card
from widedusk.core.exposure.card_verdict import card_verdict
from widedusk.core.exposure.setting import as_carried
from widedusk.core.exposure.verdict import exposure_verdict
from widedusk.core.exposure.window import read, spans
from widedusk.core.framing.frame import Frame, sides_deg
from widedusk.core.kit.assembly import Assembly
from widedusk.core.kit.complete import complete_verdict
from widedusk.core.kit.dew import Air, below_air_c
from widedusk.core.kit.parts import Rig
from widedusk.core.kit.payload import payload_verdict
from widedusk.core.kit.units import METRIC, Units
from widedusk.core.night.cues import Cue, Mark, in_order, marks
from widedusk.core.night.verdict import window_verdict
from widedusk.core.night.weather import Cover, Forecast, StripWeather, air_of, strip_weather
from widedusk.core.night.windows import STATES, Night, Track, setup_mjd, strip_span
from widedusk.core.plan.frame_over import frame_clear
from widedusk.core.plan.outlook import Supply, ends_mjd, night_of, outlook
from widedusk.core.plan.power import power_and_dew, programme_ends, swap_marks
from widedusk.core.pole.axis import Axis
from widedusk.core.pole.dial import Dial, Turning, dial, turning
from widedusk.core.pole.verdict import pole_verdict
from widedusk.core.scene import Spot, Target
from widedusk.core.sky.time import datetime_from_mjd
from widedusk.core.verdict import Verdict

_turning = lru_cache(maxsize=64)(turning)  # read only: the stars of a night turn alike whatever is changed in it


@dataclass(frozen=True)
class Stretch:
    """From one minute of the strip to another."""

    first: int
    last: int


@dataclass(frozen=True)
class Strip:
    """The dusk strip, minute by minute; all lists have the same length, angles in degrees."""

    start: datetime
    time_zone: str  # of the place; the offset may change in the night
    sky_mag: list[float]
    target_altitude: list[float]
    obstruction: list[float]
    moon_altitude: list[float]
    state: list[str]
    exposures: Stretch | None  # while the card runs
    moon_lit_percent: float
    weather: StripWeather | None  # none where no forecast reaches


@dataclass(frozen=True)
class Tonight:
    verdicts: tuple[Verdict, ...]
    also: tuple[Verdict, ...]  # what else does not hold, or holds with care: power, dew, missing parts
    strip: Strip
    cues: tuple[Cue, ...]
    dial: Dial | None  # none where nothing is aligned
    turning: Turning | None  # the same stars over the night
    setup: datetime
    setup_clock: str
    card: Card
    f_number: float
    iso: int
    time_zone: str
    start_clock: str  # when to press the button; empty when there is no window
    end_clock: str
    begins_at: datetime | None  # of the first frame and the last; none when there is no window
    ends_at: datetime | None


def _strip(night: Night, path: Track, run_minutes: tuple[int, int] | None, weather: StripWeather | None) -> Strip:
    first, last = strip_span(night)
    window = slice(first, last + 1)
    return Strip(
        datetime_from_mjd(float(night.mjd[first])),
        night.spot.time_zone,
        np.round(path.sky_mag[window], 2).tolist(),
        np.round(np.degrees(path.altitude[window]), 1).tolist(),
        np.round(np.degrees(path.obstruction[window]), 1).tolist(),
        np.round(np.degrees(night.moon_altitude[window]), 1).tolist(),
        [STATES[code] for code in path.state[window]],
        Stretch(run_minutes[0] - first, run_minutes[1] - first) if run_minutes else None,
        night.lit_fraction * 100,
        weather,
    )


def _cues(
    night: Night, path: Track, choices: Choices, setup: float, dew: float | None, tracks: bool, swaps: list[Mark]
) -> tuple[Cue, ...]:
    found = [*marks(night, choices, setup, tracks), *swaps]
    found.append(("transit", "Target highest", float(night.mjd[int(np.argmax(path.altitude))])))
    run = path.best_run
    if run is not None:
        found += [("opens", "Window opens", float(night.mjd[run[0]])), ("closes", "Window closes", float(night.mjd[run[1]]))]
    if dew is not None:
        found.append(("dew", "Dew on the glass", dew))
    return in_order(night, found)


def tonight(
    rig: Rig,
    spot: Spot,
    evening: date,
    target: Target,
    choices: Choices,
    units: Units = METRIC,
    forecast: Forecast | None = None,
    axis: Axis | None = None,
    air: Air | None = None,
    assembly: Assembly | None = None,
    angle_deg: float = 0.0,
) -> Tonight:
    """Work out one night. axis: as measured or left this night; assembly: the rig with what feeds it, which can end the night;
    angle_deg: of the frame's upper edge, by its framing.

    Raises InvalidInput naming every field that cannot be right."""
    night, choices = night_of(spot, evening), as_carried(rig, choices)
    air = air or air_of(night, forecast, choices)
    seen = outlook(rig, spot, evening, target, choices, axis, Supply(assembly, air) if assembly else None)
    path, run, programme = seen.path, seen.run, seen.card
    cover = Cover(forecast, night) if forecast else None
    setup = setup_mjd(night, choices)
    sun_at_setup = float(np.interp(setup, night.mjd, night.sun_altitude))
    tracks = choices.tracking != "untracked"
    face = dial(spot.observer, setup, rig.tracker.scope_view if rig.tracker else "none", choices.pole)
    first, last = (float(night.mjd[minute]) for minute in strip_span(night))
    begins = seen.begins_mjd if seen.begins_mjd is not None else setup
    ends = ends_mjd(begins, programme)
    frame = Frame(target.ra_deg, target.dec_deg, angle_deg, *sides_deg(rig))
    reading = read(rig, seen.light, seen.wanted, seen.advice.step, seen.advice.exposure_s)
    bounds = spans(rig, seen.light, seen.wanted, seen.advice, choices.star_mag)
    verdicts = (
        payload_verdict(rig, choices.payload_school, choices.payload_percent, units),
        window_verdict(night, path, target, choices, frame_clear(night, frame)),
        pole_verdict(seen.subject, seen.tolerance, seen.advice.exposure_s, seen.advice.tracked, spot, face, setup, sun_at_setup),
        exposure_verdict(seen.subject, seen.light, seen.wanted, seen.advice, bounds, reading, programme, seen.guided),
        card_verdict(programme, choices, spot.moment("Start", begins), spot.moment("Ends", ends)),
    )
    also: tuple[Verdict, ...] = ()
    swaps: list[Mark] = []
    if assembly is not None:
        power, dew, shown = power_and_dew(assembly, night, air, choices, programme_ends(seen))
        swaps = swap_marks(shown)
        also = tuple(one for one in (power, dew, complete_verdict(assembly, spot.latitude_deg)) if one.level != "go")
    busy = (run[0], run[0] + round(programme.total_s / 60.0)) if run and programme.frames else None
    return Tonight(
        verdicts,
        also,
        _strip(night, path, busy, strip_weather(cover, choices) if cover else None),
        _cues(night, path, choices, setup, air.fogs_mjd(below_air_c(choices.dew_school)) if air else None, tracks, swaps),
        face if tracks else None,
        _turning(night.spot, first, last, face.view, choices.pole) if tracks else None,
        datetime_from_mjd(setup),
        spot.clock(setup),
        programme,
        seen.light.f_number,
        seen.advice.step.iso,
        spot.time_zone,
        spot.clock(begins) if run and programme.frames else "",
        spot.clock(ends) if run and programme.frames else "",
        datetime_from_mjd(begins) if run and programme.frames else None,
        datetime_from_mjd(ends) if run and programme.frames else None,
    )

"""The exposures of one night: the sub window, what each alternative costs, how many frames, the card and the framing ladder."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date

import numpy as np

from widedusk.core.choices import Choices, Tracking
from widedusk.core.exposure.alternatives import (
    LONG_WAY,
    ApertureRow,
    FilterRow,
    IsoRow,
    Price,
    SchoolRow,
    Sky,
    Under,
    aperture_rows,
    filter_rows,
    iso_rows,
    prices_at,
    school_rows,
)
from widedusk.core.exposure.card import Card, Rung, card_text, framing_ladder
from widedusk.core.exposure.card_verdict import card_verdict
from widedusk.core.exposure.light import signal_to_noise
from widedusk.core.exposure.many import Many, Session, how_many
from widedusk.core.exposure.response import Through
from widedusk.core.exposure.sub import KEYABLE_S, Keeps
from widedusk.core.exposure.verdict import exposure_verdict
from widedusk.core.exposure.window import LONGEST_S, Reading, SubWindow, read, sub_window
from widedusk.core.kit.assembly import Assembly
from widedusk.core.kit.dew import Air
from widedusk.core.kit.parts import Filter, Rig
from widedusk.core.night.weather import air_of
from widedusk.core.plan.outlook import Outlook, Supply, ends_mjd, night_of, outlook, pauses_of, programme, under_way
from widedusk.core.pole.axis import Axis, AxisError, UsualAxis, arc_words
from widedusk.core.scene import Spot, Target
from widedusk.core.sky.time import day_words
from widedusk.core.tracking.wind import level_for
from widedusk.core.verdict import Verdict

LONG_SUBS_S = (900.0, LONGEST_S)  # beyond what is advised, within what a guided mount holds


@dataclass(frozen=True)
class Stop:
    """One length that timers key, read out for this night: what it keeps, fills and takes."""

    reading: Reading
    frames: int
    kept_frames: int
    storage_gb: float
    snr: float
    hours: float | None  # to the signal to noise that is wanted; None: out of reach


@dataclass(frozen=True)
class Exposing:
    verdicts: Sequence[Verdict]  # Exposure and Card
    window: SubWindow
    stops: Sequence[Stop]  # rising
    at: int  # which of them is in hand
    advised_s: float
    best_s: float
    f_number: float
    iso: int
    tracking: Tracking  # as it will be: without a tracker the camera stands still, whatever is chosen
    tracker: bool
    axis: str  # which axis error the drift is reckoned from
    wind: str  # what the wind that is typed or forecast suggests; empty where there is none
    schools: Sequence[SchoolRow]
    apertures: Sequence[ApertureRow]
    isos: Sequence[IsoRow]
    filters: Sequence[FilterRow]
    many: Many
    ladder: Sequence[Rung]
    card: Card
    text_gap: str
    text_start: str
    start_clock: str
    end_clock: str


def _under(seen: Outlook) -> Under:
    """What this night leaves to the target behind other filters: each bears its own share of the Moon."""
    subject, path = seen.subject, seen.path

    def under(filters: tuple[Filter, ...]) -> Sky:
        limit = Through(subject.rig.camera, filters).moon_limit_mag(subject.target, subject.choices.moon_limit_mag)
        run = path.run_under(limit)
        anyhow = run or path.run_under(np.inf)
        return Sky(*under_way(seen.night, path, anyhow), run[1] - run[0] if run else 0, run is None and anyhow is not None)

    return under


def _stop(seen: Outlook, exposure_s: float, best: float, round_keep: float) -> Stop:
    subject, light, step = seen.subject, seen.light, seen.advice.step
    reading = read(subject.rig, light, seen.wanted, step, exposure_s, best, round_keep)
    made = programme(subject.rig, subject.choices, seen.window_s, exposure_s, reading.keep, seen.powered_s)
    pause = pauses_of(subject.choices).after(exposure_s)
    hours = light.hours_for(subject.choices.goal_snr, step, exposure_s, pause, reading.keep)
    ratio = signal_to_noise(light.target_e_s, light.background_e_s, step.read_noise_e, exposure_s, made.kept_frames)
    return Stop(
        reading,
        made.frames,
        made.kept_frames,
        made.storage_gb,
        float(ratio),
        hours if np.isfinite(hours) and hours < LONG_WAY else None,
    )


def _axis_words(seen: Outlook) -> str:
    drift, choices = seen.subject.drift, seen.subject.choices
    if choices.tracking == "untracked":
        return "the camera stands still"
    if isinstance(seen.axis, AxisError):
        return f"the axis as measured tonight, {drift.axis_arcmin:.1f}′ off"
    if isinstance(seen.axis, UsualAxis):
        return f"an axis as “{seen.axis.way}” usually leaves it, within {arc_words(seen.axis.worst_arcmin)}; nobody measured it"
    return f"an axis {drift.axis_arcmin:g}′ off in the worst direction, as you expect"


def _wind_words(choices: Choices) -> str:
    if choices.wind_m_s is None:
        return ""
    level = level_for(choices.wind_m_s)
    agrees = "as is set" if level == choices.wind_level else f"{choices.wind_level} is set"
    return f"wind of {choices.wind_m_s:.0f} m/s expected suggests “{level}”, {agrees}"


def hours_at(
    stops: Sequence[float], rig: Rig, spot: Spot, evening: date, target: Target, choices: Choices, axis: Axis | None = None
) -> list[tuple[float, Price]]:
    """The sub and the price of each of these stops in one night, as `exposing` tells them of its own. Raises InvalidInput."""
    seen = outlook(rig, spot, evening, target, choices, axis)
    pause = pauses_of(choices).after(seen.advice.exposure_s)
    keeps = Keeps.under(seen.wanted)
    found = prices_at(seen.subject, stops, seen.light.f_number, seen.advice.step, keeps, pause)
    return [(advice.exposure_s, price) for advice, price in found]


def exposing(
    rig: Rig,
    spot: Spot,
    evening: date,
    target: Target,
    choices: Choices,
    axis: Axis | None = None,
    owned: Sequence[Filter] = (),
    sessions: Sequence[Session] = (),
    assembly: Assembly | None = None,
    air: Air | None = None,
) -> Exposing:
    """Work out every question about exposures for one night. Raises InvalidInput naming every field that cannot be right."""
    air = air or air_of(night_of(spot, evening), None, choices)
    seen = outlook(rig, spot, evening, target, choices, axis, Supply(assembly, air) if assembly else None)
    subject, light, wanted, advice, made = seen.subject, seen.light, seen.wanted, seen.advice, seen.card
    step, t = advice.step, advice.exposure_s
    pause = pauses_of(choices).after(t)
    window = sub_window(rig, light, wanted, advice, t, choices.star_mag)
    lengths = sorted({*(float(one) for one in KEYABLE_S), *LONG_SUBS_S, t})
    keeps = Keeps.under(wanted)
    begins = seen.begins_mjd
    start, end = (spot.clock(begins), spot.clock(ends_mjd(begins, made))) if begins is not None and made.frames else ("", "")
    texts = [
        card_text(
            made, convention, f"{target.name}, night of {day_words(evening)}", step.iso, light.f_number, start or "—", end or "—"
        )
        for convention in ("gap", "start to start")
    ]
    schools = school_rows(subject, light, wanted, step, t, pause)
    moment = begins if begins is not None else float(seen.night.mjd[len(seen.night.mjd) // 2])
    verdicts = (
        exposure_verdict(subject, light, wanted, advice, window.spans, window.reading, made, seen.guided),
        card_verdict(made, choices, spot.moment("Start", moment), spot.moment("Ends", ends_mjd(moment, made))),
    )
    return Exposing(
        verdicts,
        window,
        tuple(
            _stop(seen, length, window.curve.best, float(held))
            for length, held in zip(lengths, wanted.round_share(np.array(lengths)), strict=True)
        ),
        lengths.index(t),
        t,
        schools[0].exposure_s,
        light.f_number,
        step.iso,
        subject.choices.tracking,
        rig.tracker is not None,
        _axis_words(seen),
        _wind_words(choices),
        schools,
        aperture_rows(subject, light.f_number, step, keeps, pause),
        iso_rows(subject, light, wanted, step, t, pause),
        filter_rows(subject, owned, light.f_number, step, pause, _under(seen)),
        how_many(subject, light, step, t, pause, advice.keep, made.frames, made.limits, sessions),
        framing_ladder(step.iso, t),
        made,
        texts[0],
        texts[1],
        start,
        end,
    )

"""The window in words: when, and what opens and closes it, or why there is none and what to do."""

from collections.abc import Callable
from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from widedusk.core.choices import DARK_SUN_DEG, Choices
from widedusk.core.night.season import highest_altitude_deg, nearest_latitude_deg, next_moonless, season
from widedusk.core.night.windows import STATES, Night, Run, State, Track, mean_sky_mag, runs_where
from widedusk.core.scene import Target
from widedusk.core.sky.brightness import EXTINCTION_V, airmass
from widedusk.core.sky.time import Floats, day_words
from widedusk.core.verdict import Limit, Quantity, Verdict, Working, duration_words

REASONS: dict[State, str] = {
    "day": "daylight",
    "twilight": "twilight",
    "low": "too low an altitude",
    "blocked": "what stands in the way",
    "moonlit": "moonlight",
    "usable": "the end of the night",
}


def _workings(night: Night, track: Track, minute: int, choices: Choices) -> tuple[Working, ...]:
    spot = night.spot
    at = spot.moment("At", float(night.mjd[minute]))
    altitude = Quantity("Altitude", float(np.degrees(track.altitude[minute])), "°", "h", working="altitude")
    moon_up = night.moon_altitude[minute] > 0
    return (
        Working(
            "altitude",
            "Altitude of the target",
            "sin h = sin φ sin δ + cos φ cos δ cos H, then refraction added",
            (
                at,
                Quantity("Latitude", spot.latitude_deg, "°", "φ", 4),
                Quantity("Longitude, east positive", spot.longitude_deg, "°", "λ", 4),
                Quantity("Azimuth", float(np.degrees(track.azimuth[minute])), "°"),
                Quantity("Horizon profile in that direction", float(np.degrees(track.obstruction[minute])), "°"),
            ),
            altitude,
            "IAU 2006/2000A places through ERFA; refraction Bennett 1982, J. Navigation 35, 255",
            "published",
        ),
        Working(
            "airmass",
            "Airmass",
            "X = 1 / (sin h + 0.50572 (h + 6.07995°)^−1.6364)",
            (altitude,),
            Quantity("Airmass", float(airmass(track.altitude[minute])), "", "X", 2),
            "Kasten & Young 1989, Applied Optics 28, 4735",
            "published",
        ),
        Working(
            "sky",
            "Sky brightness at the target",
            "μ = −2.5 log₁₀ Σ 10^(−0.4 μᵢ): dark sky + twilight + moonlight",
            (
                at,
                altitude,
                Quantity("Moonless zenith", spot.sky_mag, "mag/arcsec²", "μ₀", 2),
                Quantity("Extinction", EXTINCTION_V, "mag per airmass", "k", 2),
                Quantity("Sun's altitude", float(np.degrees(night.sun_altitude[minute])), "°"),
                Quantity("Moon's altitude", float(np.degrees(night.moon_altitude[minute])), "°"),
                Quantity("Moon to target", float(np.degrees(track.moon_distance[minute])), "°", "ρ", 0),
                Quantity("Moon's lit share", night.lit_fraction * 100, "%", decimals=0),
                Quantity("The Moon adds", float(track.moon_adds_mag[minute]), "mag", decimals=2),
            ),
            Quantity("Sky at the target", float(track.sky_mag[minute]), "mag/arcsec²", "μ", 2),
            "Krisciunas & Schaefer 1991, PASP 103, 1033; twilight Patat et al. 2006, A&A 455, 385 (coefficients from memory)",
            "published",
            "" if moon_up else "The Moon is down and adds nothing.",
        ),
        Working(
            "usable",
            "Usable time",
            "dark ∩ above the horizon profile ∩ above the lowest altitude ∩ Moon bearable, every minute",
            (
                Quantity("Sun below", DARK_SUN_DEG[choices.darkness], "°", decimals=0),
                Quantity("Lowest altitude", choices.min_altitude_deg, "°", decimals=0),
                Quantity("The Moon may add", choices.moon_limit_mag, "mag"),
                *(
                    (Quantity("More through the filter", track.moon_limit_mag - choices.moon_limit_mag, "mag", decimals=1),)
                    if track.moon_limit_mag > choices.moon_limit_mag
                    else ()
                ),
            ),
            Quantity("Usable", text=duration_words(track.usable_minutes * 60)),
            "Sunset and twilight by the altitude of the Sun's centre: −0.83°, −12°, −18°",
            "common practice",
            "25–30° of altitude and half a magnitude of moonlight are habits, not laws: change them under “How”.",
        ),
    )


def _edges(night: Night, track: Track, run: tuple[int, int]) -> tuple[str, str]:
    """What holds just before the stretch begins and just after it ends."""
    before = REASONS[STATES[track.state[max(run[0] - 1, 0)]]]
    after = REASONS[STATES[track.state[min(run[1] + 1, len(night.mjd) - 1)]]]
    return before.replace("twilight", "evening twilight"), after.replace("twilight", "morning twilight")


Clear = Callable[[Run], Floats]  # degrees that the lowest part of the frame stands clear of the ground, for each minute of a run


@dataclass(frozen=True)
class _Cut:
    """What the horizon does to the whole frame in a window. words: after the sentence, empty where it is clear all the time."""

    words: str
    figures: tuple[Quantity, ...]
    workings: tuple[Working, ...]


def _cut(night: Night, run: Run, clear_deg: Floats | None) -> _Cut:
    if clear_deg is None or (clear_deg >= 0.0).all():
        return _Cut("", (), ())
    spot, deepest = night.spot, float(-clear_deg.min())
    whole = max(runs_where(clear_deg >= 0.0), key=lambda one: one[1] - one[0], default=None)
    if whole is None:
        words, when = f"The horizon hides a part of the frame all the time, up to {deepest:.0f}° of it.", "never"
    else:
        first, last = (spot.clock(float(night.mjd[run[0] + minute])) for minute in whole)
        words, when = f"The whole frame is clear {first} to {last}; before or after it the horizon hides a part.", f"{first}–{last}"
        if not whole[0] or run[0] + whole[1] == run[1]:
            words = f"The whole frame is clear {f'until {last}' if not whole[0] else f'from {first}'} only."
    hidden = Quantity("Hidden at most", deepest, "°", working="whole frame")
    working = Working(
        "whole frame",
        "When the whole frame is clear",
        "least of altitude less horizon profile (or 0°) along the frame's edge ≥ 0",
        (
            Quantity("At the start of the window", float(clear_deg[0]), "°"),
            Quantity("At its end", float(clear_deg[-1]), "°"),
            hidden,
        ),
        Quantity("Whole frame clear", text=when),
        "Spherical trigonometry; refraction Bennett 1982, J. Navigation 35, 255",
        "published",
    )
    return _Cut(words, (Quantity("Whole frame clear", text=when, working="whole frame"),), (working,))


def window_verdict(night: Night, track: Track, target: Target, choices: Choices, clear: Clear | None = None) -> Verdict:
    """When the target is usable this night; when it is not, why and what to do about it. clear: of the frame it is taken with."""
    run = track.best_run
    if run is None:
        return _no_window(night, track, target, choices)
    spot = night.spot
    cut = _cut(night, run, clear(run) if clear else None)
    first, last = float(night.mjd[run[0]]), float(night.mjd[run[1]])
    top = run[0] + int(np.argmax(track.altitude[run[0] : run[1] + 1]))
    before, after = _edges(night, track, run)
    minutes = run[1] - run[0]
    short = minutes < 60
    elsewhere = track.usable_minutes - minutes
    return Verdict(
        "Window",
        "care" if short or cut.words else "go",
        f"{target.name} is usable {spot.clock(first)} to {spot.clock(last)}, {duration_words(minutes * 60)}"
        + ("." if spot.horizon_known else ", assuming an open horizon.")
        + (f" {cut.words}" if cut.words else ""),
        f"{before} before it, {after} after it",
        (f"Under an hour: little to gain from {target.name} tonight." if short else "")
        + (f" Another {duration_words(elsewhere * 60)} lies in shorter stretches." if elsewhere else ""),
        figures=(
            spot.moment("Opens", first, "usable"),
            spot.moment("Closes", last, "usable"),
            Quantity("Highest", float(np.degrees(track.altitude[top])), "°", working="altitude"),
            Quantity("Sky", mean_sky_mag(track, run), "mag/arcsec²", decimals=2, working="sky"),
            Quantity("Moon lit", night.lit_fraction * 100, "%", decimals=0, working="sky"),
            *cut.figures,
        ),
        limits=(
            Limit("Opens", "at least", spot.moment("Opens", first), binds=True, note=before),
            Limit("Closes", "at most", spot.moment("Closes", last), binds=True, note=after),
        ),
        workings=(*_workings(night, track, top, choices), *cut.workings),
        caution="Walk the ground in daylight, and tell someone where you are and when you will be back.",
    )


@dataclass(frozen=True)
class _Reason:
    sentence: str
    binding: str
    advice: str


# A year is long to look through and the same for every sub and ISO: those last asked for are kept.
_season, _next_moonless = lru_cache(maxsize=64)(season), lru_cache(maxsize=64)(next_moonless)


def _reason(night: Night, track: Track, target: Target, choices: Choices) -> _Reason:
    """Why nothing is usable, from the reason that cannot be mended to the one that a day mends."""
    spot, name = night.spot, target.name
    dark_deg = DARK_SUN_DEG[choices.darkness]
    highest = highest_altitude_deg(spot.latitude_deg, target.dec_deg)
    if highest < choices.min_altitude_deg:
        latitude = nearest_latitude_deg(spot.latitude_deg, target.dec_deg, choices.min_altitude_deg)
        what = "never rises" if highest < 0 else f"never climbs above {highest:.0f}°"
        return _Reason(
            f"{name} {what} at latitude {spot.latitude_deg:.1f}°.",
            f"latitude {spot.latitude_deg:.1f}°",
            f"The nearest latitude where it reaches {choices.min_altitude_deg:.0f}° is {abs(latitude):.1f}° "
            f"{'south' if latitude < 0 else 'north'}.",
        )
    seen = Choices(darkness=choices.darkness, min_altitude_deg=choices.min_altitude_deg, moon_limit_mag=choices.moon_limit_mag)
    year = _season(spot, target, night.evening, seen)
    when = (
        f"Next night with an hour or more, Moon aside: {day_words(year.next_worth_it)}."
        if year.next_worth_it
        else f"Its best night in the coming year, {day_words(year.best)}, gives {duration_words(year.best_minutes * 60)}."
        if year.best_minutes
        else f"No night in the coming year gives {name} any usable time from this spot."
    )
    lowest_sun = float(np.degrees(night.sun_altitude.min()))
    if lowest_sun > dark_deg:
        sun = "does not set" if lowest_sun > -0.83 else f"sinks only to {lowest_sun:.1f}°"
        dark = f" It is dark again from {day_words(year.next_dark)}." if year.next_dark else ""
        return _Reason(
            f"No {choices.darkness} darkness: the Sun {sun} this night.",
            f"the Sun, which must be below {dark_deg:.0f}°",
            when + dark,
        )
    dark = night.sun_altitude <= np.radians(dark_deg)
    states = [STATES[code] for code in track.state[dark]]
    if "moonlit" in states:
        free = _next_moonless(spot, target, night.evening, seen, track.moon_limit_mag)
        later = f"Next night with an hour free of it: {day_words(free)}." if free else "Allow more moonlight under “How”."
        gained = track.moon_limit_mag > choices.moon_limit_mag
        if not gained and target.light != "continuum":
            later += " A narrow filter for its lines bears more of it: see Light under Exposure."
        through = "even through the filter " if gained else ""
        return _Reason(
            f"{name} is up in the dark, but the Moon ({night.lit_fraction * 100:.0f} % lit) spoils it {through}all night.",
            f"moonlight, which may add {track.moon_limit_mag:.2g} mag{' through this filter' if gained else ''}",
            later,
        )
    if "blocked" in states:
        share = states.count("blocked") / len(states)
        return _Reason(
            f"{name} stays behind the horizon profile of {spot.name} while it is dark{'' if share > 0.99 else ' or is too low'}.",
            "what stands in the way at this spot",
            f"Try another spot of this place. {when}",
        )
    return _Reason(f"{name} stays below {choices.min_altitude_deg:.0f}° while it is dark tonight.", "the season", when)


def _no_window(night: Night, track: Track, target: Target, choices: Choices) -> Verdict:
    reason = _reason(night, track, target, choices)
    top = int(np.argmax(track.altitude))
    return Verdict(
        "Window",
        "stop",
        reason.sentence,
        reason.binding,
        reason.advice,
        figures=(
            Quantity("Usable", text="0 min", working="usable"),
            Quantity("Highest, day or night", float(np.degrees(track.altitude[top])), "°", working="altitude"),
            Quantity("Sun's lowest", float(np.degrees(night.sun_altitude.min())), "°"),
            Quantity("Moon lit", night.lit_fraction * 100, "%", decimals=0),
        ),
        workings=_workings(night, track, top, choices),
    )

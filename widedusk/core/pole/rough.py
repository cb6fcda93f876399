"""Rough alignment in daylight: azimuth, level, altitude, fine azimuth; and how far what was done will carry."""

from dataclasses import dataclass, replace
from datetime import datetime

import numpy as np

from widedusk.core.choices import PoleKind
from widedusk.core.errors import Checks
from widedusk.core.exposure.setting import Subject, expected_drifts, motion_of, star_width_px
from widedusk.core.exposure.sub import KEYABLE_S, limit_with_reserve
from widedusk.core.grounds.compass import needle
from widedusk.core.kit.optics import image_scale_arcsec_px
from widedusk.core.pole.axis import aim, arc_words
from widedusk.core.pole.sight import pole_hidden
from widedusk.core.pole.tolerance import METHODS, Tolerance, axis_tolerance, reach, why_not
from widedusk.core.scene import Spot
from widedusk.core.sky.horizon import altaz, apparent_altitude, hour_angle, pressure_at
from widedusk.core.sky.places import moon_place, sun_place
from widedusk.core.sky.time import MINUTE, Floats, datetime_from_mjd
from widedusk.core.tracking.keep_rate import keep_rates
from widedusk.core.tracking.wind import gust_free_s, wind_keeps
from widedusk.core.verdict import Level, Quantity, Verdict, Working, joined

AGREE_DEG, DOUBT_DEG = 2.0, 5.0  # two compasses side by side; common practice, no source
DISTURBED_DEG = 1.0
COMPASS_ERROR_DEG, UNCHECKED_ERROR_DEG = 2.0, 10.0  # checked against another or the Sun; alone, a phone's may be far off
SCALE_ERROR_DEG, INCLINOMETER_ERROR_DEG = 1.0, 0.3
BODY_ERROR_DEG = 0.5  # shadow of a plumb line, or a landmark sighted along the body
SHORT_SHADOW_DEG = 80.0  # a Sun higher than this throws a shadow too short to sight along
STEP_MIN = 10
SHORTEST_LENS_MM, LONGEST_LENS_MM = 4.0, 3000.0


@dataclass(frozen=True)
class Bearings:
    """What to set to face the pole; degrees."""

    true_deg: float
    magnetic_deg: float
    declination_deg: float
    words: str


def bearings(spot: Spot, moment: datetime) -> Bearings:
    """True and magnetic bearing of the pole at a spot."""
    found = needle(spot.latitude_deg, spot.longitude_deg, spot.height_m, moment.date())
    true = 180.0 if spot.observer.south else 0.0
    magnetic = (true - found.declination_deg) % 360.0
    side = "east" if found.declination_deg >= 0 else "west"
    return Bearings(
        true,
        magnetic,
        found.declination_deg,
        f"The needle points {abs(found.declination_deg):.1f}° {side} of true north here. Magnetic compass: {magnetic:.1f}°. "
        f"Phone or compass already set to true north: {true:.0f}°, nothing taken off.",
    )


_COUNT = ("", "first", "second", "third", "fourth", "fifth", "sixth", "seventh", "eighth", "ninth", "tenth")
_SHARES = (
    (0.0, ""),
    (0.25, "a quarter"),
    (1 / 3, "a third"),
    (0.5, "half"),
    (2 / 3, "two thirds"),
    (0.75, "three quarters"),
    (1.0, ""),
)


def scale_words(latitude_deg: float, tick_deg: float, label_deg: float) -> str:
    """Where on a latitude scale with a tick every tick_deg, and figures every label_deg, the latitude lies. Raises InvalidInput.

    >>> scale_words(50, 3, 15)
    'two thirds of the way from the first to the second tick past 45'
    """
    checks = Checks()
    checks.within("tick_deg", tick_deg, 0.1, 30, "°")
    checks.within("label_deg", label_deg, tick_deg, 90, "°")
    ratio = label_deg / tick_deg
    if not checks.faults and abs(ratio - round(ratio)) > 1e-6:
        checks.fault("label_deg", label_deg, f"Figures every {label_deg:g}° do not fall on ticks every {tick_deg:g}°.")
    checks.done()
    latitude, last = abs(latitude_deg), round(ratio)
    base = int(latitude // label_deg) * label_deg
    ticks, share = divmod((latitude - base) / tick_deg, 1.0)
    size, words = min(_SHARES, key=lambda one: abs(one[0] - share))
    below = int(ticks) + (1 if size == 1.0 else 0)

    def tick(number: int) -> str:
        if number in (0, last):
            return f"{base + number * tick_deg:g}"
        return f"the {_COUNT[number]} tick past {base:g}" if number < len(_COUNT) else f"tick {number} past {base:g}"

    if not words:
        return f"at {tick(below)}"
    start = tick(below)
    if below > 0 and below + 1 < last:
        start = start.removesuffix(f" tick past {base:g}")
    return f"{words} {'way' if words == 'half' else 'of the way'} from {start} to {tick(below + 1)}"


def _turn(from_deg: float, to_deg: float) -> float:
    return (to_deg - from_deg + 180.0) % 360.0 - 180.0


def check_readings(**read: float | None) -> None:
    """Raises InvalidInput naming every compass reading that cannot be right."""
    checks = Checks()
    for name, value in read.items():
        if value is not None:
            checks.within(name, value, 0, 360, "°")
    checks.done()


def compass_check(first_deg: float, second_deg: float, near_deg: float | None, away_deg: float | None) -> Verdict:
    """Two compasses on the same line, and one of them near the tracker and away from it. Raises InvalidInput."""
    checks = Checks()
    for name, value in (("first_deg", first_deg), ("second_deg", second_deg), ("near_deg", near_deg), ("away_deg", away_deg)):
        if value is not None:
            checks.within(name, value, 0, 360, "°")
    if (near_deg is None) != (away_deg is None):
        missing = "away_deg" if away_deg is None else "near_deg"
        checks.fault(missing, None, "Read the compass both near the tracker and three steps away, along the same line.")
    checks.done()
    apart = abs(_turn(first_deg, second_deg))
    pulled = None if near_deg is None or away_deg is None else abs(_turn(near_deg, away_deg))
    level: Level
    if apart > DOUBT_DEG:
        level, sentence = "stop", f"The compasses differ by {apart:.0f}°: trust neither."
        advice = "Use the Sun, its shadow, a landmark, or two photographs."
    elif pulled is not None and pulled > DISTURBED_DEG:
        level, sentence = "stop" if pulled > DOUBT_DEG else "care", f"The tracker pulls the needle by {pulled:.0f}°."
        advice = "Read it three steps away with the electronics off, sight a landmark along it, and point the tracker there."
    elif apart > AGREE_DEG:
        level, sentence = "care", f"The compasses differ by {apart:.1f}°; the truth lies somewhere between."
        advice = "Good enough to start from. Keep both away from phone, battery and tracker and read again."
    else:
        level, sentence = "go", f"The compasses agree within {max(apart, 0.5):.1f}°."
        advice = "" if pulled is not None else "Read one near the tracker and three steps away too: it may pull both alike."
    inputs = [Quantity("First", first_deg, "°"), Quantity("Second", second_deg, "°")]
    if near_deg is not None and away_deg is not None:
        inputs += [Quantity("Near the tracker", near_deg, "°"), Quantity("Away from it", away_deg, "°")]
    working = Working(
        "check",
        "Do the compasses agree?",
        f"up to {AGREE_DEG:.0f}° they agree, above {DOUBT_DEG:.0f}° neither is trusted; "
        f"near and away may differ by {DISTURBED_DEG:.0f}°",
        tuple(inputs),
        Quantity("Apart", apart, "°"),
        "Common practice; a phone's compass is wrong by 10° to 20° at times",
        "common practice",
    )
    return Verdict(
        "Cross-check",
        level,
        sentence,
        "two readings of one line",
        advice,
        (Quantity("Apart", apart, "°", working="check"),),
        workings=(working,),
    )


@dataclass(frozen=True)
class BodyLine:
    """Where Sun or Moon stands at one time; degrees. Below the horizon it casts no line."""

    moment: datetime
    clock: str
    azimuth_deg: float
    altitude_deg: float


@dataclass(frozen=True)
class Noon:
    """Local apparent noon: when the shadow of a plumb line lies north and south."""

    moment: datetime
    clock: str
    altitude_deg: float
    words: str


def body_lines(spot: Spot, body: str, mjd: float, hours: float = 3.0) -> tuple[BodyLine, ...]:
    """Azimuth of the Sun or the Moon from a moment on, every ten minutes."""
    moments: Floats = mjd + np.arange(0.0, hours * 60.0 + 1, STEP_MIN) * MINUTE
    place = (sun_place if body == "sun" else moon_place)(spot.observer, moments)
    altitude, azimuth = altaz(place.ra, place.dec, moments, spot.observer)
    seen = apparent_altitude(altitude, pressure_at(spot.height_m))
    return tuple(
        BodyLine(datetime_from_mjd(float(at)), spot.clock(float(at)), float(np.degrees(a)), float(np.degrees(h)))
        for at, a, h in zip(moments, azimuth, seen, strict=True)
    )


def noon_shadow(spot: Spot, mjd: float) -> Noon:
    """The apparent noon nearest to a moment: the Sun on the meridian, to a few seconds."""
    moments: Floats = mjd + np.arange(-730.0, 731.0) * MINUTE
    sun = sun_place(spot.observer, moments)
    angle = (hour_angle(sun.ra, moments, spot.observer.longitude_rad) + np.pi) % (2 * np.pi) - np.pi
    crossing = np.flatnonzero((angle[:-1] < 0) & (angle[1:] >= 0) & (angle[1:] < 1))
    nearest = crossing[int(np.argmin(np.abs(moments[crossing] - mjd)))]
    share = -angle[nearest] / (angle[nearest + 1] - angle[nearest])
    noon = float(moments[nearest] + share * MINUTE)
    ra, dec = (np.interp(noon, moments, one) for one in (np.unwrap(sun.ra), sun.dec))
    altitude, azimuth = altaz(np.asarray(ra), np.asarray(dec), np.asarray(noon), spot.observer)
    height, northern_sun = float(np.degrees(altitude)), bool(np.cos(azimuth) > 0)
    clock = spot.clock(noon)
    if height < 3:
        words = "The Sun does not rise high enough today to cast a line."
    elif height > SHORT_SHADOW_DEG:
        words = (
            f"At {clock} the Sun stands {height:.0f}° high: the shadow of a plumb line is too short to sight along. "
            "Use it two hours earlier or later, by its azimuth."
        )
    else:
        words = f"At {clock} the shadow of a plumb line points true {'south' if northern_sun else 'north'}."
    return Noon(datetime_from_mjd(noon), clock, height, words)


def landmark_bearing_deg(spot: Spot, latitude_deg: float, longitude_deg: float) -> float:
    """True bearing of a landmark along the great circle. On the sphere: up to 0.2° from the ellipsoid's."""
    here, there = np.radians(spot.latitude_deg), np.radians(latitude_deg)
    along = np.radians(longitude_deg - spot.longitude_deg)
    return float(
        np.degrees(
            np.arctan2(np.sin(along) * np.cos(there), np.cos(here) * np.sin(there) - np.sin(here) * np.cos(there) * np.cos(along))
        )
        % 360.0
    )


# How the azimuth and the altitude were set, and the error that is known to leave, degrees; common practice, no source.
SIGHTED = "sighted at the pole star"  # needs the pole
AZIMUTH_WAYS = {
    "one compass": UNCHECKED_ERROR_DEG,
    "two compasses that agree": COMPASS_ERROR_DEG,
    "Sun, shadow or landmark": BODY_ERROR_DEG,
    SIGHTED: 0.7,
}
ALTITUDE_WAYS = {"latitude scale": SCALE_ERROR_DEG, "inclinometer": INCLINOMETER_ERROR_DEG, SIGHTED: 0.7}


def inclinometer_deg(spot: Spot, pole: PoleKind) -> float:
    """What an inclinometer laid on the polar axis should read."""
    return float(np.degrees(aim(spot.observer, pole)[0]))


def _longest_s(subject: Subject, axis_arcmin: float) -> float:
    """Longest keyable sub of which the wanted share stays sharp with an axis so far off in the worst direction; 0: none."""
    rig, choices = subject.rig, subject.choices
    off = expected_drifts(axis_arcmin, float(np.radians(subject.target.dec_deg)))
    limit = limit_with_reserve(choices.elongation_limit)
    motions = tuple(motion_of(subject, drift)[0] for drift in off)
    held = keep_rates(motions, KEYABLE_S, star_width_px(rig, choices), limit).min(axis=0)
    scale = float(image_scale_arcsec_px(rig.camera.pitch_um, rig.lens.focal_mm))
    kept = np.flatnonzero(held * wind_keeps(KEYABLE_S, gust_free_s(choices.wind_level, scale)) >= choices.keep_percent / 100.0)
    return float(KEYABLE_S[kept[-1]]) if kept.size else 0.0


def _longest_lens_mm(subject: Subject, exposure_s: float, axis_arcmin: float) -> float:
    """Longest focal length on this tracker and camera that such an axis still serves at this length of sub."""
    low, high = np.log(SHORTEST_LENS_MM), np.log(LONGEST_LENS_MM)
    for _ in range(9):
        middle = (low + high) / 2.0
        rig = replace(subject.rig, lens=replace(subject.rig.lens, focal_mm=float(np.exp(middle))))
        serves = axis_tolerance(replace(subject, rig=rig), exposure_s, 0.0).arcmin >= axis_arcmin
        low, high = (middle, high) if serves else (low, middle)
    return float(np.exp(low))


def rough_verdict(spot: Spot, azimuth_way: str, altitude_way: str, subject: Subject, tolerance: Tolerance) -> Verdict:
    """Up to which focal length and sub what was done will serve. Raises InvalidInput for a way that is not known."""
    checks = Checks()
    if azimuth_way not in AZIMUTH_WAYS:
        checks.fault("azimuth_way", azimuth_way, f"Choose one of {', '.join(AZIMUTH_WAYS)}.")
    if altitude_way not in ALTITUDE_WAYS:
        checks.fault("altitude_way", altitude_way, f"Choose one of {', '.join(ALTITUDE_WAYS)}.")
    hidden = pole_hidden(spot)
    for name, way in (("azimuth_way", azimuth_way), ("altitude_way", altitude_way)):
        if way == SIGHTED and hidden:
            checks.fault(name, way, f"{hidden} Choose another way.")
    checks.done()
    sideways = AZIMUTH_WAYS[azimuth_way] * float(np.cos(np.radians(spot.latitude_deg)))
    error_arcmin = 60.0 * float(np.hypot(sideways, ALTITUDE_WAYS[altitude_way]))
    exposure_s, focal_mm = tolerance.exposure_s, subject.rig.lens.focal_mm
    most_focal = _longest_lens_mm(subject, exposure_s, error_arcmin)
    longest = _longest_s(subject, error_arcmin)
    enough = error_arcmin <= tolerance.arcmin
    working = Working(
        "serves",
        "How far a rough alignment serves",
        "longest f and t with keep rate(worm, drift ω ε, wind) ≥ share wanted,  ε = √((a cos φ)² + h²)",
        (
            Quantity(f"Azimuth by {azimuth_way}", AZIMUTH_WAYS[azimuth_way], "°", "a"),
            Quantity(f"Altitude by {altitude_way}", ALTITUDE_WAYS[altitude_way], "°", "h"),
            Quantity("Latitude", spot.latitude_deg, "°", "φ", 2),
            Quantity("Share wanted", tolerance.wanted * 100, "%", decimals=0),
            Quantity("Pixel pitch", subject.rig.camera.pitch_um, "µm", "p", 2),
            Quantity("Sub", exposure_s, "s", "t", 0),
            reach("The field stays in the frame up to", tolerance.framing_arcmin),
        ),
        Quantity("Serves up to", most_focal, "mm", "f", 0),
        "The keep rate is that of Exposure, in the worst direction; what each way leaves is common practice, no source",
        "common practice",
    )
    off = arc_words(error_arcmin)
    if enough:
        sentence = f"Expect the axis within {off}: good to {most_focal:.0f} mm at {exposure_s:.0f} s."
    elif longest >= exposure_s:
        sentence = f"Expect the axis within {off}: stars stay sharp, but the field wanders more than you allow."
    elif longest > 0.0:
        sentence = f"Expect the axis within {off}: at {focal_mm:.0f} mm that holds {longest:.0f} s, not {exposure_s:.0f} s."
    else:
        sentence = f"Expect the axis within {off}: at {focal_mm:.0f} mm that holds no sub at all."
    along = subject.choices.comes_along
    finer = [one for one in METHODS if one.worst_arcmin < error_arcmin and not why_not(one, subject.rig, hidden, along)]
    names = joined([one.name[0].lower() + one.name[1:] for one in sorted(finer, key=lambda one: one.minutes)], "or")
    return Verdict(
        "Rough alignment",
        "go" if enough else "care",
        sentence,
        "what compass and scale can tell",
        "" if enough else f"Go on once it is dark: {names}.",
        (
            Quantity("Axis within", text=arc_words(error_arcmin), working="serves"),
            Quantity("Serves up to", most_focal, "mm", decimals=0, working="serves"),
            Quantity(f"At {focal_mm:.0f} mm up to", longest, "s", decimals=0, working="serves"),
        ),
        workings=(working,),
        caution="Never point eye, scope or lens at the Sun; by day work with shadows only.",
    )

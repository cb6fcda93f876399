"""A run told to a person: how many frames are good, what spoiled the others, what its path says of the tracker."""

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from widedusk.core.judge.causes import CAUSE
from widedusk.core.judge.course import Course, ExpectedWidth, Lights, Looks, Shot, around, course, lights, looks_of, quantile
from widedusk.core.judge.finding import HARMLESS, find_causes
from widedusk.core.judge.limits import Limits
from widedusk.core.judge.motion import Motion, Worm, motion
from widedusk.core.judge.reading import MOVED, UNKNOWN, Finding, Mask
from widedusk.core.judge.veils import as_one, step_in
from widedusk.core.judge.word import LEAST_WORTH, Judged, judge, worth
from widedusk.core.sky.brightness import EXTINCTION_SIGMA, EXTINCTION_V, airmass, zenith_of
from widedusk.core.sky.places import Observer
from widedusk.core.sky.time import Floats
from widedusk.core.verdict import Level, Quantity, Verdict, Working

CLEAR, LEAST_CLEAR = 0.92, 5  # share of starlight, and frames that have it, from which a run tells of the sky
# Pixels by which middles of pictures wander, as the lens and the air carry the stars: a smaller wave may be any; and what that
# leaves of a wave that repeats. Share of its amplitude that the middle of a trail leaves open. Counted on runs by other physics.
LEAST_WANDER_PX, MIDDLES_PX, SHAPE_SIGMA = 0.1, 0.002, 0.005
OF_THE_LIGHT = frozenset({"cloud", "haze", "dew", "obstructed", "moon", "lamp", "settings", "cap", UNKNOWN})
TRAILED = 1.5  # elongation from which too much of a star's light lies beside it to tell the sky by
LATEST = 3  # frames; what acts on none of them is over
# What somebody beside the tripod can still mend; clouds are waited for.
MENDABLE = frozenset(
    {"dew", "focus crept", "out of focus", "knock", "axis", "stopped", "hemisphere", "rate", "creep", "cap", "cloud", "settings"}
)
LEAST_DRIFT_S = 300.0
LEAST_TURNS = 1.0  # of the worm, from which its amplitude can be told


@dataclass(frozen=True)
class CauseFound:
    """One cause with the frames it acts on, numbers within the run. key: in `causes`, "moved" or "not known". now: what to do about
    it at once, where it acts on the latest frames and can still be mended; else empty."""

    key: str
    name: str
    frames: tuple[int, ...]
    sure: float
    now: str
    verdict: Verdict


@dataclass(frozen=True)
class Columns:
    """One figure a frame, to be drawn: minutes since the first; width px; elongation; starlight and background against the
    run's good frames; east and north px, of the middle; trail px and its direction in the picture, degrees from right towards
    down; what each brings against a good frame. NaN where a frame does not tell."""

    minutes: Floats
    width: Floats
    elongation: Floats
    clear: Floats
    sky: Floats
    east: Floats
    north: Floats
    trail: Floats
    trail_deg: Floats
    worth: Floats


@dataclass(frozen=True)
class Shape:
    """Of a worm that is not round: what turns `order` times as fast as it, half amplitude ″ and sigma."""

    order: int
    half_amplitude_arcsec: float
    sigma: float


@dataclass(frozen=True)
class PeriodicError:
    """Of this tracker as this run shows it: half amplitude ″ on the sphere's equator and period s, each with its sigma."""

    half_amplitude_arcsec: float
    half_amplitude_sigma: float
    period_s: float
    period_sigma: float
    turns: float
    overtones: tuple[Shape, ...] = ()


@dataclass(frozen=True)
class JudgedRun:
    """All that the frames themselves say; the person's own words come on top (`run_verdict`)."""

    looks: Looks
    causes: tuple[CauseFound, ...]
    words: tuple[Judged, ...]
    columns: Columns
    worm: PeriodicError | None
    limits: Limits
    good_width_px: float
    scale_arcsec_px: float | None  # none where no frame could be solved
    zenith_sky: tuple[float, float] | None = None  # mag/arcsec² without Moon, and sigma, by its clear frames
    sky_mag: tuple[float, float] | None = None  # mag/arcsec² behind the stars of its frames, Moon and all, and sigma
    drift_px_min: tuple[float, float] | None = None  # steady drift of the picture, px a minute, and sigma
    sky_spoilt_by: frozenset[str] = frozenset()  # causes that act on so many frames that too few are left to tell the sky by

    @property
    def count(self) -> int:
        return self.looks.count


def judged_run(shots: Sequence[Shot], observer: Observer, limits: Limits, expected: ExpectedWidth | None = None) -> JudgedRun:
    """Judge the frames of one run, in order of time. expected: width of this rig's stars, as well as it is known before."""
    with np.errstate(all="ignore"):
        looks = looks_of(shots)
        run = course(shots, around(looks, observer), expected)
        path = motion(run.seconds, run.exposure, run.path)
        found = find_causes(run, path, limits)
        words = judge(run, found, limits)
        told = tuple(_cause(one, run) for one in found)
        whole = as_one(run, step_in(run))
        solved = bool(np.isfinite(run.path).any())
        worm = _periodic(path.worm if path else None, run, found)
        columns = Columns(
            run.seconds / 60.0,
            run.width,
            run.elongation,
            whole.clear,
            whole.sky,
            run.path[:, 0],
            run.path[:, 1],
            run.trail_px,
            np.degrees(0.5 * np.arctan2(2 * run.slant, run.right - run.down)) % 180.0,
            worth(whole),
        )
        lit = lights(looks, observer)
        zenith, spoilt_by = _untouched_sky(looks, whole, lit, found)
    scale = run.scale if solved else None
    drift, sky = _drift(path, run) if path else None, _sky(looks, lit)
    return JudgedRun(looks, told, words, columns, worm, limits, run.good_width, scale, zenith, sky, drift, spoilt_by)


def _sky(looks: Looks, lit: Lights | None) -> tuple[float, float] | None:
    """As it is down here, where plans reckon with it: frames tell it against stars above the air."""
    known = np.isfinite(looks.sky_mag + looks.sky_sigma)
    if lit is None or not known.any():
        return None
    mass = airmass(lit.altitude[known])
    mags, sigmas = looks.sky_mag[known] + EXTINCTION_V * mass, np.hypot(looks.sky_sigma[known], EXTINCTION_SIGMA * mass)
    return float(np.median(mags)), float(np.median(sigmas))


def _drift(path: Motion, run: Course) -> tuple[float, float] | None:
    """Both directions together, a minute; none of a run too short to tell a drift from the scatter of its middles."""
    if float(np.ptp(run.seconds)) < LEAST_DRIFT_S:
        return None
    return 60.0 * float(np.hypot(*path.drift_px_s)), 60.0 * float(np.hypot(*path.drift_sigma))


def _untouched_sky(
    looks: Looks, run: Course, lit: Lights | None, found: Sequence[Finding]
) -> tuple[tuple[float, float] | None, frozenset[str]]:
    """By the frames that nothing dims or lights; where too few are left, by all clear ones, with what acts on them."""
    acting = [one for one in found if one.cause in OF_THE_LIGHT]
    free = np.ones(run.count, dtype=bool)
    for one in acting:
        free[list(one.frames)] = False
    told = _zenith_sky(looks, run, lit, free)
    if told is not None or not acting:
        return told, frozenset()
    return _zenith_sky(looks, run, lit, np.ones(run.count, dtype=bool)), frozenset(one.cause for one in acting)


def _zenith_sky(looks: Looks, run: Course, lit: Lights | None, free: Mask) -> tuple[float, float] | None:
    """By the frames that no cloud dims. Scatter falls with their number; what bands and tables leave open does not."""
    mags, sigmas = looks.sky_mag, looks.sky_sigma
    usable = np.isfinite(mags + sigmas) & (np.nan_to_num(run.clear) > CLEAR) & free & ~(run.elongation > TRAILED)
    if lit is None or np.count_nonzero(usable) < LEAST_CLEAR or not np.any(lit.altitude > 0):
        return None
    zenith = np.where(usable, zenith_of(mags, lit.altitude, lit.added_mag), np.nan)
    seen = zenith[np.isfinite(zenith)]
    if seen.size < LEAST_CLEAR:
        return None
    scatter = 1.2533 * 1.4826 * float(np.median(np.abs(seen - np.median(seen)))) / np.sqrt(seen.size)
    air = EXTINCTION_SIGMA * float(np.median(airmass(lit.altitude[usable])))
    return float(np.median(seen)), float(np.linalg.norm([np.nanmedian(sigmas), scatter, air]))


def counted(words: Sequence[Judged], said: Sequence[str]) -> Counter[str]:
    """How many are kept, kept with less weight and culled, the person's word before ours."""
    return Counter(theirs or ours.word for ours, theirs in zip(words, said, strict=True))


def _cause(one: Finding, run: Course) -> CauseFound:
    many = f"{len(one.frames)} of {run.count} frames" if len(one.frames) != 1 else "one frame"
    figures = tuple(Quantity("speaks for it", text=words) for words in one.spoke_for)
    figures += tuple(Quantity("speaks against it", text=words) for words in one.against)
    level: Level = "go" if one.cause in HARMLESS else "care" if len(one.frames) < 0.2 * run.count else "stop"
    if one.cause in CAUSE:
        cause = CAUSE[one.cause]
        name, advice = cause.name, f"Now: {cause.now} Next time: {cause.next_time}"
    elif one.cause == MOVED:
        name, advice = "The picture was moved", "Nothing, if you framed anew. Else look at clamps and feet."
    else:
        name, advice = "Cause not known", "Look at these frames at 100 %. Keep what looks good to you; your word counts."
    at_work = one.cause in MENDABLE and any(place >= run.count - LATEST for place in one.frames)
    now = CAUSE[one.cause].now if at_work else ""
    sentence = f"{name}: {many}." if one.cause == UNKNOWN else f"{name}: {many}, {100 * one.sure:.0f} % sure."
    return CauseFound(one.cause, name, one.frames, one.sure, now, Verdict(name, level, sentence, one.spoke_for[0], advice, figures))


def _periodic(worm: Worm | None, run: Course, found: Sequence[Finding]) -> PeriodicError | None:
    """On the equator, where one arcsecond of the axis is one of the sky."""
    still = any(one.cause in {"stopped", "hemisphere", "creep"} or (one.cause == "rate" and one.sure > 0.8) for one in found)
    if worm is None or still or worm.turns < LEAST_TURNS:
        return None
    scale = run.scale / max(float(np.cos(np.radians(run.dec_deg))), 0.1)
    if worm.half_amplitude_px < LEAST_WANDER_PX:
        return None
    half = worm.half_amplitude_px * scale
    sigma = float(np.linalg.norm([worm.half_amplitude_sigma * scale, SHAPE_SIGMA * half, MIDDLES_PX * scale]))
    shape = tuple(Shape(one.order, one.half_amplitude_px * scale, one.sigma_px * scale) for one in worm.overtones)
    # A wave of so many turns is shifted by as much of one as its middles are off against its height.
    off = worm.period_s * MIDDLES_PX / max(np.pi * worm.turns * worm.half_amplitude_px, 1e-9)
    period_sigma = float(np.linalg.norm([worm.period_sigma, 0.002 * worm.period_s, off]))
    return PeriodicError(half, sigma, worm.period_s, period_sigma, worm.turns, shape)


def run_verdict(judged: JudgedRun, said: Sequence[str]) -> Verdict:
    """The run in a sentence. said: the person's own word on each frame, "" where they said nothing."""
    words, causes, worm, columns = judged.words, judged.causes, judged.worm, judged.columns
    count = counted(words, said)
    kept, less, culled = count["keep"], count["less"], count["cull"]
    serious = [one for one in causes if one.key not in HARMLESS]
    share = (kept + less) / max(judged.count, 1)
    level: Level = "go" if share >= 0.9 else "care" if share >= 0.5 else "stop"
    parts = [f"{kept + less} of {judged.count} frames are good"]
    if less:
        parts.append(f"{less} of them count less")
    sentence = ", ".join(parts) + "."
    binding = "Nothing spoils this run."
    if serious:
        name = serious[0].name
        binding = f"What acts on most frames: {name[0].lower()}{name[1:]}."
    weight = sum(one.weight for one, own in zip(words, said, strict=True) if own != "cull")
    figures = [
        Quantity("Kept", float(kept), decimals=0, working="weight"),
        Quantity("Kept with less weight", float(less), decimals=0, working="weight"),
        Quantity("Culled", float(culled), decimals=0, working="weight"),
        Quantity("Together they count as", weight, "good frames", decimals=1, working="weight"),
        Quantity("Width of stars in good frames", judged.good_width_px, "px", decimals=2, working="width"),
        Quantity("Median elongation", quantile(columns.elongation, 0.5, np.nan), "×", decimals=2, working="elongation"),
    ]
    if worm is not None:
        told = f"±{worm.half_amplitude_arcsec:.1f} ± {worm.half_amplitude_sigma:.1f}″ in {worm.period_s:.0f} s"
        figures.append(Quantity("Periodic error", text=told, working="worm"))
    return Verdict("Frames", level, sentence, binding, "", tuple(figures), (), _workings(judged, weight))


def _workings(judged: JudgedRun, weight: float) -> tuple[Working, ...]:
    columns, limits, worm = judged.columns, judged.limits, judged.worm
    worst = int(np.nanargmax(np.where(np.isfinite(columns.elongation), columns.elongation, 0.0)))
    found = [
        Working(
            "weight",
            "What a frame counts",
            "w = (T / (s F))², against the good frames of the run; culled below a third",
            (
                Quantity("T, share of starlight, from stars of known magnitude"),
                Quantity("s, noise of a pixel"),
                Quantity("F, width of stars"),
                Quantity("culled below", LEAST_WORTH, "of a good frame", decimals=2),
            ),
            Quantity("sum over the frames that are kept", weight, "good frames", decimals=1),
            "Signal adds up, noise as its square; Zackay & Ofek 2017, ApJ 836, 187",
            "published",
            "That a frame below a third is culled is our own.",
        ),
        Working(
            "width",
            "Width of stars",
            "FWHM = 2.355 σ across the trail, median over stars of the middle that do not clip",
            (Quantity("culled above", limits.width, "times that of good frames", decimals=2),),
            Quantity("good frames of this run", judged.good_width_px, "px", decimals=2),
            "Adaptive moments, Bernstein & Jarvis 2002, AJ 123, 583",
            "published",
        ),
        Working(
            "elongation",
            "Elongation of stars",
            "e = √(1 + σt²/σs²), of the variance that motion adds and that of the star",
            (
                Quantity("worst frame", float(columns.elongation[worst]), "×", decimals=2),
                Quantity("trail in it", float(columns.trail[worst]), "px", decimals=1),
                Quantity("culled above", limits.elongation, "×", decimals=2),
            ),
            Quantity("median of the run", quantile(columns.elongation, 0.5, np.nan), "×", decimals=2),
            "Second moments of a convolution add; what weighted moments make of an even trail is put right",
            "definition",
        ),
    ]
    if worm is not None:
        found.append(
            Working(
                "worm",
                "Periodic error of this tracker",
                "x(t) = a + b t + A sin(2πt/T + φ) along right ascension; half amplitude A / sinc(t_sub/T) / cos δ",
                (
                    Quantity("frames", float(judged.count), decimals=0),
                    Quantity("turns of the worm", worm.turns, decimals=1),
                    Quantity("period", worm.period_s, "s", decimals=0),
                    Quantity("its uncertainty", worm.period_sigma, "s", decimals=0),
                    *(
                        Quantity(f"{one.order} times a turn", text=f"±{one.half_amplitude_arcsec:.1f} ± {one.sigma:.1f}″")
                        for one in worm.overtones
                    ),
                ),
                Quantity("half amplitude", worm.half_amplitude_arcsec, "″", decimals=1),
                "Zechmeister & Kürster 2009, A&A 496, 577, with a slope",
                "published",
                "A run shorter than a turn and a half tells the amplitude poorly.",
            )
        )
    return tuple(found)

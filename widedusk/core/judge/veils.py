"""Why stars are dim or wide and the background bright: sky, glass, focus, lamps, settings."""

from dataclasses import dataclass, replace

import numpy as np

from widedusk.core.frames.facts import Streak
from widedusk.core.judge.course import GOOD_SHARE, SHARPEST, Course, deviation, middle, quantile
from widedusk.core.judge.reading import BRIGHT, DIM, Finding, Mask, Read, told
from widedusk.core.sky.time import Floats

LEAST_STEP = 1.25  # times that all light changes, from which settings were changed
SAME_LINE = 0.04  # of the picture's sides
BESIDE, ONE_FACTOR = 3, 0.06  # frames; natural logarithm within which two factors are one
RETURNS = 0.45  # of a loss made good, from which it was a passing one
WHITE = 0.6  # share of what a pixel holds, from which the sky itself hides the stars
BEGINS_TO_RETURN = 0.25  # of it, from which a loss is no haze that stays
FLAT = 1.6  # light in the middle of a star against that half a width out: a Gaussian has 1.9, a disc 1.4
ONE_SIDE, KEEPS_MAG = 0.2, 0.35  # picture widths between what lost its stars and the rest; light that this may have lost. Our own
RAGGED_MAG = 0.12  # by which parts of the picture differ under cloud


@dataclass(frozen=True)
class Step:
    """From `frame` on stars count `stars` times and the background `sky` times what they did."""

    frame: int
    stars: float
    sky: float


def _calm(values: Floats) -> float:
    finite = values[np.isfinite(values) & (values > 0)]
    return float(np.ptp(np.log(finite))) if finite.size > 1 else 0.0


def step_in(run: Course) -> Step | None:
    """Where background and every star change by one factor at once, and stay so."""
    light, back = run.clear, run.level / run.exposure / run.natural
    best: tuple[float, Step] | None = None
    for place in _perhaps(light, back):
        before, after = slice(max(place - 4, 0), place), slice(place, min(place + 4, run.count))
        stars = quantile(light[after], 0.5, np.nan) / quantile(light[before], 0.5, np.nan)
        sky = float(np.median(back[after]) / max(float(np.median(back[before])), 1e-12))
        if not np.isfinite(light[after]).any() and np.median(run.clipped[after]) > 1.1 * np.median(run.clipped[before]):
            if best is None and _steps_alone(back, place, sky):
                best = 0.0, Step(place, sky, sky)  # every star is white from here on: the background alone tells it
            continue
        size = abs(float(np.log(stars))) if np.isfinite(stars) and stars > 0 else 0.0
        if size < np.log(LEAST_STEP) or sky <= 0 or abs(np.log(stars / sky)) > 0.3 * size:
            continue
        rest = light[place:][np.isfinite(light[place:])]
        stays = bool(np.all(np.abs(np.log(np.maximum(rest, 1e-9) / quantile(light[after], 0.5, 1.0))) < 0.35 * size))
        at_once = abs(float(np.log(light[place] / light[place - 1]))) if np.isfinite(light[place - 1 : place + 1]).all() else 0.0
        calm = max(_calm(light[before]), _calm(light[after]))
        # Stars that trail or clip are no calm measure; a background that is level before and after one step is.
        if (
            ((stays and calm < 0.15 * size) or _steps_alone(back, place, sky))
            and at_once > 0.8 * size
            and (best is None or at_once > best[0])
        ):
            best = at_once, Step(place, float(stars), sky)
    return None if best is None else best[1]


def _perhaps(light: Floats, back: Floats) -> list[int]:
    """Frames from which on all light may count differently, by the medians of four before and four from there."""
    if light.size < 4:
        return []
    lit, sky = (np.pad(np.where(np.isfinite(one), one, np.nan), 4, constant_values=np.nan) for one in (light, back))
    light_4, sky_4 = (middle(np.lib.stride_tricks.sliding_window_view(one, 4), axis=1) for one in (lit, sky))
    place = np.arange(2, light.size - 1)  # four before it begin at it in what was padded, four from it at it and four
    stars, shade = light_4[place + 4] / light_4[place], sky_4[place + 4] / np.maximum(sky_4[place], 1e-12)
    size = np.abs(np.log(np.where(stars > 0, stars, np.nan)))
    alike = np.abs(np.log(stars / shade)) <= 0.3 * size
    return [int(one) for one in place[~np.isfinite(light_4[place + 4]) | ((size >= np.log(LEAST_STEP)) & (shade > 0) & alike)]]


def _steps_alone(back: Floats, place: int, times: float) -> bool:
    """Whether a background is level before and after one step."""
    size = abs(float(np.log(max(times, 1e-9))))
    calm = max(_calm(back[:place]), _calm(back[place:]))
    return size > np.log(LEAST_STEP) and calm < 0.15 * size


def as_one(run: Course, step: Step | None) -> Course:
    """A run whose settings changed on the way, each part on a scale of its own, so that what else happened can be seen."""
    if step is None:
        return run
    later = np.arange(run.count) >= step.frame
    clear, sky = run.clear / np.where(later, step.stars, 1.0), run.sky / np.where(later, step.sky, 1.0)
    return replace(
        run,
        clear=clear / max(quantile(clear, GOOD_SHARE, 1.0), 1e-9),
        sky=sky / max(quantile(sky, 0.5, 1.0), 1e-9),
        level=run.level / np.where(later, step.sky, 1.0),
        noise=run.noise / np.where(later, step.stars, 1.0),
    )


def settings(run: Course, step: Step | None) -> list[Finding]:
    if step is None:
        return []
    times = f"stars count {step.stars:.2f} times as much, and the background {step.sky:.2f} times"
    return [told("settings", np.arange(run.count) >= step.frame, 0.9, f"From one frame to the next {times}.", "It stays so.")]


def _returns(light: Floats, episode: Mask) -> float:
    """How far a loss of light is made good when it is over, 0 to 1."""
    worst, end = float(np.nanmin(light[episode])), int(np.flatnonzero(episode)[-1]) + 1
    best = quantile(light[end : end + 3], 0.8, worst) if end < light.size else quantile(light[-2:], 0.5, worst)
    return float(np.clip((best - worst) / max(1.0 - worst, 1e-6), 0.0, 1.0))


def _episodes(bad: Mask) -> list[Mask]:
    """Stretches of bad frames, a single good one between them not counted."""
    at = np.flatnonzero(bad)
    found = []
    for part in np.split(at, np.flatnonzero(np.diff(at) > 2) + 1) if at.size else []:
        mask = np.zeros(bad.size, dtype=bool)
        mask[part] = True
        found.append(mask)
    return found


def _uneven(run: Course) -> Floats:
    """How differently the parts of a picture are dimmed, magnitudes, beyond what the run's good frames show."""
    good = run.clear > DIM
    usual = middle(run.zone_zero[good] if np.count_nonzero(good) >= 2 else run.zone_zero)
    off = run.zone_zero - usual
    spread = deviation(off - middle(off, axis=1)[:, None])
    return np.asarray(np.sqrt(np.maximum(spread**2 - quantile(spread[good], 0.5, 0.0) ** 2, 0.0)))


def veiled(read: Read, knocked: Mask) -> list[Finding]:
    """Dew, cloud, haze, and what stands in the way: by starlight, width, and how even it is over the picture."""
    run = read.run
    hidden = _hidden(run)
    behind = np.zeros(run.count, dtype=bool)
    for one in hidden:
        behind[list(one.frames)] = True
    starless = ~run.has_stars & ~run.black & (run.level < WHITE)
    dim = (read.dim | starless) & ~behind & ~run.double & ~knocked
    light = np.where(np.isfinite(run.clear), run.clear, np.where(starless, 0.0, np.nan))
    uneven = _uneven(run)
    told_of: dict[str, Finding] = {}
    for episode in _episodes(dim & np.isfinite(light)):
        veil = _one_veil(read, episode, light, uneven)
        if veil is not None:  # several clouds are one cause
            before = told_of.get(veil.cause, veil)
            frames = tuple(sorted({*before.frames, *veil.frames}))
            told_of[veil.cause] = replace(before, frames=frames, sure=max(veil.sure, before.sure))
    return [*hidden, *told_of.values()]


def _one_veil(read: Read, episode: Mask, light: Floats, uneven: Floats) -> Finding | None:
    """What one stretch of dim frames is."""
    run = read.run
    ragged, back = quantile(uneven[episode], 0.6, 0.0), _returns(light, episode)
    fat, halo = quantile((run.width / run.good_width)[episode], 0.7, 1.0), quantile(run.halo[episode], 0.7, 0.0)
    words = f"Down to {100 * float(np.nanmin(light[episode])):.0f} % of the starlight."
    if fat > 1.1 and halo > 0.015 and back < RETURNS:
        sure = 0.6 + 0.35 * min(1.0, (fat - 1.0) + 4 * halo)
        wide = f"Stars grow to {fat:.2f} times their width, with a halo."
        first = int(np.flatnonzero(episode)[0])
        beginning = read.wide & (run.halo > 0.01) & (np.abs(np.arange(run.count) - first) < 4)
        return told("dew", episode | beginning, sure, words, wide, "It does not come back.")
    if back > RETURNS and ragged < RAGGED_MAG and _all_light(run, episode, light):
        return None  # stars and sky by one factor, evenly: no cloud does that, and dims what it does by light of its own
    if back > BEGINS_TO_RETURN or ragged > RAGGED_MAG:
        against = () if ragged > 0.66 * RAGGED_MAG else ("It is even over the picture, as haze would be.",)
        sure = 0.6 + 0.2 * min(back, 1.0) + 0.2 * min(ragged / 0.2, 1.0) - (0.15 if back < RETURNS and ragged < RAGGED_MAG else 0.0)
        why = "It comes and goes." if back > BEGINS_TO_RETURN else "Parts of the picture lose more than others."
        return told("cloud", episode, sure, words, why, against=against)
    if np.count_nonzero(episode) >= 3:
        why = "It comes slowly, evenly over the picture, and stays."
        return told("haze", episode, 0.6 + 0.3 * (1.0 - back), words, why, "Stars are as narrow as before.")
    return None


def _all_light(run: Course, episode: Mask, light: Floats) -> bool:
    """Whether some frames have lost as much of the sky as of the stars, against the frames around them."""
    at = np.flatnonzero(episode)
    near = ~episode & (np.abs(np.arange(run.count)[:, None] - at[None, :]).min(axis=1) <= BESIDE)
    stars, sky = (quantile(one[episode], 0.5, 0.0) / max(quantile(one[near], 0.5, 0.0), 1e-9) for one in (light, run.sky))
    return stars > 0 and sky > 0 and abs(float(np.log(stars / sky))) < ONE_FACTOR


def _hidden(run: Course) -> list[Finding]:
    """A part of the picture that loses all its stars while the rest keeps them: a roof, a tree, a dome that half closed."""
    frames = (run.lost.sum(axis=1) >= 2) & ~run.black
    if np.count_nonzero(frames) < 2:
        return []
    held = ~run.lost & (run.zone_stars >= 4)
    x, y = run.zone_x, run.zone_y * 2 / 3
    light = run.zone_zero - middle(run.zone_zero[~frames] if np.count_nonzero(~frames) >= 2 else run.zone_zero)
    told_of = np.zeros(run.count, dtype=bool)
    for place in np.flatnonzero(frames):
        gone, rest = run.lost[place], held[place]
        if not rest.any():
            continue
        apart = float(np.hypot(x[gone].mean() - x[rest].mean(), y[gone].mean() - y[rest].mean()))
        told_of[place] = apart > ONE_SIDE and quantile(light[place][rest], 0.5, 0.0) > -KEEPS_MAG
    if np.count_nonzero(told_of) < max(2, 0.5 * np.count_nonzero(frames)):
        return []
    good = ~frames if (~frames).any() else np.ones(run.count, dtype=bool)
    behind = run.zone_sky / np.maximum(np.median(run.zone_sky[good], axis=0), 1e-12)
    changed = np.array(
        [
            np.abs(np.log(np.maximum(behind[n][run.lost[n]].mean() / behind[n][~run.lost[n]].mean(), 1e-3)))
            for n in np.flatnonzero(told_of)
        ]
    )
    worst = 100.0 * float(1.0 - run.unlost[told_of].min())
    words = f"Up to {worst:.0f} % of the picture loses all its stars."
    sky = quantile(changed, 0.5, 0.0)
    why = "The rest keeps them as bright as before." + (" The sky changes there, too." if sky > 0.2 else "")
    return [told("obstructed", told_of, 0.65 + 0.3 * min(sky, 1.0), words, why)]


def background(read: Read, hidden: Mask) -> list[Finding]:
    """Moon and twilight as computed; lamps and headlights in single frames. hidden: frames with something before the sky."""
    run = read.run
    raw = run.level / run.exposure
    rises = run.natural > 1.2
    if np.count_nonzero(rises) >= 2 and np.std(raw) > 0:
        agree = float(np.corrcoef(run.natural, raw)[0, 1])
        more = float(np.max(raw) / max(float(np.quantile(raw, 0.1)), 1e-12))
        if agree > 0.85 and more > 1.2:
            words = f"The background rises to {more:.1f} times, just as Moon and twilight do."
            return [told("moon", rises & ~run.black, 0.5 + 0.45 * agree, words, "Stars are as bright as before.")]
    bright = (run.sky > 1.05 * BRIGHT) & ~hidden & (np.nan_to_num(run.clear, nan=1.0) > DIM)
    if not bright.any() or np.count_nonzero(bright) > max(3, 0.25 * run.count):
        return []
    uneven = run.zone_sky.std(axis=1) / run.zone_sky.mean(axis=1)
    sloped = quantile(uneven[bright], 0.5, 0.0) > 1.3 * quantile(uneven[~bright], 0.5, 0.0)
    words = f"The background is {float(np.max(run.sky[bright])):.1f} times as bright in single frames."
    why = "It slopes over the picture." if sloped else "Stars are as bright as before."
    return [told("lamp", bright, 0.85 if sloped else 0.65, words, why)]


def focus(read: Read, explained: Mask) -> list[Finding]:
    """Out of focus from the first frame, or creeping out of it as it cools."""
    run = read.run
    flat = quantile(run.flat, 0.5, 2.0)
    if run.too_wide and flat >= FLAT:
        widest = quantile(run.width, SHARPEST, 0.0)
        words = f"Even in the sharpest frames stars are {widest:.1f} px wide, beyond what this rig gives in focus."
        return [told("out of focus", run.has_stars, 0.75, words, "They are so from the first frame.")]
    if flat < FLAT and quantile(run.width, 0.3, 0.0) > 3.5 and quantile(run.elongation, 0.5, 1.0) < 1.3:
        sure = 0.65 + min(0.3, FLAT - flat)
        return [
            told("out of focus", run.has_stars, sure, "Stars are discs or rings, not points.", "They are so from the first frame.")
        ]
    wide = read.wide & ~explained & (np.nan_to_num(run.clear, nan=0.0) > 0.8)
    ratio = run.width / run.good_width
    known = np.isfinite(ratio)
    if np.count_nonzero(wide) < 3 or np.std(ratio[known]) == 0:
        return []
    trend = float(np.corrcoef(np.flatnonzero(known), ratio[known])[0, 1])
    if trend < 0.75:
        return []
    words = f"Stars grow to {float(np.nanmax(ratio)):.2f} times their width, round."
    return [told("focus crept", wide, 0.5 + 0.45 * trend, words, "They lose no light.")]


def streaks(run: Course) -> list[Finding]:
    """Satellites, aircraft and meteors, each with the frames they cross."""
    seen = [one for shot in run.shots for one in shot.facts.streaks]
    ends = np.array([[one.from_x, one.from_y, one.to_x, one.to_y] for one in seen]).reshape(-1, 4)

    def stays(one: Streak) -> bool:
        """The same line in three frames is none of the sky's: a row of stars, or a mark of the camera."""
        near = np.abs(ends - np.array([one.from_x, one.from_y, one.to_x, one.to_y])).max(axis=1) < SAME_LINE
        return int(np.count_nonzero(near)) >= 3

    found = []
    for kind in ("satellite", "aircraft", "meteor"):
        frames = np.array([any(one.kind == kind and not stays(one) for one in shot.facts.streaks) for shot in run.shots])
        if frames.any():
            found.append(told(kind, frames, 0.8, "One straight line of light."))
    return found

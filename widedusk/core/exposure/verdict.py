"""The length of a sub in one sentence: aperture, length, ISO, number of frames, and what decides."""

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from widedusk.core.choices import SubSchool
from widedusk.core.exposure.card import Card
from widedusk.core.exposure.light import signal_to_noise
from widedusk.core.exposure.setting import Light, Subject, untracked_s
from widedusk.core.exposure.sub import FLAT_TOP, KEYABLE_S, Conditions, SubAdvice, useful_at
from widedusk.core.exposure.window import Reading, Span
from widedusk.core.exposure.workings import hours_working, workings
from widedusk.core.verdict import Level, Limit, Quantity, Verdict, duration_words

BINDING = {
    "periodic": "the tracker's periodic error",
    "alignment": "polar alignment",
    "rotation": "field rotation about the guide star",
    "untracked": "the sky passing by, without a tracker",
    "wind": "the wind",
    "ceiling": "the sky filling the pixel",
    "chance": "what spoils a frame now and then: a longer one loses more to it",
    "read noise": "read noise: shorter wastes signal, longer wins under 1 %",
    "habit": "your fixed habit",
    "patience": f"patience: nothing else limits it up to {KEYABLE_S[-1] / 60:.0f} min",
}
GUIDED_BY = {"guided in RA": "RA only", "guided": "both axes"}


def _limits(bounds: Sequence[Span], exposure_s: float) -> tuple[Limit, ...]:
    """The limits in their order, with the sub where it stands among those that end."""

    def seconds(value: float | None) -> Quantity:
        if value is None or not np.isfinite(value):
            return Quantity("Sub", text="no limit")
        return Quantity("Sub", value, text=duration_words(value))

    def limit(one: Span) -> Limit:
        if one.from_s is not None:
            return Limit(one.name, "at least", seconds(one.from_s), one.binds, one.words)
        return Limit(one.name, "at most", seconds(one.to_s), one.binds, one.words)

    before = [one for one in bounds if (one.to_s is not None and one.to_s < exposure_s) or one.from_s is not None]
    after = [one for one in bounds if one not in before]
    sub = Limit("The sub", "chosen", seconds(exposure_s))
    return (*map(limit, before), sub, *map(limit, after))


def _choice(advice: SubAdvice, wanted: Conditions, school: SubSchool) -> str:
    """Why not the next longer length, in one sentence; empty where nothing was weighed."""
    t = advice.exposure_s
    longer = KEYABLE_S[t < KEYABLE_S]
    if school == "fixed" or advice.binds in ("habit", "untracked", "patience") or not longer.size:
        return ""
    length, this, after = float(longer[0]), duration_words(t), duration_words(float(longer[0]))
    if length > advice.ceiling_s:
        return f"In {after} the sky would fill more than {wanted.ceiling_share * 100:.0f} % of what a pixel holds."
    sharp = float(wanted.tracked(length))
    if school == "tracks":
        return f"Only {sharp * 100:.0f} % of frames would stay sharp in {after}; {wanted.keep_wanted * 100:.0f} % are wanted."
    if school == "sky":
        return f"{after} is possible; in {this} read noise is as small as you want it."
    return _weighed(advice, wanted, length, sharp)


def _weighed(advice: SubAdvice, wanted: Conditions, length: float, sharp: float) -> str:
    """What the next longer length would gather, and why not more. sharp: the share of its frames that stays so."""
    this, after = duration_words(advice.exposure_s), duration_words(length)
    gain = useful_at(wanted, advice.step, length) / advice.useful - 1.0 if advice.useful else 0.0
    if sharp < wanted.keep_wanted <= advice.tracked:
        gathers = "as much" if abs(gain) < FLAT_TOP else f"{abs(gain) * 100:.0f} % {'more' if gain > 0 else 'less'}"
        return f"Only {sharp * 100:.0f} % of frames would stay sharp in {after}, which would gather {gathers}."
    if gain >= -FLAT_TOP:
        return f"{after} is possible; {this} gathers as much and loses less with each frame that is spoilt."
    why = "more is lost with each frame that is spoilt"
    if advice.tracked - sharp > FLAT_TOP:
        why = f"only {sharp * 100:.0f} % of frames stay sharp"
    return f"{after} gathers {-gain * 100:.0f} % less: {why}."


def _trails(subject: Subject, reading: Reading) -> bool:
    """Whether the rule by which a camera stands still leaves a longer trail than the person allows."""
    return subject.choices.tracking == "untracked" and reading.elongation > subject.choices.elongation_limit + 1e-9


def _notes(
    subject: Subject,
    light: Light,
    advice: SubAdvice,
    card: Card,
    wanted: Conditions,
    ratio: float,
    reading: Reading,
    guided: SubAdvice | None,
) -> list[str]:
    notes, camera = [], subject.rig.camera
    if advice.ceiling_s < KEYABLE_S[0]:
        notes.append(
            f"The sky alone fills its {wanted.ceiling_share * 100:.0f} % after {advice.ceiling_s:.2f} s: "
            "stop down, lower the ISO, or wait for the dark."
        )
    still = subject.choices.tracking == "untracked"
    if _trails(subject, reading):
        strict = replace(subject, choices=replace(subject.choices, untracked_school="pixel"))
        notes.append(
            f"Stars come out {reading.elongation:.1f} times as long as wide; the {subject.choices.elongation_limit:g} you allow "
            f"would be {untracked_s(strict, light.f_number):g} s."
        )
    elif advice.tracked < wanted.keep_wanted:
        notes.append(
            f"Only {advice.tracked * 100:.0f} % of frames stay sharp: shorter subs{'' if still else ' or a better axis'} keep more."
        )
    if not advice.iso_is_sky_limited:
        notes.append(f"Read noise adds {advice.noise_share * 100:.1f} %, more than the {wanted.noise_share * 100:.0f} % you allow.")
    if camera.estimated_at(advice.step.iso):
        notes.append("Noise and well of this camera are an estimate by the size of its pixels: measure it under My camera.")
    if not camera.measured_at(advice.step.iso):
        notes.append(f"ISO {advice.step.iso} is not in the camera's table; its noise is drawn in between its neighbours.")
    tracker, way = subject.rig.tracker, subject.choices.tracking
    if tracker and way in GUIDED_BY and tracker.guide_axes not in {"both axes", GUIDED_BY[way]}:
        able = "in RA only" if tracker.guide_axes == "RA only" else "not at all"
        notes.append(f"By what the Bench says {tracker.name} can be guided {able}.")
    if guided and guided.exposure_s > advice.exposure_s:
        notes.append(
            f"{subject.rig.guider} on this rig could guide: then {duration_words(guided.exposure_s)} "
            f"keep {guided.keep * 100:.0f} %."
        )
    if light.target_e_s <= 0.0:
        notes.append("The filter passes nothing of this target.")
    if not card.frames:
        notes.append("Worked out for a moonless sky at the zenith; see Window for when there is time.")
    if card.kept_frames and ratio > 0.0:
        notes.append(f"Signal to noise {ratio:.1f}; twice the frames would bring {ratio * np.sqrt(2):.1f}.")
    return notes


def exposure_verdict(
    subject: Subject,
    light: Light,
    wanted: Conditions,
    advice: SubAdvice,
    bounds: Sequence[Span],
    reading: Reading,
    card: Card,
    guided: SubAdvice | None = None,
) -> Verdict:
    """One sentence to key in, the limit that decides, and what it gives.

    bounds: the limits as Window draws them; guided: what the guider on the rig would bring.
    """
    step, t = advice.step, advice.exposure_s
    ratio = float(signal_to_noise(light.target_e_s, light.background_e_s, step.read_noise_e, t, card.kept_frames))
    level: Level = (
        "stop"
        if advice.keep < 0.5 or advice.ceiling_s < KEYABLE_S[0] or light.target_e_s <= 0.0
        else "care"
        if advice.tracked < wanted.keep_wanted or _trails(subject, reading) or not advice.iso_is_sky_limited or not card.frames
        else "go"
    )
    frames = "1 frame" if card.frames == 1 else f"{card.frames} frames"
    clip = (
        Quantity("Stars clip from", reading.clip_mag, "mag", working="clipping")
        if reading.clip_mag is not None
        else Quantity("Stars clip", text="all of them", working="clipping")
    )
    return Verdict(
        "Exposure",
        level,
        f"f/{light.f_number:.3g}, {duration_words(t)}, ISO {step.iso}, {frames if card.frames else 'but no time for a frame'}.",
        BINDING[advice.binds],
        " ".join(
            [
                *filter(None, [_choice(advice, wanted, subject.choices.sub_school)]),
                *_notes(subject, light, advice, card, wanted, ratio, reading, guided),
            ]
        ),
        figures=(
            Quantity("Keep rate", advice.keep * 100, "%", decimals=0, working="keep"),
            Quantity("Read noise adds", advice.noise_share * 100, "%", decimals=1, working="sky_limited"),
            Quantity("Sky fills", advice.background_share * 100, "% of clip", decimals=1, working="ceiling"),
            Quantity("Sky in a pixel", light.background_e_s, "e⁻/s", decimals=2, working="light"),
            *((Quantity("Signal to noise", ratio, "per pixel", decimals=1, working="snr"),) if card.kept_frames else ()),
            Quantity("Sub", t, "s", decimals=0 if t >= 10 else 1, working="advice"),
            clip,
        ),
        limits=_limits(bounds, t),
        workings=(
            *workings(subject, light, wanted, advice, reading, card, ratio),
            hours_working(subject.choices.goal_snr, light, step, t, card.interval_gap_s, advice.keep),
        ),
    )

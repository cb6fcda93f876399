"""Aperture, length, ISO and number of frames, and the card that follows."""

import numpy as np

from widedusk.core.choices import Choices
from widedusk.core.errors import Checks
from widedusk.core.exposure.card import Card
from widedusk.core.exposure.light import PHOTONS_V0, electrons_per_s, signal_to_noise
from widedusk.core.exposure.sub import KEYABLE_S, Conditions, SubAdvice
from widedusk.core.kit.aperture import school_f_number
from widedusk.core.kit.optics import image_scale_arcsec_px, ring_f_number
from widedusk.core.kit.parts import Rig
from widedusk.core.scene import Target
from widedusk.core.sky.brightness import EXTINCTION_V
from widedusk.core.tracking.drift import worst_drift_arcsec_s
from widedusk.core.tracking.keep_rate import Motion
from widedusk.core.verdict import Level, Limit, Quantity, Verdict, Working, duration_words

BINDING = {
    "periodic": "the tracker's periodic error",
    "alignment": "polar alignment",
    "ceiling": "the sky filling the pixel",
    "read noise": "read noise: shorter wastes signal, longer wins under 3 %",
    "habit": "your fixed habit",
    "patience": f"patience: nothing else limits it up to {KEYABLE_S[-1] / 60:.0f} min",
}


def aperture(rig: Rig, choices: Choices) -> float:
    """The f-number in use. Raises InvalidInput for one the lens cannot open to."""
    f_number = choices.f_number
    if f_number is None:
        return school_f_number(rig.lens, rig.ring_mm, choices.aperture_school)
    if f_number < rig.lens.f_widest:
        checks = Checks()
        checks.fault(
            "f_number", f_number, f"f/{f_number:g} is wider than {rig.lens.name} opens; give f/{rig.lens.f_widest:g} or more."
        )
        checks.done()
    return max(f_number, ring_f_number(rig.lens.focal_mm, rig.ring_mm, rig.lens.f_widest)) if rig.ring_mm else f_number


def conditions(rig: Rig, target: Target, sky_mag: float, choices: Choices) -> Conditions:
    """What bears on the sub: sky electrons, periodic error and worst drift on this sensor, and the user's limits."""
    scale = float(image_scale_arcsec_px(rig.camera.pitch_um, rig.lens.focal_mm))
    sky = float(electrons_per_s(sky_mag, rig.camera.pitch_um, aperture(rig, choices), rig.camera.response_nm))
    cos_dec = float(np.cos(np.radians(target.dec_deg)))
    motion = Motion(
        rig.tracker.pe_half_amplitude_arcsec * cos_dec / scale,
        rig.tracker.pe_period_s,
        float(worst_drift_arcsec_s(np.radians(choices.alignment_arcmin / 60.0))) / scale,
    )
    return Conditions(
        sky + rig.camera.dark_e_s,
        motion,
        rig.star_fwhm_px,
        choices.elongation_limit,
        choices.gap_s,
        choices.keep_percent / 100.0,
        choices.noise_percent / 100.0,
        choices.ceiling_percent / 100.0,
    )


def target_signal_e_s(rig: Rig, target: Target, mean_airmass: float, choices: Choices) -> float:
    """Electrons per second from the target's surface in one pixel, dimmed by the air."""
    return float(
        electrons_per_s(
            target.surface_mag + EXTINCTION_V * mean_airmass, rig.camera.pitch_um, aperture(rig, choices), rig.camera.response_nm
        )
    )


def _limits(advice: SubAdvice, wanted: Conditions) -> tuple[Limit, ...]:
    def seconds(name: str, value: float) -> Quantity:
        return Quantity(name, value, "s", decimals=0) if np.isfinite(value) else Quantity(name, text="no limit")

    keeps = (
        Quantity("Keeps enough up to", text="nothing long enough to key")
        if advice.keeps_until_s is None
        else seconds("Keeps enough up to", advice.keeps_until_s)
    )
    return (
        Limit(
            "Sky-limited minimum",
            "at least",
            seconds("Read noise small from", advice.sky_limited_s),
            advice.binds == "read noise",
            f"read noise adds {wanted.noise_share * 100:.0f} %",
        ),
        Limit(
            f"Keeping {wanted.keep_wanted * 100:.0f} % of frames",
            "at most",
            keeps,
            advice.binds == "periodic",
            "periodic error and drift",
        ),
        Limit("Alignment drift", "at most", seconds("Tolerated trail after", advice.aligned_until_s), advice.binds == "alignment"),
        Limit(
            "Clip ceiling",
            "at most",
            seconds("Sky fills its share after", advice.ceiling_s),
            advice.binds == "ceiling",
            f"{wanted.ceiling_share * 100:.0f} % of the clip level",
        ),
    )


def exposure_verdict(
    rig: Rig,
    target: Target,
    sky_mag: float,
    mean_airmass: float,
    advice: SubAdvice,
    card: Card,
    wanted: Conditions,
    choices: Choices,
) -> Verdict:
    """One sentence to key in, the limit that decides, and what it gives."""
    f_number = aperture(rig, choices)
    scale = float(image_scale_arcsec_px(rig.camera.pitch_um, rig.lens.focal_mm))
    step, t = advice.step, advice.exposure_s
    signal = target_signal_e_s(rig, target, mean_airmass, choices)
    ratio = float(signal_to_noise(signal, wanted.background_e_s, step.read_noise_e, t, card.kept_frames))
    level: Level = (
        "stop"
        if advice.keep < 0.5
        else "care"
        if advice.keep < wanted.keep_wanted or not advice.iso_is_sky_limited or not card.frames
        else "go"
    )
    notes = []
    if advice.keep < wanted.keep_wanted:
        notes.append(f"Only {advice.keep * 100:.0f} % of frames stay round: shorter subs or a better axis keep more.")
    if not advice.iso_is_sky_limited:
        notes.append(
            f"Read noise adds {advice.noise_share * 100:.0f} %, more than the {wanted.noise_share * 100:.0f} % you allow; "
            "the tracker does not hold long enough for less."
        )
    if not card.frames:
        notes.append("Worked out for a moonless sky at the zenith; see Window for when there is time.")
    if card.kept_frames:
        notes.append(f"Signal to noise {ratio:.1f}; twice the frames would bring {ratio * np.sqrt(2):.1f}.")
    sky_e = wanted.background_e_s - rig.camera.dark_e_s
    t_q = Quantity("Sub", t, "s", "t", 0)
    background = Quantity("Sky and dark current", wanted.background_e_s, "e⁻/s", "E", 3, working="light")
    read = Quantity(f"Read noise at ISO {step.iso}", step.read_noise_e, "e⁻", "R", 2)
    workings = (
        Working(
            "light",
            "Sky in one pixel",
            "E = Φ₀ 10^(−0.4 μ) (π/4) (206265 p / N)² B + dark",
            (
                Quantity("V = 0 flux", PHOTONS_V0, "photons s⁻¹ cm⁻² nm⁻¹", "Φ₀", 0),
                Quantity("Sky at the target", sky_mag, "mag/arcsec²", "μ", 2),
                Quantity("Pixel pitch", rig.camera.pitch_um, "µm", "p", 2),
                Quantity("f-number", f_number, "", "N", 1),
                Quantity("Response", rig.camera.response_nm, "nm", "B", 0),
                Quantity("Dark current", rig.camera.dark_e_s, "e⁻/s", decimals=3),
            ),
            Quantity("Sky and dark current", wanted.background_e_s, "e⁻/s", "E", 3),
            "Zero point Bessell 1979, PASP 91, 589",
            "published",
            f"The sky alone gives {sky_e:.3f} e⁻/s. Focal length cancels.",
        ),
        Working(
            "sky_limited",
            "Sky-limited minimum",
            "t = R² / (E ((1 + q)² − 1))",
            (read, background, Quantity("Share read noise may add", wanted.noise_share * 100, "%", "q", 0)),
            Quantity("Sky-limited minimum", advice.sky_limited_s, "s", decimals=0),
            "From the CCD equation, Howell, Handbook of CCD Astronomy",
            "published",
        ),
        Working(
            "keep",
            "Keep rate",
            "share of worm phases φ with e = √(1 + λ₁ / σ²) ≤ limit",
            (
                Quantity("Periodic error, half of peak to peak", rig.tracker.pe_half_amplitude_arcsec, "″", "A"),
                Quantity("Worm period", rig.tracker.pe_period_s, "s", "T", 0),
                Quantity("cos δ", float(np.cos(np.radians(target.dec_deg))), "", decimals=3),
                Quantity("Image scale", scale, "″/px", "s", 2),
                Quantity("Worst drift", wanted.motion.drift_px_s * 60, "px/min", decimals=3),
                Quantity("A star may lengthen to", choices.elongation_limit, "", "e", 2),
                t_q,
            ),
            Quantity("Keep rate", advice.keep * 100, "%", decimals=0),
            "λ₁ is the largest principal value of the star's path within the sub, σ its own width. Limits 1.15 / 1.3 / 1.5",
            "common practice",
            "Wind, knocks and clouds are not in it.",
        ),
        Working(
            "drift",
            "Alignment drift",
            "t = L s / (ω ε)",
            (Quantity("Axis error expected", choices.alignment_arcmin, "′", "ε"), Quantity("Image scale", scale, "″/px", "s", 2)),
            Quantity("Tolerated trail after", advice.aligned_until_s, "s", decimals=0),
            "ω (M − P) × s, worst case for any star",
            "published",
        ),
        Working(
            "ceiling",
            "Clip ceiling",
            "t = share × full well / E",
            (
                Quantity(f"Full well at ISO {step.iso}", step.full_well_e, "e⁻", decimals=0),
                background,
                Quantity("Share the sky may fill", wanted.ceiling_share * 100, "%", decimals=0),
            ),
            Quantity("Ceiling", advice.ceiling_s, "s", decimals=0),
            "A fifth leaves star colour and room for the core",
            "common practice",
        ),
        Working(
            "advice",
            "Choice of the sub",
            "u(t) = keep(t) · t / (t + gap) · E t / (E t + R²); shortest t within 3 % of the best",
            (
                read,
                background,
                Quantity("Gap", choices.gap_s, "s"),
                Quantity("Longest considered", float(KEYABLE_S[-1]), "s", decimals=0),
            ),
            t_q,
            "CCD equation for the efficiency; the 3 % and the ten-minute end are habits",
            "common practice",
            "The limit that decides is the one whose removal would lengthen the advice most.",
        ),
        Working(
            "snr",
            "Signal to noise of one pixel",
            "n S t / √(n ((S + E) t + R²))",
            (
                Quantity("Target's surface", target.surface_mag, "mag/arcsec²", decimals=1),
                Quantity("Mean airmass", mean_airmass, "", "X", 2),
                Quantity("Target", signal, "e⁻/s", "S", 4),
                background,
                read,
                t_q,
                Quantity("Frames kept", card.kept_frames, "", "n", 0),
            ),
            Quantity("Signal to noise", ratio, "", decimals=1),
            "Howell, Handbook of CCD Astronomy; Mortara & Fowler 1981",
            "published",
            "Per pixel, before any binning or smoothing; grows with the root of the number of frames.",
        ),
    )
    return Verdict(
        "Exposure",
        level,
        f"f/{f_number:g}, {duration_words(t)}, ISO {step.iso}, {_frames(card) if card.frames else 'but no time for a frame'}.",
        BINDING[advice.binds],
        " ".join(notes),
        figures=(
            Quantity("Keep rate", advice.keep * 100, "%", decimals=0, working="keep"),
            Quantity("Read noise adds", advice.noise_share * 100, "%", decimals=1, working="sky_limited"),
            Quantity("Sky fills", advice.background_share * 100, "% of clip", decimals=1, working="ceiling"),
            Quantity("Sky in a pixel", wanted.background_e_s, "e⁻/s", decimals=2, working="light"),
            *((Quantity("Signal to noise", ratio, "per pixel", decimals=1, working="snr"),) if card.kept_frames else ()),
            Quantity("Sub", t, "s", decimals=0, working="advice"),
        ),
        limits=_limits(advice, wanted),
        workings=workings,
    )


def _frames(card: Card) -> str:
    return "1 frame" if card.frames == 1 else f"{card.frames} frames"


def card_verdict(card: Card, choices: Choices, start: Quantity, end: Quantity) -> Verdict:
    """What to key in, when it ends, what it fills."""
    frames = Quantity("Frames", card.frames, "", "n", 0, working="frames")
    missing_gb = (card.frames_in_window - card.frames) * card.raw_file_mb / 1000.0
    level: Level = "go" if card.frames and card.limited_by == "window" else "care" if card.frames else "stop"
    sentence = (
        f"{_frames(card)} of {duration_words(card.exposure_s)}, {start.text} to {end.text}."
        if card.frames
        else "There is no time for a single frame: nothing to key in."
    )
    advice = (
        f"The memory card is full before the window closes: {missing_gb:.1f} GB more would take all {card.frames_in_window} frames."
        if card.limited_by == "card"
        else ""
    )
    return Verdict(
        "Card",
        level,
        sentence,
        "the window" if card.limited_by == "window" else "the memory card",
        advice,
        figures=()
        if not card.frames
        else (
            start,
            end,
            Quantity("Total", text=duration_words(card.total_s), working="frames"),
            Quantity("Kept", text=duration_words(card.kept_s), working="kept"),
            Quantity("Storage", card.storage_gb, "GB", working="storage"),
            Quantity("Darks", card.darks, f"× {card.exposure_s:g} s", decimals=0, working="darks"),
        ),
        limits=(
            Limit("The window", "at most", end, card.limited_by == "window"),
            Limit("The memory card", "at most", Quantity("Storage", choices.card_gb, "GB", decimals=0), card.limited_by == "card"),
        ),
        workings=(
            Working(
                "frames",
                "Number of frames",
                "n = ⌊(window − delay + gap) / (exposure + gap)⌋; total = delay + n t + (n − 1) gap",
                (
                    start,
                    Quantity("Window", text=duration_words(card.window_s)),
                    Quantity("Delay", card.delay_s, "s", decimals=0),
                    Quantity("Exposure", card.exposure_s, "s", "t"),
                    Quantity("Gap", card.interval_gap_s, "s"),
                ),
                frames,
                "Counting",
                "definition",
                f"A timer whose interval is the pause takes {card.interval_gap_s:g} s; one that counts from start to start "
                f"takes {card.interval_start_s:g} s.",
            ),
            Working(
                "kept",
                "Time that will be kept",
                "n × keep rate × t",
                (frames, Quantity("Exposure", card.exposure_s, "s", "t")),
                Quantity("Kept", text=duration_words(card.kept_s)),
                "Keep rate of the Exposure verdict",
                "common practice",
            ),
            Working(
                "storage",
                "Storage",
                "(frames + darks) × raw file",
                (frames, Quantity("Darks", card.darks, "", decimals=0), Quantity("Raw file", card.raw_file_mb, "MB")),
                Quantity("Storage", card.storage_gb, "GB"),
                "Counting, 1 GB = 1000 MB",
                "definition",
            ),
            Working(
                "darks",
                "Darks to follow",
                "same ISO, length and temperature, cap on",
                (Quantity("Number", card.darks, "", decimals=0), Quantity("Exposure", card.exposure_s, "s", "t")),
                Quantity("Time for them", text=duration_words(card.darks_s)),
                "10 to 30 matched darks, or none with dithering",
                "common practice",
            ),
        ),
        caution=""
        if not card.frames
        else "Awake since morning? Sleep before the drive: driving tired is as dangerous as driving drunk.",
    )

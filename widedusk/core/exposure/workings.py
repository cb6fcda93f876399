"""How each figure about a sub came about: formula, inputs, source."""

import numpy as np

from widedusk.core.exposure.card import Card
from widedusk.core.exposure.light import PHOTONS_V0, central_share
from widedusk.core.exposure.response import COLOUR_NM
from widedusk.core.exposure.setting import EASY_LOAD, Light, Subject, aperture_cm2, overload
from widedusk.core.exposure.sub import KEYABLE_S, RESERVE, Conditions, SubAdvice
from widedusk.core.exposure.window import Reading
from widedusk.core.kit.optics import crop_factor, image_scale_arcsec_px
from widedusk.core.kit.parts import IsoStep
from widedusk.core.kit.payload import carried_mass_g
from widedusk.core.sky.brightness import EXTINCTION_V
from widedusk.core.tracking.wind import AT_SCALE_ARCSEC_PX, GUST_FREE_S
from widedusk.core.verdict import Quantity, Working, duration_words


def workings(
    subject: Subject, light: Light, wanted: Conditions, advice: SubAdvice, reading: Reading, card: Card, ratio: float
) -> tuple[Working, ...]:
    """Every working that a figure of the Exposure verdict, a span or a reading names."""
    rig, target, choices = subject.rig, subject.target, subject.choices
    scale = float(image_scale_arcsec_px(rig.camera.pitch_um, rig.lens.focal_mm))
    step = advice.step
    t_q = Quantity("Sub", advice.exposure_s, "s", "t", 0 if advice.exposure_s >= 10 else 1)
    background = Quantity("Sky and dark current", light.background_e_s, "e⁻/s", "E", 3, working="light")
    read = Quantity(f"Read noise at ISO {step.iso}", step.read_noise_e, "e⁻", "R", 2)
    well = Quantity(f"Full well at ISO {step.iso}", step.full_well_e, "e⁻", decimals=0)
    scale_q = Quantity("Image scale", scale, "″/px", "s", 2)
    tracker, through = rig.tracker, light.response
    worm = (
        (
            Quantity("Periodic error, half of peak to peak", tracker.pe_half_amplitude_arcsec, "″", "A"),
            Quantity("grown by the load", overload(rig), "×", decimals=2, working="payload"),
            Quantity("Worm period", tracker.pe_period_s, "s", "T", 0),
        )
        if tracker
        else ()
    )
    low, high = COLOUR_NM[through.colour]
    return (
        Working(
            "light",
            "Sky in one pixel",
            "E = Φ₀ 10^(−0.4 μ) (π/4) (206265 p / N)² B q + dark",
            (
                Quantity("V = 0 flux", PHOTONS_V0, "photons s⁻¹ cm⁻² nm⁻¹", "Φ₀", 0),
                Quantity("Sky at the target", subject.sky_mag, "mag/arcsec²", "μ", 2),
                Quantity("Pixel pitch", rig.camera.pitch_um, "µm", "p", 2),
                Quantity("f-number", light.f_number, "", "N", 1),
                Quantity("Response", rig.camera.response_nm, "nm", "B", 0),
                Quantity("Share of the sky through the filter", through.sky, "", "q", 3, working="filter"),
                Quantity("Dark current", rig.camera.dark_e_s, "e⁻/s", decimals=3),
            ),
            Quantity("Sky and dark current", light.background_e_s, "e⁻/s", "E", 3),
            "Zero point Bessell 1979, PASP 91, 589",
            "published",
            f"The sky alone gives {light.sky_e_s:.3f} e⁻/s. Focal length cancels.",
        ),
        Working(
            "filter",
            "Through the filter",
            "sky: 0.9 × width of its bands in the colour / width of the colour; a line passes whole or not at all",
            (
                Quantity("In the beam", text=", ".join(one.name for one in rig.filters) or "no filter"),
                Quantity("Colour that shows the target best", text=f"{through.colour}, {low:g} to {high:g} nm"),
                Quantity("Target shines in", text=target.light),
                Quantity("Hα the camera passes", rig.camera.hydrogen_percent, "%", decimals=0),
            ),
            Quantity("Sky and target pass", text=f"{through.sky:.3f} and {through.target:.3f}"),
            "Ratio of bandwidths; lines 500.7 and 656.3 nm by the NIST database; mix of lines and widths of colours from memory",
            "from memory",
            "Moonlight and natural sky spread over the spectrum; a town of lamps does not, and a filter may do better there.",
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
            "share of worm phases φ with e = √(1 + λ₁ / σ²) ≤ limit, × exp(−t / gust-free time) × exp(−t / τ)",
            (
                *worm,
                Quantity("cos δ", float(np.cos(np.radians(target.dec_deg))), "", decimals=3),
                scale_q,
                Quantity("Width of a still star", wanted.star_fwhm_px, "px FWHM", decimals=2),
                Quantity("Drift along dec", wanted.motion.drift_px_s * 60, "px/min", decimals=3, working="drift"),
                Quantity("Drift along RA", wanted.motion.drift_ra_px_s * 60, "px/min", decimals=3, working="drift"),
                Quantity("Elongation of a star, at most", choices.elongation_limit, "", "e", 2),
                Quantity("used, a tenth of it kept as a reserve", wanted.elongation_limit, "", decimals=2),
                Quantity("Something else spoils a frame every", text=_gusts(wanted.spoil_free_s), symbol="τ"),
                t_q,
            ),
            Quantity("Keep rate", advice.keep * 100, "%", decimals=0),
            "λ₁ is the largest principal value of the star's path within the sub, σ its own width. Limits 1.15 / 1.3 / 1.5",
            "common practice",
            f"Round {reading.round_keep * 100:.0f} %, with the wind {reading.tracked * 100:.0f} %. How often a knock, a cloud or "
            "a lamp spoils a frame is from memory, once an hour; set it by your own nights.",
        ),
        _drift(subject, wanted, advice, scale_q),
        Working(
            "wind",
            "Wind",
            "share without a gust exp(−t / T), T = time for the level × scale / 6.2 ″/px",
            (
                Quantity("Level", text=choices.wind_level),
                Quantity("Time between spoiling gusts at 6.2 ″/px", text=_gusts(GUST_FREE_S[choices.wind_level])),
                Quantity("Scale against it", scale / AT_SCALE_ARCSEC_PX, "×", decimals=2),
            ),
            Quantity("Here", text=_gusts(wanted.gust_free_s), symbol="T"),
            "A long lens that holds 3 min in calm air holds 1 min in wind; the levels are our own",
            "common practice",
            "Learn it from your own frames, and set the level that fits them.",
        ),
        Working(
            "payload",
            "Load on the drive",
            "errors × load / (0.6 × rating), from 60 % of the rating on",
            (
                Quantity("Carried", carried_mass_g(rig) / 1000, "kg", decimals=2),
                *((Quantity("Rating", rig.tracker.rating_g / 1000, "kg", decimals=2),) if rig.tracker else ()),
                Quantity("Easy up to", EASY_LOAD * 100, "%", decimals=0),
            ),
            Quantity("Errors grow to", overload(rig), "×", decimals=2),
            "Imaging load of 60 % of the rating; growth in proportion beyond it is our own rule",
            "common practice",
        ),
        Working(
            "ceiling",
            "Clip ceiling",
            "t = share × full well / E",
            (well, background, Quantity("Share the sky may fill", wanted.ceiling_share * 100, "%", decimals=0)),
            Quantity("Ceiling", advice.ceiling_s, "s", decimals=0 if advice.ceiling_s >= 10 else 2),
            "A fifth leaves star colour and room for the core",
            "common practice",
        ),
        Working(
            "clipping",
            "Stars that clip",
            "Φ₀ 10^(−0.4 (m + k X)) A B q c t + E t = full well",
            (
                well,
                background,
                t_q,
                Quantity("Entrance pupil", aperture_cm2(rig, light.f_number), "cm²", "A"),
                Quantity("Response through the filter", rig.camera.response_nm * through.sky, "nm", "B q"),
                Quantity("What the air takes", EXTINCTION_V * subject.mean_airmass, "mag", "k X", 2),
                Quantity("Share in the central pixel", float(central_share(wanted.star_fwhm_px)), "", "c", 3),
            ),
            Quantity("Clips from", reading.clip_mag, "mag", "m")
            if reading.clip_mag is not None
            else Quantity("Clips", text="every star: the sky itself does"),
            "Gaussian star centred on a pixel: c = erf(1 / (2√2 σ))²",
            "published",
            "For a star of the zero point's colour; drift and a star between pixels spread it and let brighter ones pass.",
        ),
        Working(
            "histogram",
            "Where the sky's peak stands",
            "raw: E t / full well; on the camera: that through the sRGB curve",
            (
                background,
                Quantity("Read out at", reading.exposure_s, "s", "t", 0),
                well,
                Quantity("Above black in the file", reading.raw_level, "counts", decimals=0),
            ),
            Quantity(
                "Raw and camera",
                text=f"{reading.background_share * 100:.1f} % of clip, {reading.back_share * 100:.0f} % from the left",
            ),
            "Tone curve of IEC 61966-2-1",
            "published",
            "Bodies bend their curve a little more and scale the colours; a test picture tells how yours does.",
        ),
        Working(
            "advice",
            "Choice of the sub",
            "u(t) = keep(t) · t / (t + gap) · E t / (E t + R²); of all t within 1 % of the best the shortest that breaks no limit",
            (
                read,
                background,
                Quantity("Gap", wanted.gap_s, "s"),
                Quantity("Longest considered", float(KEYABLE_S[-1]), "s", decimals=0),
            ),
            t_q,
            "CCD equation for the efficiency; the 1 % and the ten-minute end are habits",
            "common practice",
            f"keep(t), here and everywhere, leaves {RESERVE * 100:.0f} % of the tolerated elongation as a reserve. "
            "The limit that decides is the one whose removal would lengthen the advice most.",
        ),
        Working(
            "snr",
            "Signal to noise of one pixel",
            "n S t / √(n ((S + E) t + R²))",
            (
                Quantity("Target's surface", target.surface_mag, "mag/arcsec²", decimals=1),
                Quantity("Mean airmass", subject.mean_airmass, "", "X", 2),
                Quantity("Share of it through the filter", through.target, "", decimals=3, working="filter"),
                Quantity("Target", light.target_e_s, "e⁻/s", "S", 4),
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


def hours_working(goal: float, light: Light, step: IsoStep, t: float, pause_s: float, keep: float) -> Working:
    """How the hours to the wanted signal to noise come about, for one aperture, filter, ISO and length."""
    hours = light.hours_for(goal, step, t, pause_s, keep)
    return Working(
        "hours",
        f"Hours to a signal to noise of {goal:g}",
        "n (t + pause) / keep,  n = (goal / SNR of one sub)²",
        (
            Quantity("Goal, of one pixel", goal, "", decimals=1),
            Quantity("f-number", light.f_number, "", "N", 1),
            Quantity("Target", light.target_e_s, "e⁻/s", "S", 4, working="snr"),
            Quantity("Sky and dark current", light.background_e_s, "e⁻/s", "E", 3, working="light"),
            Quantity(f"Read noise at ISO {step.iso}", step.read_noise_e, "e⁻", "R", 2),
            Quantity("Sub", t, "s", "t", 0 if t >= 10 else 1),
            Quantity("Pause", pause_s, "s"),
            Quantity("Kept", keep * 100, "%", decimals=0, working="keep"),
        ),
        Quantity("Hours", hours, "h", decimals=2) if np.isfinite(hours) else Quantity("Hours", text="out of reach"),
        "CCD equation, Howell, Handbook of CCD Astronomy; frames to shoot are those to keep over the keep rate",
        "published",
    )


def _gusts(seconds: float) -> str:
    return duration_words(seconds) if np.isfinite(seconds) else "none"


def _drift(subject: Subject, wanted: Conditions, advice: SubAdvice, scale: Quantity) -> Working:
    """The working of whatever makes stars drift in the way of tracking that is chosen."""
    rig, drift, choices = subject.rig, subject.drift, subject.choices
    until = (
        Quantity("Tolerated trail after", advice.drift_until_s, "s", decimals=0 if advice.drift_until_s >= 10 else 1)
        if np.isfinite(advice.drift_until_s)
        else Quantity("Tolerated trail", text="never reached")
    )
    if wanted.drift_by == "untracked":
        return Working(
            "drift",
            "Without a tracker",
            {
                "pixel": "t = L s / (15.041 cos δ)",
                "500": "t = 500 / (c f)",
                "detailed": "t = (16.856 N + 0.0997 f + 13.713 p) / (f cos δ)",
            }[choices.untracked_school],
            (
                Quantity("Declination", subject.target.dec_deg, "°", "δ"),
                scale,
                Quantity("Focal length", rig.lens.focal_mm, "mm", "f", 0),
                Quantity("Crop factor", crop_factor(rig.camera.width_mm, rig.camera.height_mm), "", "c", 2),
                Quantity("Speed of the sky", wanted.drift_px_s, "px/s", decimals=3),
            ),
            until,
            "Rotation of the Earth; the detailed rule by F. Michaud, Société astronomique du Havre; the 500 rule is a habit",
            "from memory" if choices.untracked_school == "detailed" else "common practice",
        )
    measured = subject.axis == "measured"
    known = {"measured": "measured", "expected": "expected", "usual": "usually at most"}[subject.axis]
    axis = Quantity(f"Axis error {known}", drift.axis_arcmin, "′", "ε", 2)
    turn = Quantity("Field rotation", float(np.degrees(drift.turn_rad_s)) * 3600, "° an hour", decimals=3)
    if wanted.drift_by == "rotation":
        return Working(
            "drift",
            "Field rotation about the guide star",
            "t = L / (ω (M − P) · s × half the diagonal)",
            (axis, turn, Quantity("Guiding leaves", choices.guide_rms_arcsec, "″ each way")),
            until,
            "Rotation of frames: M axis, P pole, s star, unit vectors",
            "published",
        )
    return Working(
        "drift",
        "Axis drift",
        "t = L s / |ds/dt + ω M × s|" if measured else "t = L s / (ω ε)",
        (
            axis,
            Quantity("Drift along dec", drift.dec_arcsec_s * 60, "″/min", decimals=2),
            Quantity("Drift along RA", drift.ra_arcsec_s * 60, "″/min", decimals=2),
            turn,
            scale,
        ),
        until,
        "Rotation of frames: M axis, s star as the air lifts it, unit vectors; refraction Bennett 1982"
        if measured
        else "ω (M − P) × s is ω ε at the worst: where the axis stands has not been measured tonight",
        "published",
    )

"""A test picture against what was planned: sky, histogram, clipped stars, width and trail; and what to reckon with from now on."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Literal

import numpy as np

from widedusk.core.errors import Checks
from widedusk.core.exposure.light import back_of_camera
from widedusk.core.exposure.setting import light_of
from widedusk.core.frames.facts import Lit
from widedusk.core.kit.optics import image_scale_arcsec_px
from widedusk.core.plan.outlook import Outlook, looked_at
from widedusk.core.scene import Spot
from widedusk.core.sky.brightness import EXTINCTION_SIGMA, EXTINCTION_V, airmass, combined, moonlight, twilight, zenith_of
from widedusk.core.sky.places import separation, star_place
from widedusk.core.tracking.drift import SIDEREAL_RATE_ARCSEC_S
from widedusk.core.tracking.elongation import tolerated_trail_px
from widedusk.core.tracking.keep_rate import elongations
from widedusk.core.verdict import Level, Quantity, Verdict, Working

SKY_AGREES_MAG = 0.25
SHARE_AGREES = 1.35  # times; gains and curves are not known better than that before they are measured
SKY_ROW = "Sky where it looks, mag/arcsec²"
WIDTH_AGREES = 0.1
MUCH_CLIPPED = 0.5  # percent of all pixels
SURE_DEG = 30.0  # of an axis of the mount, to say that stars are drawn out along it. Our own
NO_TRAIL = 1.08  # of any star's axes: below it nothing can be told from seeing and focus. Our own


@dataclass(frozen=True)
class Shot:
    """How the test picture was taken. mjd: middle of the exposure, where it is known; place: where it looks, ICRS degrees;
    up_deg: position angle of its upper edge; scale: of the pixels of the file."""

    iso: int
    exposure_s: float
    f_number: float
    mjd: float | None
    ra_deg: float
    dec_deg: float
    up_deg: float
    scale_arcsec_px: float
    mirrored: bool = False


@dataclass(frozen=True)
class TrialRow:
    """One figure as predicted and as measured; agrees is None where nothing is judged."""

    name: str
    predicted: str
    measured: str
    agrees: bool | None
    words: str


@dataclass(frozen=True)
class TrialOffer:
    """What to reckon with from now on; None: as before. before: what stands there now."""

    zenith_mag: float | None
    zenith_before: float
    star_fwhm_px: float | None
    star_before: float
    alignment_arcmin: float | None
    alignment_before: float


@dataclass(frozen=True)
class Trial:
    verdict: Verdict
    rows: Sequence[TrialRow]
    offer: TrialOffer


@dataclass(frozen=True)
class _Sky:
    predicted: float
    measured: float | None
    zenith: float | None  # that would make the prediction right
    airmass: float
    sigma: float = 0.0  # of what was measured, that of the extinction in it


def _sky(seen: Outlook, spot: Spot, shot: Shot, lit: Lit) -> _Sky:
    """Sky where the picture looks, at its minute; without a time, that of the window at the target."""
    night = seen.night
    at = int(np.searchsorted(night.mjd, shot.mjd)) if shot.mjd is not None else -1
    if not 0 < at < len(night.mjd):
        path = seen.path
        run = seen.run or (int(np.argmax(path.altitude)),) * 2
        middle = (run[0] + run[1]) // 2
        altitude, extra = path.altitude[middle], np.asarray(np.inf)
        predicted = seen.subject.sky_mag
    else:
        looked = replace(seen.subject.target, ra_deg=shot.ra_deg % 360.0, dec_deg=shot.dec_deg)
        _, path = looked_at(spot, night.evening, looked, seen.subject.choices)
        altitude, predicted = path.altitude[at], float(path.sky_mag[at])
        ra, dec = star_place(np.radians(shot.ra_deg), np.radians(shot.dec_deg), float(night.mjd[at]))
        apart = separation(ra, dec, night.moon_ra[at], night.moon_dec[at])
        moon = moonlight(np.pi / 2 - altitude, np.pi / 2 - night.moon_altitude[at], apart, night.moon_phase[at])
        extra = combined(np.asarray(moon), np.asarray(twilight(night.sun_altitude[at])))
    mass = float(airmass(altitude))
    if lit.sky_mag is None:
        return _Sky(predicted, None, None, mass)
    zenith = float(zenith_of(lit.sky_mag, np.asarray(altitude), extra))
    sigma = float(np.hypot(lit.sky_sigma or 0.0, EXTINCTION_SIGMA * mass))
    return _Sky(predicted, lit.sky_mag + EXTINCTION_V * mass, zenith if np.isfinite(zenith) else None, mass, sigma)


Along = Literal["ra", "dec", "between"]
TRAIL_WORDS: dict[Along, str] = {
    "ra": "along RA: periodic error or the wrong rate",
    "dec": "along declination: the axis",
    "between": "across both: axis and worm together, or wind; another picture tells more",
}


def _along(lit: Lit, shot: Shot) -> Along:
    """Along which axis of the mount the stars are drawn out, within SURE_DEG; else between them."""
    turned = lit.trail_deg if not shot.mirrored else -lit.trail_deg
    from_dec = abs((shot.up_deg - 90.0 - turned + 90.0) % 180.0 - 90.0)
    return "dec" if from_dec <= SURE_DEG else "ra" if from_dec >= 90.0 - SURE_DEG else "between"


def _sky_row(sky: _Sky, lit: Lit) -> TrialRow:
    predicted = f"{sky.predicted:.2f}"
    if sky.measured is None:
        return TrialRow(SKY_ROW, predicted, "not told", None, lit.why_no_sky)
    off = sky.measured - sky.predicted
    agrees = abs(off) < max(SKY_AGREES_MAG, sky.sigma)
    words = "as planned" if agrees else f"{abs(off):.2f} mag {'brighter' if off < 0 else 'darker'} than planned"
    return TrialRow(SKY_ROW, predicted, f"{sky.measured:.2f} ± {sky.sigma:.2f}", agrees, words)


def _share_rows(share: float, lit: Lit) -> list[TrialRow]:
    ratio = lit.background_share / max(share, 1e-9)
    agrees: bool | None = 1.0 / SHARE_AGREES < ratio < SHARE_AGREES
    words = "as planned" if agrees else f"{ratio:.1f} times the plan" if ratio > 1 else f"{ratio:.2f} of the plan"
    if lit.background_share <= 0.0:
        agrees, words = None, "the sky is below what this picture can show: expose longer"
    on_camera = [f"{float(back_of_camera(one)) * 100:.0f} %" for one in (share, lit.background_share)]
    cores = "cores of bright stars" if lit.clipped_percent < MUCH_CLIPPED else "much: shorten, or lower the ISO"
    curve = "from the left, through the sRGB curve; your body bends it a little more"
    return [
        TrialRow("Sky fills", f"{share * 100:.2f} % of clip", f"{lit.background_share * 100:.2f} %", agrees, words),
        TrialRow("On the camera's histogram", on_camera[0], on_camera[1], None, curve),
        TrialRow("Pixels that clip", "", f"{lit.clipped_percent:.3f} %", None, cores),
    ]


def trial(seen: Outlook, spot: Spot, shot: Shot, lit: Lit) -> Trial:
    """Compare a test picture with the plan. Raises InvalidInput for an ISO outside the camera's table or an odd exposure."""
    checks = Checks()
    checks.within("exposure_s", shot.exposure_s, 1e-3, 3600, "s")
    checks.within("f_number", shot.f_number, 0.7, 64)
    checks.done()
    rig, choices, wanted = seen.subject.rig, seen.subject.choices, seen.wanted
    # A body set to smaller pictures writes larger pixels; widths are told in those of the sensor.
    scale = float(image_scale_arcsec_px(rig.camera.pitch_um, rig.lens.focal_mm))
    larger = shot.scale_arcsec_px / scale
    lit = replace(lit, fwhm_px=lit.fwhm_px * larger, long_px=lit.long_px * larger)
    step = rig.camera.step(shot.iso)
    sky = _sky(seen, spot, shot, lit)
    here = light_of(replace(seen.subject, sky_mag=sky.predicted), shot.f_number)
    spread = elongations(wanted.motion, np.array([shot.exposure_s]), wanted.star_fwhm_px)[0]
    usual, worst = float(np.median(spread)), float(np.quantile(spread, 0.95))
    ratio = lit.axis_ratio
    along = _along(lit, shot)
    sharp = abs(lit.fwhm_px / wanted.star_fwhm_px - 1.0) < WIDTH_AGREES
    trailed = ratio > max(NO_TRAIL, worst * 1.05)
    softer = "sharper" if lit.fwhm_px < wanted.star_fwhm_px else "softer: focus, dew or haze"
    rows = (
        _sky_row(sky, lit),
        *_share_rows(here.background_e_s * shot.exposure_s / step.full_well_e, lit),
        TrialRow(
            "Width of a star", f"{wanted.star_fwhm_px:.2f} px", f"{lit.fwhm_px:.2f} px", sharp, "as planned" if sharp else softer
        ),
        TrialRow(
            "Long over short axis",
            f"{usual:.2f}, up to {worst:.2f}",
            f"{ratio:.2f}",
            not trailed,
            f"drawn out {TRAIL_WORDS[along]}" if ratio > NO_TRAIL else "round",
        ),
    )
    # The even trail that makes such stars, as the least error of an axis that would cause it. Only a trail along declination is
    # the axis's own: along RA it cannot be told from the worm.
    trail_arcsec = tolerated_trail_px(max(ratio, 1.0), lit.fwhm_px) * scale
    axis_arcmin = float(np.degrees(trail_arcsec / (shot.exposure_s * SIDEREAL_RATE_ARCSEC_S))) * 60.0
    off = None if sky.measured is None else abs(sky.measured - sky.predicted)
    new_sky = sky.zenith is not None and off is not None and off >= max(SKY_AGREES_MAG / 2, sky.sigma)
    offer = TrialOffer(
        round(float(np.clip(sky.zenith or 0.0, 14.0, 22.2)), 2) if new_sky else None,
        spot.sky_mag,
        None if sharp else round(float(np.clip(lit.fwhm_px, 1.0, 15.0)), 2),
        rig.star_fwhm_px,
        round(float(np.clip(axis_arcmin, 0.1, 600.0)), 1) if trailed and along == "dec" else None,
        choices.alignment_arcmin,
    )
    return Trial(_verdict(rows, offer, sky, lit), rows, offer)


def _verdict(rows: Sequence[TrialRow], offer: TrialOffer, sky: _Sky, lit: Lit) -> Verdict:
    wrong = [row for row in rows if row.agrees is False]
    level: Level = "go" if not wrong else "care"
    if not wrong:
        sentence = "The picture is what was planned."
    else:
        sentence = "; ".join(f"{row.name.partition(',')[0].lower()}: {row.words}" for row in wrong) + "."
        sentence = sentence[0].upper() + sentence[1:]
    advice = []
    if offer.zenith_mag is not None:
        advice.append(f"Use a zenith of {offer.zenith_mag:.2f} mag/arcsec² here instead of {offer.zenith_before:.2f}.")
    elif sky.measured is not None and sky.zenith is None:
        advice.append("Moon and twilight drown the sky's own light now; the place's darkness cannot be told from this picture.")
    if offer.alignment_arcmin is not None:
        advice.append(f"Its trail is that of an axis at least {offer.alignment_arcmin:g}′ off.")
    return Verdict(
        "Test picture",
        level,
        sentence,
        f"{lit.stars} listed stars in the picture itself" if lit.sky_mag is not None else "the stars' shapes alone",
        " ".join(advice),
        figures=(
            Quantity("Sky measured", sky.measured, "mag/arcsec²", decimals=2, working="sky")
            if sky.measured is not None
            else Quantity("Sky measured", text="not told", working="sky"),
            Quantity("Width", lit.fwhm_px, "px", decimals=2, working="shape"),
            Quantity("Long over short axis", lit.axis_ratio, "", decimals=2, working="shape"),
        ),
        workings=(
            Working(
                "sky",
                "Sky against the stars",
                "μ = Z − 2.5 log₁₀(B / s²) + k X,  Z by a straight line through V + 2.5 log₁₀ F over colour, at the sky's",
                (
                    Quantity("Stars compared", lit.stars, "", decimals=0),
                    Quantity("Airmass", sky.airmass, "", "X", 2),
                    Quantity("Extinction", EXTINCTION_V, "mag an airmass", "k", 2),
                    Quantity("Sky in the middle", lit.background_share * 100, "% of clip", "B", 2),
                ),
                Quantity("Sky", sky.measured, "mag/arcsec²", "μ", 2)
                if sky.measured is not None
                else Quantity("Sky", text=lit.why_no_sky),
                "Aperture photometry of stars of Gaia DR3 in the same picture; V by colour, Riello et al. 2021; the sky's colour "
                "B − V = 1.0, Patat 2003",
                "published",
                "Gain, exposure and aperture drop out. Starlight beyond the circle that is counted is told by the brightest. Of "
                "a JPEG nothing is said unless its stars follow the usual curve: what the camera's own does below the sky no star "
                "tells.",
            ),
            Working(
                "shape",
                "Shape of the stars",
                "adaptive Gaussian moments; width 2.355 σ along and across",
                (
                    Quantity("Along", lit.long_px, "px", decimals=2),
                    Quantity("Across", lit.fwhm_px, "px", decimals=2),
                    Quantity("Direction", lit.trail_deg, "° from right towards down", decimals=0),
                ),
                Quantity("Long over short axis", lit.axis_ratio, "", decimals=2),
                "Bernstein & Jarvis 2002, AJ 123, 583",
                "published",
            ),
        ),
    )

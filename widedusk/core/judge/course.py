"""A run as arrays over its frames: what each was measured to be, on one scale, with the night around it taken off.

Lengths are pixels of the file. East and north are the sky's; a run whose frames could not be solved has no such directions, and
what hangs on them is NaN.
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from widedusk.core.frames.facts import ZONE_COLUMNS, ZONE_ROWS, FrameFacts, FrameKind, MeanStar, Zone
from widedusk.core.sky.brightness import EXTINCTION_V, airmass, combined, dark_sky, flux, moonlight, twilight
from widedusk.core.sky.horizon import altaz
from widedusk.core.sky.places import Observer, moon_phase_angle, moon_place, separation, sun_place
from widedusk.core.sky.time import SECOND, Floats
from widedusk.core.tracking.drift import SIDEREAL_RATE_ARCSEC_S
from widedusk.core.tracking.elongation import FWHM_PER_SIGMA
from widedusk.core.tracking.even_trail import true_excess

GOOD_SHARE = 0.85  # of the frames of a run, from the worst: there its good frames are
UNSURE_MAG = 0.1  # of a zero point, beyond which its few stars clip or crowd and it tells nothing
# How well a width is known: of a lens measured at that stop, learned from this rig's frames, given by hand, by the book. Our own,
# and common practice that seeing, focus and colours that are put in make a tenth from night to night.
MEASURED_SPREAD, LEARNED_SPREAD, BY_HAND_SPREAD, USUAL_SPREAD = 0.12, 0.1, 0.15, 0.25
SEEING_ARCSEC = 3.0
OTHER_SIZE = 1.2  # times the pixels of another, from which a picture was saved at another size
SURELY_WIDE = 2.5  # spreads above the width expected, from which stars are too wide. Our own
# Stars of a zone in frames that show most, and the share of them below which it has lost its stars. Our own.
HAD_STARS, LOST = 4, 0.3
SHARPEST = 0.1  # of the frames: how wide stars are at their best
DOUBLED = 1.4  # times the stars of other frames
CAPPED_SHARE = 0.1  # of the background of frames with a sky, below which a nameless frame has none
CAPPED_LEVEL = 0.003  # of what a pixel holds: where the whole run has no sky
HOT_PIXEL_PX, NARROW = 1.7, 0.6  # FWHM of what is one pixel wide; of the width in most frames, below which one shows none
ZENITH_MAG = 21.5  # of a dark sky; only how much the Moon adds to it hangs on that


@dataclass(frozen=True)
class Shot:
    """One frame of a run. began_mjd: UTC."""

    name: str
    began_mjd: float
    exposure_s: float
    facts: FrameFacts
    iso: int | None = None
    f_number: float | None = None


@dataclass(frozen=True)
class ExpectedWidth:
    """FWHM of this rig's untrailed stars in focus, px, and its spread as a share: seeing, colours put in, and how well it is
    known. side_px: long side of the pictures whose pixels it counts; none where that is not known."""

    px: float
    spread: float
    side_px: float | None = None

    @property
    def max_px(self) -> float:
        """Beyond it stars are wider than that spread explains."""
        return float(self.px * np.exp(SURELY_WIDE * self.spread))

    def holds_for(self, side_px: float | None) -> bool:
        """Whether it is of pixels like those of a file with such a long side: one saved at another size has others."""
        return same_size(self.side_px, side_px)


def same_size(side_px: float | None, other_px: float | None) -> bool:
    """Whether two pictures of one sensor have as many pixels, but for some lines at their edges; so too where nobody knows."""
    if not side_px or not other_px:
        return True
    return max(side_px, other_px) < OTHER_SIZE * min(side_px, other_px)


def typical_width(px: float, arcsec_px: float) -> float:
    """FWHM of stars through a typical lens, px, with the air's own in it. Common practice, no source: 3 arcsec of seeing."""
    return float(np.hypot(px, SEEING_ARCSEC / arcsec_px))


@dataclass(frozen=True)
class Around:
    """The night around the frames, each (frames,): thickness of the air, and how bright the sky ought to be against the
    darkest of them, by Sun and Moon."""

    airmass: Floats
    natural: Floats


@dataclass(frozen=True)
class Lights:
    """Where a run looks and what Sun and Moon add there, (n,): altitude, radians, and mag/arcsec², infinite for none."""

    altitude: Floats
    added_mag: Floats


@dataclass(frozen=True)
class Looks:
    """When and where the frames of a run looked and how bright the sky was behind, each (n,): began_mjd UTC, exposure_s, ra_deg and
    dec_deg of the middle, sky_mag and its sigma against stars above the air, background as a share of what a pixel holds. NaN where
    a frame does not tell."""

    began_mjd: Floats
    exposure_s: Floats
    ra_deg: Floats
    dec_deg: Floats
    sky_mag: Floats
    sky_sigma: Floats
    background: Floats

    @property
    def count(self) -> int:
        return int(self.began_mjd.size)


def looks_of(shots: Sequence[Shot]) -> Looks:
    looks = [one.facts.pointing for one in shots]
    return Looks(
        np.array([one.began_mjd for one in shots]),
        np.array([one.exposure_s for one in shots]),
        _column([None if one is None else one.ra_deg for one in looks]),
        _column([None if one is None else one.dec_deg for one in looks]),
        _column([one.facts.sky_mag for one in shots]),
        _column([one.facts.sky_sigma for one in shots]),
        np.array([one.facts.background for one in shots]),
    )


def lights(looks: Looks, observer: Observer) -> Lights | None:
    """None where no frame is solved."""
    mjd = looks.began_mjd + looks.exposure_s / 2 * SECOND
    if not np.isfinite(looks.ra_deg).any():
        return None
    ra, dec = np.radians(np.nanmedian(looks.ra_deg)), np.radians(np.nanmedian(looks.dec_deg))
    altitude, _ = altaz(np.asarray(ra), np.asarray(dec), mjd, observer)
    sun, moon = sun_place(observer, mjd), moon_place(observer, mjd)
    sun_altitude, _ = altaz(sun.ra, sun.dec, mjd, observer)
    moon_altitude, _ = altaz(moon.ra, moon.dec, mjd, observer)
    apart = separation(np.asarray(ra), np.asarray(dec), moon.ra, moon.dec)
    lit = moonlight(np.pi / 2 - altitude, np.pi / 2 - moon_altitude, apart, moon_phase_angle(mjd))
    return Lights(altitude, combined(lit, twilight(sun_altitude)))


def around(looks: Looks, observer: Observer) -> Around:
    """By where the frames look, as far as any of them is solved; else as if nothing changed."""
    seen = lights(looks, observer)
    if seen is None:
        return Around(np.ones(looks.count), np.ones(looks.count))
    light = flux(combined(dark_sky(ZENITH_MAG, seen.altitude), seen.added_mag))
    return Around(airmass(seen.altitude), np.asarray(light / light.min()))


@dataclass(frozen=True)
class Course:
    """Arrays over the frames of a run, (n,) where nothing else is said.

    seconds: of the middle of each, since the first began. has_stars: enough to be judged. width: FWHM across the trail;
    trail: variance that motion adds along its direction, corrected for how it was measured, px²; east, north, across: of that
    as a tensor (east-east, north-north, east-north), NaN where a frame is not solved; right, down, slant: the same in the
    picture. clear: share of starlight against the run's best, extinction taken off. sky: background against that of the run's
    good frames, Sun and Moon taken off (`natural` is theirs). path: middle among the stars against the median, px east and north,
    (n, 2). zones: variances and covariance by zone, (n, 15, 3); zone_zero, zone_sky: (n, 15). double: stars stand twice, each with
    a part of its light. clipped: percent of the pixels. good_width: of stars in good frames. lost: zones that had stars and have
    none of them any more, (n, 15); unlost: share of those that had stars which still have them, (n,). too_wide: stars are wider
    than expected even in the sharpest frames.
    """

    shots: Sequence[Shot]
    seconds: Floats
    exposure: Floats
    has_stars: NDArray[np.bool_]
    black: NDArray[np.bool_]
    width: Floats
    elongation: Floats
    trail: Floats
    east: Floats
    north: Floats
    across: Floats
    right: Floats
    down: Floats
    slant: Floats
    clear: Floats
    sky: Floats
    level: Floats
    natural: Floats
    noise: Floats
    sources: Floats
    halo: Floats
    flat: Floats
    second: Floats
    path: Floats
    angle_deg: Floats
    scale: float
    dec_deg: float
    zones: Floats
    zone_stars: Floats
    zone_zero: Floats
    zone_sky: Floats
    zone_x: Floats
    zone_y: Floats
    zero_sigma: Floats
    double: NDArray[np.bool_]
    clipped: Floats
    good_width: float
    lost: NDArray[np.bool_]
    unlost: Floats
    too_wide: bool = False

    @property
    def count(self) -> int:
        return len(self.shots)

    @property
    def still_px(self) -> Floats:
        """How far a camera that stands still is left behind by the stars while a frame is open."""
        return np.asarray(SIDEREAL_RATE_ARCSEC_S * np.cos(np.radians(self.dec_deg)) * self.exposure / self.scale)

    @property
    def field_elongation(self) -> Floats:
        """As `elongation`, the median over the zones instead of the middle alone: for a field that turns."""
        short, beyond, _ = _principal(*np.moveaxis(self.zones, 2, 0))
        return np.sqrt(1.0 + true_excess(middle(beyond / short, axis=1)))

    @property
    def trail_px(self) -> Floats:
        """Length of an even trail that adds as much."""
        return np.asarray(np.sqrt(12.0 * self.trail))


def _column(values: Sequence[float | None]) -> Floats:
    return np.array([np.nan if one is None else one for one in values], dtype=float)


def _principal(xx: Floats, yy: Floats, xy: Floats) -> tuple[Floats, Floats, Floats]:
    """Smaller variance, what the larger has beyond it, and the direction of the larger, radians from x towards y."""
    mean, spread = (xx + yy) / 2, np.hypot((xx - yy) / 2, xy)
    return np.maximum(mean - spread, 0.05), 2 * spread, 0.5 * np.arctan2(2 * xy, xx - yy)


def _shape(shapes: Sequence[MeanStar | None]) -> tuple[Floats, Floats, Floats]:
    xx, yy, xy = (_column([None if one is None else getattr(one, name) for one in shapes]) for name in ("xx", "yy", "xy"))
    return xx, yy, xy


def _noise(facts: Sequence[FrameFacts], level: Floats) -> Floats:
    """Noise of a pixel, shares of what it holds. A JPEG has lost its own: there it goes with the root of the background's light,
    on the scale of the whole run."""
    measured = np.array([one.noise for one in facts])
    if not any(one.curved for one in facts):
        return measured
    usual = max(float(np.median(level)), 1e-9)
    return np.asarray(np.median(measured) * np.sqrt(np.maximum(level, 0.05 * usual) / usual))


def quantile(values: Floats, share: float, otherwise: float) -> float:
    finite = values[np.isfinite(values)]
    return float(np.quantile(finite, share)) if finite.size else otherwise


def middle(values: Floats, axis: int = 0) -> Floats:
    """Median of what is known along an axis; NaN where nothing is."""
    masked: Any = np.ma
    return np.asarray(masked.median(masked.masked_invalid(values), axis=axis).filled(np.nan))


def deviation(values: Floats, axis: int = 1) -> Floats:
    """Standard deviation of what is known along an axis; NaN where nothing is."""
    masked: Any = np.ma
    return np.asarray(masked.std(masked.masked_invalid(values), axis=axis).filled(np.nan))


def without_caps(facts: Sequence[FrameFacts]) -> list[FrameFacts]:
    """Frames without sky as what they are: no star in them has a name, and their background is next to nothing against that of
    frames with a sky. What looks like stars there are hot pixels."""
    named = [one.background for one in facts if one.pointing is not None and one.kind == "light"]
    lit = float(np.median(named)) if named else max((one.background for one in facts), default=0.0)

    def capped(one: FrameFacts) -> bool:
        if one.pointing is not None or one.matched:
            return False
        if one.kind in {"dark", "bias"}:
            return True
        pinned = one.star is not None and _width_px(one.star) < HOT_PIXEL_PX
        return one.background < CAPPED_SHARE * lit or (one.background < CAPPED_LEVEL and pinned)

    widths = [_width_px(one.star) for one in facts if one.pointing is not None and one.star is not None]
    narrow = NARROW * float(np.median(widths)) if widths else 0.0

    def pixels_only(one: FrameFacts) -> bool:
        return one.star is not None and _width_px(one.star) < min(narrow, HOT_PIXEL_PX)

    return [_starless(one, "dark") if capped(one) else _starless(one, one.kind) if pixels_only(one) else one for one in facts]


def _width_px(star: MeanStar) -> float:
    return float(FWHM_PER_SIGMA * np.sqrt((star.xx + star.yy) / 2))


def _starless(one: FrameFacts, kind: FrameKind) -> FrameFacts:
    """As a frame without stars is measured."""
    return replace(
        one,
        kind=kind,
        sources=0,
        star=None,
        profile=None,
        zones=tuple(Zone(None, None, zone.background) for zone in one.zones),
        zero_mag=None,
        zero_sigma=None,
        sky_mag=None,
        sky_sigma=None,
    )


def _lost(stars: Floats, capped: NDArray[np.bool_]) -> tuple[NDArray[np.bool_], Floats]:
    """Zones that lost their stars, beyond what all zones lose; and the share that is left. stars: (n, 15)."""
    had = np.quantile(stars[~capped] if (~capped).any() else stars, 0.75, axis=0)
    rich = had >= HAD_STARS
    if np.count_nonzero(rich) < 6:
        return np.zeros(stars.shape, dtype=bool), np.ones(len(stars))
    share = stars[:, rich] / had[rich]
    best = np.minimum(np.quantile(share, 0.8, axis=1), 1.0)  # where a frame lost least
    lost = np.zeros(stars.shape, dtype=bool)
    lost[:, rich] = share < LOST * best[:, None]
    return lost, np.where(best > 0.2, 1.0 - lost[:, rich].mean(axis=1), 1.0)


def course(shots: Sequence[Shot], night: Around, expected: ExpectedWidth | None = None) -> Course:
    """Lay the facts of a run out. expected: width of this rig's stars, as well as it is known before."""
    facts = without_caps([one.facts for one in shots])
    seconds = np.array([(one.began_mjd - shots[0].began_mjd) / SECOND + one.exposure_s / 2 for one in shots])
    exposure = np.array([one.exposure_s for one in shots])
    xx, yy, xy = _shape([one.star for one in facts])
    short, beyond, turned = _principal(xx, yy, xy)
    trail = short * true_excess(np.nan_to_num(beyond / short))
    trail = np.where(np.isfinite(xx), trail, np.nan)
    right, down, slant = trail * np.cos(turned) ** 2, trail * np.sin(turned) ** 2, trail * np.cos(turned) * np.sin(turned)
    looks = [one.pointing for one in facts]
    ra, dec, angle, scale = (
        _column([None if one is None else getattr(one, name) for one in looks])
        for name in ("ra_deg", "dec_deg", "angle_deg", "scale_arcsec_px")
    )
    mirrored = np.array([one is not None and one.mirrored for one in looks])
    dec_deg, arcsec = quantile(dec, 0.5, 0.0), quantile(scale, 0.5, 1.0)
    # Towards east and north in the picture: the upper edge has this position angle.
    a, flip = np.radians(angle), np.where(mirrored, -1.0, 1.0)
    east = np.stack([-np.cos(a) * flip, -np.sin(a)], axis=1)
    north = np.stack([np.sin(a) * flip, -np.cos(a)], axis=1)

    def along(one: Floats, other: Floats) -> Floats:
        return np.asarray(
            one[:, 0] * other[:, 0] * right + one[:, 1] * other[:, 1] * down
            + (one[:, 0] * other[:, 1] + one[:, 1] * other[:, 0]) * slant
        )  # fmt: skip

    middle_ra = np.nanmedian(np.unwrap(np.radians(ra[np.isfinite(ra)]))) if np.isfinite(ra).any() else 0.0
    off_ra = (np.degrees(np.angle(np.exp(1j * (np.radians(ra) - middle_ra))))) * np.cos(np.radians(dec_deg)) * 3600 / arcsec
    path = np.stack([off_ra, (dec - dec_deg) * 3600 / arcsec], axis=1)

    sure = [one.zero_mag if one.zero_sigma is not None and one.zero_sigma < UNSURE_MAG else None for one in facts]
    zero = _column(sure) + EXTINCTION_V * (night.airmass - 1.0)
    # In a long trail more light is counted: frames without one tell what a clear sky gives.
    plain = beyond / short < 1.0
    best = quantile(np.where(plain, zero, np.nan) if np.count_nonzero(plain & np.isfinite(zero)) > 2 else zero, GOOD_SHARE, 0.0)
    level = np.array([one.background for one in facts])
    rate = level / exposure / night.natural
    black = np.array([one.kind in {"dark", "bias"} for one in facts])
    usual = max(quantile(np.where(black, np.nan, rate), 0.5, 1e-9), 1e-9)
    sources = np.array([float(one.sources) for one in facts])
    zone_xx, zone_yy, zone_xy = (
        np.array([_shape([zone.star for zone in one.zones])[part] for one in facts]) for part in range(3)
    )  # each (n, 15)
    width = FWHM_PER_SIGMA * np.sqrt(short)
    outlines = np.array([one.star is None or one.star.stars == 0 for one in facts])
    if not outlines.all():  # outlines of clipped stars are on a scale of their own
        width = np.where(outlines, np.nan, width)
    sound = quantile(width, SHARPEST, 2.5)
    profiles = [one.profile for one in facts]
    halo, flat, second = (
        _column([None if one is None else getattr(one, name) for one in profiles]) for name in ("halo", "flat", "second")
    )
    zone_stars = np.array([[0 if zone.star is None else zone.star.stars for zone in one.zones] for one in facts], dtype=float)
    too_wide = expected is not None and sound > expected.max_px
    columns, rows = (np.arange(ZONE_COLUMNS) + 0.5) / ZONE_COLUMNS - 0.5, (np.arange(ZONE_ROWS) + 0.5) / ZONE_ROWS - 0.5
    return Course(
        shots,
        seconds,
        exposure,
        np.isfinite(xx),
        black,
        width,
        np.sqrt(1.0 + trail / short),
        trail,
        along(east, east),
        along(north, north),
        along(east, north),
        right,
        down,
        slant,
        np.asarray(10.0 ** (-0.4 * (best - zero))),
        np.asarray(rate / usual),
        level,
        night.natural,
        _noise(facts, level),
        sources,
        halo,
        flat,
        second,
        path,
        angle,
        arcsec,
        dec_deg,
        np.stack([zone_xx, zone_yy, zone_xy], axis=2),
        zone_stars,
        np.array([_column([zone.zero_mag for zone in one.zones]) for one in facts]),
        np.array([[zone.background for zone in one.zones] for one in facts]),
        np.tile(columns, ZONE_ROWS),
        np.repeat(rows, ZONE_COLUMNS),
        _column([one.zero_sigma for one in facts]),
        # double, then the percentage of pixels that are white
        (sources > DOUBLED * np.median(sources)) & (np.nan_to_num(10.0 ** (-0.4 * (best - zero)), nan=1.0) < 0.85),
        np.array([one.clipped_percent for one in facts]),
        expected.px * float(np.exp(expected.spread)) if expected is not None and too_wide else sound,
        *_lost(zone_stars, black),
        too_wide,
    )

"""What one picture says of its sky and its stars."""

from dataclasses import dataclass
from typing import Literal

from widedusk.core.frames.pointing import Pointing

FrameKind = Literal["light", "dark", "flat", "bias"]
StreakKind = Literal["satellite", "aircraft", "meteor"]
ZONE_COLUMNS, ZONE_ROWS = 5, 3


@dataclass(frozen=True)
class Lit:
    """Facts of one picture. sky_mag: mag/arcsec² against stars as they are above the air, not yet freed of extinction;
    lengths in pixels of the file."""

    sky_mag: float | None
    sky_sigma: float | None
    why_no_sky: str
    background_share: float  # of the clip level, in the middle
    clipped_percent: float
    fwhm_px: float  # across the trail
    long_px: float  # along it
    axis_ratio: float
    trail_deg: float
    stars: int  # that the sky was compared with


@dataclass(frozen=True)
class MeanStar:
    """Of the typical star: variances and covariance of its light, pixels of the file squared, x right and y down.

    stars: that it is the median of; none where it is of outlines alone, because every star clips or crowds."""

    stars: int
    xx: float
    yy: float
    xy: float


@dataclass(frozen=True)
class Zone:
    """One of five by three parts of the picture. zero_mag: magnitude of a star that gives one count a second there, a count
    being the whole of what a pixel can hold; background: share of that."""

    star: MeanStar | None
    zero_mag: float | None
    background: float


@dataclass(frozen=True)
class Profile:
    """Of the mean star. halo: share of its light between two and five widths from its middle, beyond what a Gaussian has there;
    flat: light in the middle against that half a width out, 2 for a Gaussian, about 1 for a disc, below 1 for a ring;
    second: height of a second peak beside it, as a share of its own."""

    halo: float
    flat: float
    second: float


@dataclass(frozen=True)
class Streak:
    """From and to in shares of the picture's sides, from its upper left; length in pixels of the file."""

    kind: StreakKind
    from_x: float
    from_y: float
    to_x: float
    to_y: float
    long_px: float
    sigma: float  # how far its light stands above that along lines beside it, in their scatter


@dataclass(frozen=True)
class FrameFacts:
    """Everything a frame is judged by. Zones row by row from the upper left; shares are of what a pixel can hold.

    star, profile, zero_mag: none where there are too few stars; pointing, sky_mag: where stars could not be named.
    """

    kind: FrameKind
    sources: int
    matched: int
    background: float
    noise: float
    clipped_percent: float
    star: MeanStar | None
    profile: Profile | None
    zones: tuple[Zone, ...]
    zero_mag: float | None
    zero_sigma: float | None
    sky_mag: float | None
    sky_sigma: float | None
    why_no_sky: str
    pointing: Pointing | None
    streaks: tuple[Streak, ...]
    curved: bool = False  # it went through a tone curve and was packed: its noise is not that of the light

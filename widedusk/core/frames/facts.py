"""What one picture says of its sky and its stars."""

from dataclasses import dataclass


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

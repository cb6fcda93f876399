"""One picture, from the file to the stars it shows; and what to say when it shows none."""

from collections.abc import Callable
from dataclasses import dataclass
from io import BytesIO
from pathlib import Path

import numpy as np
import tetra3rs
from PIL import Image

from widedusk.core.errors import Fault, InvalidInput
from widedusk.core.frames.blocks import brightest, means
from widedusk.core.frames.facts import Lit
from widedusk.core.frames.header import Header
from widedusk.core.frames.lit import clipped_percent, lit, middle_background
from widedusk.core.frames.matched import Matched
from widedusk.core.frames.patterns import NARROWEST_DEG, WIDEST_DEG
from widedusk.core.frames.read import Plane, read_picture
from widedusk.core.frames.shapes import Shape, typical_shape
from widedusk.core.frames.solve import focal_px_of, identify
from widedusk.core.frames.stars import MOST_STARS, Found, find_stars

PREVIEW_PX = 1200
Progress = Callable[[float, str], None]  # share done, what is being done


@dataclass(frozen=True)
class Measured:
    """A picture whose stars are known. Pixel figures are those of the plane, `binning` times coarser than the file's."""

    header: Header
    binning: int
    found: Found
    matched: Matched
    preview: bytes
    clip: float
    shape: Shape | None  # of the typical star; None where too few can be measured
    lit: Lit | None = None  # where the light was asked for

    @property
    def corner_px(self) -> float:
        return float(np.hypot(self.found.width_px, self.found.height_px) / 2.0)

    @property
    def star(self) -> tuple[float, float]:
        """Width of a star across its trail in pixels of the file, and its long over its short axis, as every page tells them."""
        if self.shape is None:
            return self.found.fwhm_px * self.binning, self.found.axis_ratio
        of_file = self.shape.in_file(self.binning)
        return of_file.short_px, of_file.ratio


def drawn_small(plane: Plane, background: float, noise: float) -> bytes:
    """A small JPEG, stretched from a little below the sky to where its brighter stars clip."""
    step = max(int(np.ceil(plane.shape[1] / PREVIEW_PX)), 1)
    small = 0.5 * brightest(plane, step) + 0.5 * means(plane, step)  # else the stars fade between the pixels
    low, high = background - 2 * noise, background + 40 * noise
    codes = np.sqrt(np.clip((small - low) / max(high - low, 1e-9), 0.0, 1.0)) * 255
    out = BytesIO()
    Image.fromarray(codes.astype(np.uint8)).save(out, "JPEG", quality=80)
    return out.getvalue()


def measure(
    path: Path,
    book: tetra3rs.SolverDatabase,
    sensor_width_mm: float | None,
    focal_mm: float | None,
    progress: Progress,
    light: bool = False,
) -> Measured:
    """Read a picture and name its stars. Raises InvalidInput with a plain sentence when that cannot be done.

    sensor_width_mm: of the long side. focal_mm: as set or written, within 12 %; None for either: every field is tried.
    light: measure how bright its sky is and how its stars look, too.
    """
    progress(0.0, "reading the picture")
    picture = read_picture(path)
    progress(0.35, "finding stars")
    plane = picture.plane
    # The preview first: finding stars takes the background off in place.
    sample = plane[::7, ::7]
    middle = float(np.median(sample))
    noise = 1.4826 * float(np.median(np.abs(sample - middle)))
    preview = drawn_small(plane, middle, max(noise, 1e-6))
    background = middle_background(plane) if light else 0.0
    clipped = clipped_percent(plane, picture.clip) if light else 0.0
    found = find_stars(plane, MOST_STARS * 4 if light else MOST_STARS)
    progress(0.7, f"naming {found.count} stars")
    focal_px = None
    if focal_mm is not None and sensor_width_mm is not None:
        focal_px = focal_mm / sensor_width_mm * max(found.width_px, found.height_px)
        narrow, wide = (focal_px_of(field, found.width_px) for field in (NARROWEST_DEG, WIDEST_DEG))
        if not 0.9 * wide <= focal_px <= 1.1 * narrow:
            raise InvalidInput(
                [
                    Fault(
                        "focal_mm",
                        focal_mm,
                        f"{focal_mm:g} mm on this sensor sees a field outside {NARROWEST_DEG:.0f}° to {WIDEST_DEG:.0f}°, "
                        "which is what can be recognised. Put the focal length right, or use another lens for this.",
                    )
                ]
            )
    matched = identify(book, found, focal_px)
    if matched is None:
        raise InvalidInput([Fault("picture", path.name, f"“{path.name}”: {why_not(found, picture.clip, focal_mm)}")])
    shape = typical_shape(plane, found.x, found.y, found.fwhm_px, picture.clip - found.background)
    told = None
    if light:
        progress(0.9, "measuring sky and stars")
        told = lit(plane, background, clipped, picture.clip, found, matched, shape, picture.binning, path.name, picture.curved)
    progress(1.0, f"{matched.x.size} stars known")
    return Measured(picture.header, picture.binning, found, matched, preview, picture.clip, shape, told)


ONE_PIXEL = 1.8  # width below which points of light are hot pixels rather than stars; a lone one comes out as 1.67


def why_not(found: Found, clip: float, focal_mm: float | None) -> str:
    """The likeliest reason why no stars could be named, and what to do next."""
    dark = found.background < 0.002 * clip
    if found.background > 0.5 * clip:
        return (
            "It is nearly white: twilight, a lamp, or far too long. Take it darker, with the sky below the middle of the histogram."
        )
    pointlike = 0.0 < found.fwhm_px < ONE_PIXEL
    if dark and (found.count < 12 or pointlike):
        size = ", each a single pixel" if pointlike else ""
        return (
            f"It is black, with {found.count} points of light{size}: is the cap on? Else expose longer or raise the ISO "
            "until stars show on the camera's screen."
        )
    if found.count < 12:
        return (
            f"It shows {found.count} stars only: cloud, fog or dew, or a lens out of focus. "
            "Look through the camera, wipe, focus, take it again."
        )
    if found.axis_ratio > 2.0 and found.alike > 0.6:
        return (
            f"Its stars are {found.axis_ratio:.1f} times as long as wide, all the same way: "
            "the tracker stood still or was touched. Start it, or expose 2 to 10 s, and take it again."
        )
    if found.fwhm_px > 9.0:
        return f"Its stars are {found.fwhm_px:.0f} px wide: out of focus. Focus on a bright star and take it again."
    lens = f" Are {focal_mm:g} mm and the size of the sensor right?" if focal_mm else " Say which focal length it was taken with."
    black = " Its sky is black: was the cap on, or the exposure too short?" if dark else ""
    return (
        f"None of its {found.count} points of light could be named.{lens}{black} Ground, cloud or many satellites hinder too: "
        "look 30° to 70° up at open sky."
    )

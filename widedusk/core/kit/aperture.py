"""The f-number in use, and what the rig sees with it."""

from typing import Literal

import numpy as np

from widedusk.core.kit.optics import crop_factor, field_of_view_rad, image_scale_arcsec_px, ring_f_number, stops_between
from widedusk.core.kit.parts import Camera, Lens
from widedusk.core.verdict import Level, Limit, Quantity, Verdict, Working

ApertureSchool = Literal["corners", "wide", "ring"]
RING_LIMITS_FROM_MM = 85.0  # shorter lenses vignette behind a ring: common practice, no source


def school_f_number(lens: Lens, ring_mm: float | None, school: ApertureSchool) -> float:
    """f-number by a person's school. A mounted ring is a limit whatever the school; "ring" leaves the iris open behind it."""
    wanted = lens.f_best if school == "corners" or (school == "ring" and ring_mm is None) else lens.f_widest
    return max(wanted, ring_f_number(lens.focal_mm, ring_mm, lens.f_widest)) if ring_mm else wanted


def optics_verdict(
    camera: Camera, lens: Lens, f_number: float, ring_mm: float | None, school: ApertureSchool, still: bool = False
) -> Verdict:
    """What one pixel and the frame see, and what the aperture gives away. still: nothing tracks, and soft corners are the price."""
    scale = float(image_scale_arcsec_px(camera.pitch_um, lens.focal_mm))
    sides = [float(np.degrees(field_of_view_rad(side, lens.focal_mm))) for side in (camera.width_mm, camera.height_mm)]
    lost = stops_between(lens.f_widest, f_number)
    crop = crop_factor(camera.width_mm, camera.height_mm)
    by_ring = ring_mm is not None and lens.focal_mm / ring_mm > lens.f_widest
    level: Level = "go"
    advice, decides = "", "the lens's own best corners"
    if by_ring:
        decides = f"a ring of {ring_mm:g} mm in front, and no iris spikes"
    elif f_number < lens.f_best:
        level, decides = "go" if still else "care", "wide open"
        advice = f"By your own finding the corners are round from f/{lens.f_best:.3g}; expect soft corners at f/{f_number:.3g}."
    if ring_mm is not None and lens.focal_mm < RING_LIMITS_FROM_MM:
        level = "care"
        advice = (
            f"A ring in front of {lens.focal_mm:.0f} mm darkens the corners: below about 85 mm stop down with the iris instead."
        )
    elif school == "ring" and ring_mm is None:
        level = "care"
        ring = lens.focal_mm / lens.f_best
        advice = (
            f"There is no step-down ring in this rig; one of {ring:.0f} mm clear diameter would make f/{lens.f_best:.3g} round."
        )
    workings = (
        Working(
            "scale",
            "Image scale",
            "s = 206.265 p / f",
            (Quantity("Pixel pitch", camera.pitch_um, "µm", "p", 2), Quantity("Focal length", lens.focal_mm, "mm", "f", 0)),
            Quantity("Image scale", scale, "″/px", "s", 2),
            "Small-angle identity",
            "published",
        ),
        Working(
            "field",
            "Field of view",
            "2 atan(d / 2f)",
            (
                Quantity("Long side", camera.width_mm, "mm", "d", 1),
                Quantity("Short side", camera.height_mm, "mm", "d", 1),
                Quantity("Focal length", lens.focal_mm, "mm", "f", 0),
            ),
            Quantity("Field", text=f"{sides[0]:.1f}° × {sides[1]:.1f}°"),
            "Geometry of a distortion-free lens",
            "published",
        ),
        Working(
            "aperture",
            "Aperture in use",
            "N = max(f / D_ring, N_lens)",
            (
                Quantity("Focal length", lens.focal_mm, "mm", "f", 0),
                Quantity("Clear diameter of the ring", ring_mm, "mm", "D_ring")
                if ring_mm
                else Quantity("Step-down ring", text="none"),
                Quantity("Lens opens to", text=f"f/{lens.f_widest:.3g}"),
                Quantity("Good corners from", text=f"f/{lens.f_best:.3g}"),
                Quantity(
                    "Your school", text={"corners": "best corners", "wide": "wide open", "ring": "ring instead of iris"}[school]
                ),
            ),
            Quantity("In use", text=f"f/{f_number:.2f}"),
            "Definition of the f-number",
            "definition",
        ),
        Working(
            "stops",
            "Light given away",
            "2 log₂(N / N_widest)",
            (Quantity("In use", f_number, "", "N", 2), Quantity("Wide open", lens.f_widest, "", "N_widest", 2)),
            Quantity("Less light than wide open", lost, "stops"),
            "Light on a pixel goes as 1/N²",
            "published",
        ),
        Working(
            "equivalent",
            "Full-frame equivalent",
            "c f,  c = 43.27 mm / diagonal",
            (Quantity("Crop factor", crop, "", "c", 2), Quantity("Focal length", lens.focal_mm, "mm", "f", 0)),
            Quantity("Same field on 36 × 24 mm", crop * lens.focal_mm, "mm", decimals=0),
            "Definition of the crop factor",
            "definition",
        ),
    )
    return Verdict(
        "Optics",
        level,
        f"{scale:.2f}″ a pixel, {sides[0]:.1f}° × {sides[1]:.1f}°, f/{f_number:.2g}.",
        decides,
        advice,
        (
            Quantity("Scale", scale, "″/px", decimals=2, working="scale"),
            Quantity("Field", text=f"{sides[0]:.1f}° × {sides[1]:.1f}°", working="field"),
            Quantity("Aperture", text=f"f/{f_number:.2f}", working="aperture"),
            Quantity("Against wide open", -lost, "stops", working="stops"),
            Quantity("Full-frame equivalent", crop * lens.focal_mm, "mm", decimals=0, working="equivalent"),
        ),
        (
            Limit("Good corners", "at least", Quantity("f-number", lens.f_best), f_number >= lens.f_best and not by_ring),
            Limit(
                "Ring as the limiting stop", "at least", Quantity("Focal length", RING_LIMITS_FROM_MM, "mm", decimals=0), by_ring
            ),
        ),
        workings,
    )

"""What a rig is made of. Every value is checked where it enters; see docs/formulas.md for where defaults come from."""

from collections.abc import Sequence
from dataclasses import dataclass, field
from typing import Literal

from widedusk.core.errors import Checks

ScopeView = Literal["upright", "inverted", "none"]
Support = Literal["ball head", "bracket"]


@dataclass(frozen=True)
class IsoStep:
    """One row of a camera's table."""

    iso: int
    read_noise_e: float  # electrons rms per pixel
    full_well_e: float  # electrons at which the raw file clips


@dataclass(frozen=True)
class Camera:
    name: str
    mass_g: float
    width_mm: float  # long side of the sensor
    height_mm: float
    pitch_um: float
    raw_file_mb: float
    response_nm: float  # optics x filter x quantum efficiency over the band, for one pixel
    dark_e_s: float  # dark current, electrons per second per pixel, at the night's temperature
    iso_steps: Sequence[IsoStep]

    def __post_init__(self) -> None:
        checks = Checks("camera")
        checks.named("name", self.name)
        checks.within("mass_g", self.mass_g, 20, 20_000, "g")
        checks.within("width_mm", self.width_mm, 3, 120, "mm")
        checks.within("height_mm", self.height_mm, 2, 120, "mm")
        checks.within("pitch_um", self.pitch_um, 0.5, 30, "µm")
        checks.within("raw_file_mb", self.raw_file_mb, 0.1, 1_000, "MB")
        checks.within("response_nm", self.response_nm, 0.1, 500, "nm")
        checks.within("dark_e_s", self.dark_e_s, 0, 100, "e⁻/s")
        if not self.iso_steps:
            checks.fault("iso_steps", None, "Give at least one ISO with its read noise and full well.")
        if len({step.iso for step in self.iso_steps}) < len(self.iso_steps):
            checks.fault("iso_steps", [step.iso for step in self.iso_steps], "Each ISO may stand in the table once.")
        for number, step in enumerate(self.iso_steps):
            checks.within(f"iso_steps.{number}.iso", step.iso, 1, 1_000_000)
            checks.within(f"iso_steps.{number}.read_noise_e", step.read_noise_e, 0.1, 100, "e⁻")
            checks.within(f"iso_steps.{number}.full_well_e", step.full_well_e, 50, 5_000_000, "e⁻")
        checks.done()

    def step(self, iso: int) -> IsoStep:
        """Row of the table for an ISO. Raises InvalidInput naming the ISOs that are there."""
        for row in self.iso_steps:
            if row.iso == iso:
                return row
        checks = Checks()
        known = ", ".join(str(row.iso) for row in sorted(self.iso_steps, key=lambda row: row.iso))
        checks.fault("iso", iso, f"ISO {iso} is not in the table of {self.name}; it has {known}.")
        checks.done()
        raise AssertionError("unreachable")


@dataclass(frozen=True)
class Lens:
    name: str
    mass_g: float
    focal_mm: float
    f_widest: float
    f_best: float  # the user's own finding: widest aperture with acceptable corner stars

    def __post_init__(self) -> None:
        checks = Checks("lens")
        checks.named("name", self.name)
        checks.within("mass_g", self.mass_g, 10, 20_000, "g")
        checks.within("focal_mm", self.focal_mm, 4, 3_000, "mm")
        checks.within("f_widest", self.f_widest, 0.7, 32)
        checks.within("f_best", self.f_best, 0.7, 32)
        if self.f_best < self.f_widest:
            checks.fault(
                "f_best",
                self.f_best,
                f"f/{self.f_best:g} is wider than the lens opens (f/{self.f_widest:g}); "
                f"give f/{self.f_widest:g} or a larger number.",
            )
        checks.done()


@dataclass(frozen=True)
class Tracker:
    name: str
    rating_g: float
    rating_includes_counterweights: bool
    pe_half_amplitude_arcsec: float  # half of peak to peak
    pe_period_s: float
    scope_view: ScopeView

    def __post_init__(self) -> None:
        checks = Checks("tracker")
        checks.named("name", self.name)
        checks.within("rating_g", self.rating_g, 100, 100_000, "g")
        checks.within("pe_half_amplitude_arcsec", self.pe_half_amplitude_arcsec, 0, 300, "″")
        checks.within("pe_period_s", self.pe_period_s, 20, 2_000, "s")
        checks.done()


@dataclass(frozen=True)
class Carried:
    """Anything else on the tracker: plates, head, heater, cables; counterweights with their shaft apart."""

    name: str
    mass_g: float
    counterweight: bool = False


@dataclass(frozen=True)
class Rig:
    name: str
    camera: Camera
    lens: Lens
    tracker: Tracker
    support: Support
    star_fwhm_px: float = 2.5  # untrailed stars of this rig; common practice until measured
    carried: Sequence[Carried] = field(default=())

    def __post_init__(self) -> None:
        checks = Checks()
        checks.named("name", self.name)
        checks.within("star_fwhm_px", self.star_fwhm_px, 1, 15, "px")
        for number, item in enumerate(self.carried):
            if not item.name.strip():
                checks.fault(f"carried.{number}.name", item.name, "Say what it is.")
            checks.within(f"carried.{number}.mass_g", item.mass_g, 0, 30_000, "g")
        checks.done()

"""What lies on the table: every kind of part with the fields it needs, and the rig that a night reckons with.

Every value is checked where it enters. Defaults are round figures of common practice unless docs/formulas.md gives a source;
a field that only the owner can know has none.
"""

from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from typing import ClassVar, Literal

import numpy as np

from widedusk.core.errors import Checks
from widedusk.core.kit.described import check, length, mass, number, one_of, rows, whole, words, yes_or_no

ScopeView = Literal["upright", "inverted", "none"]
Support = Literal["ball head", "bracket", "none"]
USUAL_STAR_PX = 2.5  # FWHM of an untrailed star; common practice until measured
NARROW_NM = 20.0  # common practice, no source
Chemistry = Literal["lithium", "lead-acid", "alkaline"]


@dataclass(frozen=True)
class Draw:
    """What a part takes from its supply while it runs."""

    volts: float
    amps: float
    duty: float = 1.0  # share of the time it is on

    @property
    def watts(self) -> float:
        return self.volts * self.amps * self.duty


# Where a value is from. book: of the house, typical of its class; learned: measured from one's own pictures.
Origin = Literal["book", "learned", "by hand"]


@dataclass(frozen=True)
class Part:
    """One thing that goes along. origins: of every value that was not said by hand, by the name of its field."""

    KIND: ClassVar[str] = ""
    CARRIED: ClassVar[bool] = True  # by the tracker; else it stands below or beside it

    name: str = words("Name")
    mass_g: float = mass("Mass", 0, 30_000)
    origins: tuple[tuple[str, Origin], ...] = field(default=(), kw_only=True, compare=False)

    def __post_init__(self) -> None:
        checks = Checks()
        check(self, checks)
        if not checks.faults:
            self.cross_check(checks)
        checks.done()

    def origin(self, name: str) -> Origin:
        """Where the value of a field is from."""
        return dict(self.origins).get(name, "by hand")

    def cross_check(self, checks: Checks) -> None:
        """Faults between fields, once each field is sensible by itself."""

    def draw(self) -> Draw | None:
        """None for what needs no current."""
        return None


def _draw(volts: float, amps: float) -> Draw | None:
    return Draw(volts, amps) if volts and amps else None


@dataclass(frozen=True)
class IsoStep:
    """One row of a camera's table."""

    iso: int = whole("ISO or gain", "", 1, 1_000_000)
    read_noise_e: float = number("Read noise", "e⁻", 0.1, 100)
    full_well_e: float = number("Full well", "e⁻", 50, 5_000_000, hint="where the raw file clips")


USUAL_WELL_E_UM2 = 2_000.0  # at ISO 100
USUAL_NOISE_E = {100: 8.0, 200: 6.5, 400: 4.8, 800: 3.5, 1600: 2.7, 3200: 2.2, 6400: 2.0, 12800: 1.9}


def usual_iso_steps(pitch_um: float) -> tuple[IsoStep, ...]:
    """What a camera with such pixels usually has, until somebody measures this one. From memory; cameras differ by half."""
    well = USUAL_WELL_E_UM2 * pitch_um**2
    return tuple(IsoStep(iso, noise, max(round(well * 100.0 / iso), 100)) for iso, noise in USUAL_NOISE_E.items())


def iso_field(iso: int) -> str:
    """The name under which the origin of one row of the ISO table is kept."""
    return f"iso_steps.{iso}"


@dataclass(frozen=True)
class Camera(Part):
    KIND = "camera"

    mass_g: float = mass("Mass", 20, 20_000)
    width_mm: float = number("Sensor, long side", "mm", 3, 120)
    height_mm: float = number("Sensor, short side", "mm", 2, 120)
    pitch_um: float = number("Pixel pitch", "µm", 0.5, 30)
    raw_file_mb: float = number("Raw file", "MB", 0.1, 1_000, 30.0)
    response_nm: float = number("Response", "nm", 0.1, 500, 40.0, "about 40 for green pixels, no filter")
    dark_e_s: float = number("Dark current", "e⁻/s", 0, 100, 0.02, "at the night's temperature")
    iso_steps: Sequence[IsoStep] = rows("ISO table", IsoStep, ())
    bits: int = whole("Bits of a raw value", "", 8, 24, 14)
    hydrogen_percent: float = number("Hα it passes", "%", 0, 100, 25.0, "about 25 as sold, over 90 with the filter removed")
    flange_mm: float | None = number("Flange distance", "mm", 1, 120, None, "mount to sensor; for adapters")
    volts: float = number("Supply", "V", 0, 60, 7.2)
    amps: float = number("Current", "A", 0, 20, 0.25, "a long exposure; a cooled camera takes 2 to 3")

    @property
    def side_px(self) -> float:
        """Pixels along the long side of the sensor."""
        return 1000.0 * self.width_mm / self.pitch_um

    def __post_init__(self) -> None:
        if not self.iso_steps and isinstance(self.pitch_um, (int, float)) and 0.5 <= self.pitch_um <= 30:
            estimated = usual_iso_steps(self.pitch_um)
            object.__setattr__(self, "iso_steps", estimated)
            told = tuple((iso_field(step.iso), "book") for step in estimated)
            object.__setattr__(self, "origins", (*self.origins, *told))
        super().__post_init__()

    def cross_check(self, checks: Checks) -> None:
        if len({step.iso for step in self.iso_steps}) < len(self.iso_steps):
            checks.fault("iso_steps", [step.iso for step in self.iso_steps], "Each ISO may stand in the table once.")
        if self.height_mm > self.width_mm:
            checks.fault("height_mm", self.height_mm, f"The short side may not exceed the long side, {self.width_mm:g} mm.")

    def draw(self) -> Draw | None:
        return _draw(self.volts, self.amps)

    def step(self, iso: int) -> IsoStep:
        """Row of the table for an ISO; between two rows a straight line in log ISO. Raises InvalidInput outside the table."""
        table = sorted(self.iso_steps, key=lambda row: row.iso)
        for row in table:
            if row.iso == iso:
                return row
        if not table[0].iso < iso < table[-1].iso:
            checks = Checks()
            known = ", ".join(str(row.iso) for row in table)
            wrong = (
                f"ISO {iso} lies outside the table of {self.name}, which has {known}. "
                "Measure the camera there, or add the row on the Bench."
            )
            checks.fault("iso", iso, wrong)
            checks.done()
        places = np.log2([row.iso for row in table])
        noise = np.interp(np.log2(iso), places, np.log2([row.read_noise_e for row in table]))
        well = np.interp(np.log2(iso), places, np.log2([row.full_well_e for row in table]))
        return IsoStep(iso, float(2.0**noise), float(2.0**well))

    def measured_at(self, iso: int) -> bool:
        """Whether the table has a row for this ISO."""
        return any(row.iso == iso for row in self.iso_steps)

    def estimated_at(self, iso: int) -> bool:
        """Whether noise and well at this ISO are the usual ones of such a pixel, and not this camera's."""
        return self.origin(iso_field(iso)) == "book"


@dataclass(frozen=True)
class Lens(Part):
    """A prime, or a zoom with its long end. In a rig it is `at` one focal length."""

    KIND = "lens"

    mass_g: float = mass("Mass", 10, 20_000)
    focal_mm: float = number("Focal length", "mm", 4, 3_000, hint="the short end of a zoom")
    f_widest: float = number("Opens to f/", "", 0.7, 32)
    f_best: float = number("Good corners from f/", "", 0.7, 32, hint="broadband; your own finding")
    focal_long_mm: float | None = number("Long end", "mm", 4, 3_000, None, "zooms only")
    f_widest_long: float | None = number("Opens there to f/", "", 0.7, 32, None, "where a zoom closes down")
    f_best_narrow: float | None = number("Good corners, narrowband, from f/", "", 0.7, 32, None)
    collar: bool = yes_or_no("Has its own collar", False)
    thread_mm: float | None = number("Front thread", "mm", 10, 200, None)
    clear_mm: float | None = number("Front glass, clear", "mm", 3, 400, None)
    flange_mm: float | None = number("Needs from flange to sensor", "mm", 1, 120, None, "empty: the camera's own mount")

    def cross_check(self, checks: Checks) -> None:
        if self.focal_long_mm is not None and self.focal_long_mm < self.focal_mm:
            wrong = f"The long end, {self.focal_long_mm:g} mm, is below the short end; give {self.focal_mm:g} mm or more."
            checks.fault("focal_long_mm", self.focal_long_mm, wrong)
        for name in ("f_best", "f_best_narrow", "f_widest_long"):
            value = getattr(self, name)
            if value is not None and value < self.f_widest:
                widest = f"f/{self.f_widest:.3g}"
                wrong = f"f/{value:.3g} is wider than the lens opens ({widest}); give {widest} or a larger number."
                checks.fault(name, value, wrong)

    @property
    def front_mm(self) -> float:
        """Clear front glass; where it was not measured, the entrance pupil wide open."""
        return self.clear_mm or self.focal_mm / self.f_widest

    def at(self, focal_mm: float | None) -> "Lens":
        """This lens as a prime of the focal length it is set to. Raises InvalidInput outside its range."""
        if self.focal_long_mm is None:
            return self
        used = self.focal_mm if focal_mm is None else focal_mm
        checks = Checks()
        checks.within("focal_mm", used, self.focal_mm, self.focal_long_mm, "mm")
        checks.done()
        ends = (self.f_widest, self.f_widest_long or self.f_widest)
        widest = round(float(np.interp(used, (self.focal_mm, self.focal_long_mm), ends)), 2)
        narrow = None if self.f_best_narrow is None else max(self.f_best_narrow, widest)
        return replace(
            self,
            focal_mm=used,
            focal_long_mm=None,
            f_widest_long=None,
            f_widest=widest,
            f_best=max(self.f_best, widest),
            f_best_narrow=narrow,
            clear_mm=self.front_mm,
        )


@dataclass(frozen=True)
class Tracker(Part):
    KIND = "tracker"
    CARRIED = False

    rating_g: float = mass("Rated payload", 100, 100_000)
    rating_includes_counterweights: bool = yes_or_no("Rating includes counterweights", False)
    pe_half_amplitude_arcsec: float = number("Periodic error, half", "″", 0, 300, 20.0, "half of peak to peak; 10 to 35 is usual")
    pe_period_s: float = number("Worm period", "s", 20, 2_000, 480.0, "430 to 640 is usual")
    scope_view: ScopeView = one_of("Polar scope shows the sky", ("inverted", "upright", "none"), "inverted", "“none”: no scope")
    reticle: str = one_of(
        "Reticle", ("12-hour dial", "24-part dial", "degree dial", "year rings", "southern pattern", "none"), "12-hour dial"
    )
    guide_axes: str = one_of("Can be guided", ("no", "RA only", "both axes"), "no")
    rates: str = words("Rates", "sidereal", "as its switch names them")
    latitude_base: bool = yes_or_no("Has its own latitude base", False, "else it needs a wedge")
    latitude_tick_deg: float | None = number("Latitude scale, a tick each", "°", 0.1, 30, None)
    altitude_turn_deg: float | None = number("A turn of the altitude screw", "°", 0.05, 60, None, "once you know it")
    azimuth_turn_deg: float | None = number("A turn of an azimuth screw", "°", 0.05, 60, None, "once you know it")
    volts: float = number("Supply", "V", 0, 60, 6.0)
    amps: float = number("Current", "A", 0, 20, 0.1)

    def draw(self) -> Draw | None:
        return _draw(self.volts, self.amps)


@dataclass(frozen=True)
class Wedge(Part):
    KIND = "wedge"
    CARRIED = False

    latitude_low_deg: float = number("Latitude from", "°", 0, 90, 0.0)
    latitude_high_deg: float = number("to", "°", 0, 90, 70.0)

    def cross_check(self, checks: Checks) -> None:
        if self.latitude_high_deg < self.latitude_low_deg:
            checks.fault("latitude_high_deg", self.latitude_high_deg, f"Give {self.latitude_low_deg:g}° or more.")


@dataclass(frozen=True)
class BallHead(Part):
    KIND = "ball head"

    rated_g: float | None = mass("Carries", 100, 100_000, None)


@dataclass(frozen=True)
class Bracket(Part):
    KIND = "bracket"

    reach_mm: float = length("From the axis to where the shaft begins", 0, 500, 40.0)


@dataclass(frozen=True)
class Plate(Part):
    KIND = "plate"


@dataclass(frozen=True)
class LensRing(Part):
    """A ring or clamp that holds the barrel."""

    KIND = "lens ring"


@dataclass(frozen=True)
class Counterweight(Part):
    KIND = "counterweight"

    hole_mm: float | None = length("Hole, diameter", 3, 100, None)
    thickness_mm: float = length("Hole, length", 5, 300, 40.0, "how much shaft it takes")


@dataclass(frozen=True)
class Shaft(Part):
    KIND = "shaft"

    length_mm: float = length("Length", 10, 2_000)
    diameter_mm: float | None = length("Diameter", 3, 100, None)


@dataclass(frozen=True)
class Guider(Part):
    KIND = "guider"

    focal_mm: float | None = number("Focal length", "mm", 10, 1_000, None)
    volts: float = number("Supply", "V", 0, 60, 5.0)
    amps: float = number("Current", "A", 0, 20, 0.5)

    def draw(self) -> Draw | None:
        return _draw(self.volts, self.amps)


@dataclass(frozen=True)
class Heater(Part):
    KIND = "heater"

    volts: float = number("Supply", "V", 1, 60, 5.0)
    watts: float = number("Power, full on", "W", 0.1, 100, 5.0)
    duty_percent: float = number("Usual setting", "%", 1, 100, 60.0)

    def draw(self) -> Draw | None:
        return Draw(self.volts, self.watts / self.volts, self.duty_percent / 100.0)


@dataclass(frozen=True)
class Band:
    """One stretch of the spectrum that a filter lets through."""

    low_nm: float = number("From", "nm", 200, 1_200)
    high_nm: float = number("to", "nm", 200, 1_200)


@dataclass(frozen=True)
class Filter(Part):
    KIND = "filter"

    thickness_mm: float = number("Thickness", "mm", 0.1, 20, 2.0)
    index: float = number("Refractive index", "", 1.3, 2.2, 1.52, "glass 1.52")
    loss_stops: float = number("Loss", "stops", 0, 12, 0.3, "on the camera's meter or histogram")
    sits: str = one_of("Sits", ("in front", "behind the lens"), "in front")
    bands: Sequence[Band] = rows("Pass bands", Band, ())

    def cross_check(self, checks: Checks) -> None:
        for place, band in enumerate(self.bands):
            if band.high_nm <= band.low_nm:
                checks.fault(f"bands.{place}.high_nm", band.high_nm, f"Give more than {band.low_nm:g} nm.")

    @property
    def narrow(self) -> bool:
        """Narrowband: bands are told and none is wider than NARROW_NM."""
        return bool(self.bands) and all(band.high_nm - band.low_nm <= NARROW_NM for band in self.bands)


@dataclass(frozen=True)
class StepDownRing(Part):
    KIND = "step-down ring"

    clear_mm: float = number("Clear diameter", "mm", 3, 300)


@dataclass(frozen=True)
class Adapter(Part):
    """Between camera and lens."""

    KIND = "adapter"

    length_mm: float = number("Length", "mm", 0.1, 200)


@dataclass(frozen=True)
class Battery(Part):
    KIND = "battery"
    CARRIED = False

    watt_hours: float = number("Energy", "Wh", 0.5, 3_000, hint="volts × ampere-hours")
    chemistry: Chemistry = one_of("Chemistry", ("lithium", "lead-acid", "alkaline"), "lithium")
    volts: float = number("Voltage", "V", 1, 60, 5.0)
    max_amps: float | None = number("Most it gives", "A", 0.1, 100, None)


@dataclass(frozen=True)
class Hub(Part):
    """Shares one supply between several loads."""

    KIND = "hub"
    CARRIED = False

    port_amps: float | None = number("Limit of a port", "A", 0.1, 50, None)
    total_amps: float | None = number("Limit of all together", "A", 0.1, 100, None)


@dataclass(frozen=True)
class Tripod(Part):
    KIND = "tripod"
    CARRIED = False

    rated_g: float | None = mass("Carries", 200, 200_000, None)


@dataclass(frozen=True)
class Timer(Part):
    """An intervalometer, or a remote with a lock."""

    KIND = "timer"
    CARRIED = False


@dataclass(frozen=True)
class Other(Part):
    KIND = "other"

    always: bool = yes_or_no("Pack it every time", False)
    volts: float = number("Supply", "V", 0, 60, 0.0, "0 where it needs none")
    amps: float = number("Current", "A", 0, 20, 0.0)

    def draw(self) -> Draw | None:
        return _draw(self.volts, self.amps)


KINDS: dict[str, type[Part]] = {
    shape.KIND: shape
    for shape in (
        Camera, Lens, Tracker, Wedge, BallHead, Bracket, Plate, LensRing, Counterweight, Shaft, Guider, Heater,
        Filter, StepDownRing, Adapter, Battery, Hub, Tripod, Timer, Other,
    )
}  # fmt: skip


@dataclass(frozen=True)
class Carried:
    """Anything else on the tracker: plates, head, heater, cables; counterweights with their shaft apart."""

    name: str
    mass_g: float
    counterweight: bool = False


@dataclass(frozen=True)
class Rig:
    """What a night is worked out for: one camera, one lens at one focal length, a tracker or none, and what else it carries."""

    name: str
    camera: Camera
    lens: Lens
    tracker: Tracker | None  # None: the camera stands still on its tripod
    support: Support
    star_fwhm_px: float = 2.5  # untrailed stars of this rig; common practice until measured
    carried: Sequence[Carried] = field(default=())
    ring_mm: float | None = None  # clear diameter of a step-down ring in front of the lens
    filters: Sequence[Filter] = field(default=())  # in the beam
    head: BallHead | None = None
    guider: str = ""  # its name; empty: none on it

    def __post_init__(self) -> None:
        checks = Checks()
        checks.named("name", self.name)
        checks.within("star_fwhm_px", self.star_fwhm_px, 1, 15, "px")
        checks.done()

    @property
    def narrow(self) -> bool:
        """Whether a filter of narrow bands is in the beam."""
        return any(one.narrow for one in self.filters)

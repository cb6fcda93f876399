"""What an invented sensor reads out: electrons to counts, with black level, read noise and the pattern of its pixels."""

from dataclasses import dataclass
from io import BytesIO

import numpy as np
from astropy.io import fits
from numpy.typing import NDArray

Counts = NDArray[np.uint16]


@dataclass(frozen=True)
class Readout:
    """One sensor at one ISO."""

    width_px: int
    height_px: int
    gain_e: float  # electrons per count
    read_noise_e: float
    black: int = 512
    bits: int = 14
    pattern: float = 0.01  # how much pixels differ in what they make of the same light
    iso: int = 800
    name: str = "Invented body"

    @property
    def clip(self) -> int:
        return int(2**self.bits) - 1

    def read(self, electrons: NDArray[np.float64], rng: np.random.Generator) -> Counts:
        """Counts of a mean number of electrons per pixel, with the noise of light and of reading."""
        caught = rng.poisson(electrons) + rng.normal(0.0, self.read_noise_e, electrons.shape)
        counts = np.rint(caught / self.gain_e) + self.black
        return np.asarray(np.clip(counts, 0, self.clip), dtype=np.uint16)

    def bias(self, rng: np.random.Generator) -> Counts:
        """Cap on, shortest time."""
        return self.read(np.zeros((self.height_px, self.width_px)), rng)

    def flats(self, electrons: float, rng: np.random.Generator, flicker: float = 0.0) -> tuple[Counts, Counts]:
        """Two frames of even light through a lens that darkens its corners; the second brighter by a share."""
        rows, columns = np.ogrid[-1 : 1 : self.height_px * 1j, -1 : 1 : self.width_px * 1j]
        fall = 1.0 - 0.2 * (rows**2 + columns**2)
        light = electrons * fall * (1.0 + self.pattern * rng.standard_normal((self.height_px, self.width_px)))
        light = np.maximum(light, 0.0)
        return self.read(light, rng), self.read(light * (1.0 + flicker), rng)

    def as_fits(self, counts: Counts, exposure_s: float) -> bytes:
        """The frame as a file, with where it clips and at which ISO it was taken."""
        unit = fits.PrimaryHDU(counts[::-1])
        unit.header["EXPTIME"] = exposure_s
        unit.header["DATAMAX"] = self.clip
        unit.header["ISOSPEED"] = self.iso
        unit.header["INSTRUME"] = self.name
        out = BytesIO()
        unit.writeto(out)
        return out.getvalue()

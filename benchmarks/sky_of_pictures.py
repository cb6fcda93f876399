"""The sky told from pictures: python -m benchmarks.sky_of_pictures.

Invented pictures under skies of 18.5, 20.5 and 21.7, with two lenses, as linear files and as JPEGs whose camera bends the usual
curve by several amounts: what was told, or why not. The invented camera's band is redder than V; its stars come by another
relation.
"""

from io import BytesIO
from pathlib import Path
from tempfile import TemporaryDirectory

import numpy as np
from PIL import Image

from tests.invented import EVENING, SMALL, a_pair, camera_sky, patterns, sky
from widedusk.core.frames.measure import measure
from widedusk.core.simulate.camera import Camera, CardHeader, Lens, Shot, as_fits, as_jpeg

BENDS = (0.0, 0.15, 0.3, 0.5)


def bent_jpeg(plain: bytes, bend: float) -> bytes:
    """The same picture with its mid-tones pushed apart, as cameras do for contrast."""
    image = Image.open(BytesIO(plain))
    x = np.arange(256) / 255.0
    curve = (1.0 - bend) * x + bend * x * x * (3.0 - 2.0 * x)
    table = np.clip(np.rint(255.0 * curve), 0, 255).astype(np.uint8).tolist()
    out = BytesIO()
    image.point(table * len(image.getbands())).save(out, "JPEG", quality=92, exif=image.getexif())
    return out.getvalue()


def main() -> None:
    book = patterns()
    off, sigmas, curved, beyond = [], [], 0, 0
    for v_mag in (18.5, 20.5, 21.7):
        for focal, seconds in ((85.0, 20.0), (50.0, 20.0)):
            for seed in (1, 2):
                pair = a_pair(high=0.5, east=0.5, focal_mm=focal)
                camera = Camera(SMALL, Lens(focal, 2.8, 0.001, 2.6), camera_sky(v_mag), rng=np.random.default_rng(seed))
                electrons = camera.take(*sky(9.9), pair.pointing, pair.mount, Shot(EVENING, seconds, 0.0)).electrons
                header = CardHeader(EVENING.replace(tzinfo=None), seconds, focal)
                plain = as_jpeg(electrons, 40_000.0, header)
                files = {"linear": ("fits", as_fits(electrons, 40_000.0, header))}
                files |= {f"JPEG, bend {bend:g}": ("jpg", bent_jpeg(plain, bend) if bend else plain) for bend in BENDS}
                for name, (ending, content) in files.items():
                    with TemporaryDirectory() as folder:
                        path = Path(folder) / f"one.{ending}"
                        path.write_bytes(content)
                        found = measure(path, book, 36.0, focal, lambda *_: None, light=True).lit
                    if found is None or found.sky_mag is None or found.sky_sigma is None:
                        print(f"{v_mag:5.1f} {focal:4g} mm {name:16} refused: {found.why_no_sky[:70] if found else ''}")
                        continue
                    error, sigma = found.sky_mag - v_mag, found.sky_sigma
                    print(f"{v_mag:5.1f} {focal:4g} mm {name:16} {error:+.3f} ± {sigma:.3f}, {found.stars} stars")
                    curved += name != "linear"
                    beyond += name != "linear" and abs(error) > sigma
                    if name == "linear":
                        off.append(error)
                        sigmas.append(sigma)
    print(f"JPEGs: {curved} told, {beyond} of them by more than one sigma off")
    print(f"linear: bias {np.mean(off):+.3f} mag, within one sigma {np.mean(np.abs(off) < np.array(sigmas)) * 100:.0f} %")


if __name__ == "__main__":
    main()

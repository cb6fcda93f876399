"""A picture off the card: JPEG, TIFF, FITS or camera raw, told by its content and not by its name.

It becomes one plane of light, in proportion to what fell on the sensor as far as the file allows, and what the camera wrote
beside it. Everything is bounded before it is unpacked; large pictures are read at half their size.
The libraries of rarer kinds are loaded when a file of that kind comes, so that the web server carries none of them in vain.
"""

import re
import warnings
from collections.abc import Callable
from dataclasses import dataclass
from datetime import datetime, timedelta
from pathlib import Path
from typing import Any, Literal

import exifread
import numpy as np
from astropy.io import fits
from numpy.typing import NDArray
from PIL import Image

from widedusk.core.errors import Fault, InvalidInput
from widedusk.core.frames.photon_transfer import SensorFrame

Kind = Literal["JPEG", "TIFF", "FITS", "raw"]
Plane = NDArray[np.float32]

MOST_PICTURE_BYTES = 200_000_000
MOST_PIXELS = 125_000_000
MOST_UNPACKED_BYTES = 450_000_000
LEAST_SIDE_PX = 400
HALVE_ABOVE_PIXELS = 30_000_000
WANTED = "Give a JPEG, TIFF, FITS or raw file as the camera wrote it."


@dataclass(frozen=True)
class Header:
    """What the file says of itself; none where it says nothing. `taken`: the camera's own clock when the exposure began."""

    kind: Kind
    width_px: int
    height_px: int
    taken: datetime | None = None
    utc_offset_min: int | None = None  # of that clock
    exposure_s: float | None = None
    focal_mm: float | None = None
    iso: int | None = None
    f_number: float | None = None
    camera: str = ""


@dataclass(frozen=True)
class Picture:
    """Luminance, rows from the top. `binning`: how many of the file's pixels, each way, went into one of these."""

    header: Header
    plane: Plane
    binning: int
    clip: float  # the highest count there can be


def _no(message: str, value: object) -> InvalidInput:
    return InvalidInput([Fault("picture", value, message)])


def kind_of(path: Path) -> Kind:
    """What a file is, by its first bytes. Raises InvalidInput when it is no picture, or too large to be one."""
    size = path.stat().st_size
    if size > MOST_PICTURE_BYTES:
        raise _no(f"The file has {size / 1e6:.0f} MB; a picture may have {MOST_PICTURE_BYTES / 1e6:.0f} MB.", path.name)
    with path.open("rb") as file:
        head = file.read(64)
    if head.startswith(b"\xff\xd8\xff"):
        return "JPEG"
    if head.startswith(b"SIMPLE  ="):
        return "FITS"
    if head[:4] in {b"II*\0", b"MM\0*", b"II+\0", b"MM\0+"} and path.suffix.lower() in {".tif", ".tiff"}:
        return "TIFF"
    if len(head) < 64 or re.fullmatch(rb"[\t\n\r\x20-\x7e]+", head):
        what = "is empty" if not head else "holds text, whatever its name says"
        raise _no(f"“{path.name}” {what}. {WANTED}", path.name)
    return "raw"


def _exif_header(path: Path, kind: Kind, width: int, height: int) -> Header:
    with path.open("rb") as file:
        try:
            tags = exifread.process_file(file, details=False)
        except Exception:  # a damaged header says nothing; the picture may be sound all the same
            tags = {}

    def text(name: str) -> str:
        return str(tags.get(f"EXIF {name}", "")).strip()

    def ratio(name: str) -> float | None:
        values = getattr(tags.get(f"EXIF {name}"), "values", None) or [None]
        try:
            value = float(np.ravel(values[0])[0])
        except (TypeError, ValueError, ZeroDivisionError):
            return None
        return value if np.isfinite(value) and value > 0 else None

    stamp = text("DateTimeOriginal") or str(tags.get("Image DateTime", ""))
    iso = ratio("ISOSpeedRatings")
    return Header(
        kind,
        width,
        height,
        _moment(stamp, text("SubSecTimeOriginal")),
        _offset(text("OffsetTimeOriginal") or text("OffsetTime")),
        ratio("ExposureTime"),
        ratio("FocalLength"),
        int(iso) if iso else None,
        ratio("FNumber"),
        str(tags.get("Image Model", "")).strip()[:60],
    )


def _moment(stamp: str, fraction: str = "") -> datetime | None:
    try:
        whole = datetime.strptime(stamp[:19], "%Y:%m:%d %H:%M:%S")
    except ValueError:
        return None
    digits = re.match(r"\d{1,6}", fraction)
    return whole + timedelta(seconds=float(f"0.{digits[0]}")) if digits else whole


def _offset(text: str) -> int | None:
    found = re.fullmatch(r"([+-])(\d\d):?(\d\d)", text)
    if not found:
        return 0 if text == "Z" else None
    minutes = int(found[2]) * 60 + int(found[3])
    return -minutes if found[1] == "-" else minutes


def _bounded(width: int, height: int, bytes_a_pixel: int, name: str) -> None:
    if width * height > MOST_PIXELS or width * height * bytes_a_pixel > MOST_UNPACKED_BYTES:
        raise _no(
            f"“{name}” would unpack to {width} × {height} pixels, {width * height * bytes_a_pixel / 1e6:.0f} MB; "
            f"at most {MOST_PIXELS / 1e6:.0f} megapixels and {MOST_UNPACKED_BYTES / 1e6:.0f} MB are read. "
            "Set the camera to JPEG, or save a smaller copy.",
            name,
        )
    if min(width, height) < LEAST_SIDE_PX:
        raise _no(
            f"“{name}” has {width} × {height} pixels; {LEAST_SIDE_PX} each way are needed. "
            "Give the picture itself, not its thumbnail.",
            name,
        )


# The tone curve of IEC 61966-2-1 undone. Cameras bend theirs a little more; for places and widths of stars it is near enough.
_CODE = np.arange(256) / 255.0
_LINEAR = np.where(_CODE <= 0.04045, _CODE / 12.92, ((_CODE + 0.055) / 1.055) ** 2.4).astype(np.float32)


def _read_jpeg(path: Path) -> Picture:
    with warnings.catch_warnings():
        warnings.simplefilter("ignore", Image.DecompressionBombWarning)
        try:
            opened = Image.open(path, formats=("JPEG",))
        except Image.DecompressionBombError:
            raise _no(f"“{path.name}” would unpack to more pixels than any camera has. {WANTED}", path.name) from None
    with opened as image:
        width, height = image.size
        _bounded(width, height, 1, path.name)
        binning = 2 if width * height > HALVE_ABOVE_PIXELS else 1
        image.draft("L", (width // binning, height // binning))
        codes = np.asarray(image if image.mode == "L" else image.convert("L"))
    return Picture(_exif_header(path, "JPEG", width, height), _LINEAR[codes], max(round(width / codes.shape[1]), 1), 1.0)


def _halved(plane: Plane) -> Plane:
    """Means of two by two pixels."""
    height, width = plane.shape[0] // 2 * 2, plane.shape[1] // 2 * 2
    even = plane[:height, :width]
    return np.asarray((even[::2, ::2] + even[1::2, ::2] + even[::2, 1::2] + even[1::2, 1::2]) / 4.0, dtype=np.float32)


def _from_array(path: Path, header: Header, array: NDArray[Any], mosaic: bool = False) -> Picture:
    """One plane of an array of one or three colours; a mosaic of colours is always halved."""
    if array.ndim == 3:
        colours = int(np.argmin(array.shape))
        array = np.moveaxis(array, colours, -1)[..., :3]
        plane = array.mean(axis=-1, dtype=np.float32)
    else:
        plane = array.astype(np.float32)
    if plane.ndim != 2:
        raise _no(f"“{path.name}” holds an array of {array.ndim} dimensions, no picture. {WANTED}", path.name)
    np.nan_to_num(plane, copy=False, nan=0.0, posinf=0.0, neginf=0.0)
    clip = float(np.iinfo(array.dtype).max) if np.issubdtype(array.dtype, np.integer) else float(plane.max())
    if array.dtype == np.uint8:
        plane, clip = _LINEAR[plane.astype(np.uint8)], 1.0
    binning = 1
    if mosaic or plane.size > HALVE_ABOVE_PIXELS:
        plane, binning = _halved(plane), 2
    return Picture(header, np.ascontiguousarray(plane), binning, clip)


def _read_tiff(path: Path) -> Picture:
    import tifffile  # noqa: PLC0415

    with tifffile.TiffFile(path) as file:
        page = file.pages.first
        if page.ndim not in (2, 3):
            raise _no(f"“{path.name}” holds an array of {page.ndim} dimensions, no picture. {WANTED}", path.name)
        width, height = page.imagewidth, page.imagelength
        _bounded(width, height, page.nbytes // (width * height), path.name)
        array = page.asarray()
    return _from_array(path, _exif_header(path, "TIFF", width, height), array)


def _fits_header(path: Path, head: Any) -> Header:
    sides = [int(head[f"NAXIS{axis}"]) for axis in range(1, head["NAXIS"] + 1)]
    _bounded(sides[0], sides[1], abs(int(head["BITPIX"])) // 8 * (sides[2] if len(sides) == 3 else 1), path.name)
    stamp = str(head.get("DATE-OBS", ""))
    try:
        taken = datetime.fromisoformat(stamp.rstrip("Z")).replace(tzinfo=None) if "T" in stamp else None
    except ValueError:
        taken = None

    def number(*names: str) -> float | None:
        values = (head.get(name) for name in names)
        return next((float(value) for value in values if isinstance(value, int | float) and value > 0), None)

    exposure, focal, f_number = number("EXPTIME", "EXPOSURE"), number("FOCALLEN"), number("FNUMBER")
    iso = number("ISOSPEED", "ISO")
    camera = str(head.get("INSTRUME", "")).strip()[:60]
    offset = 0 if taken else None
    return Header("FITS", sides[0], sides[1], taken, offset, exposure, focal, int(iso) if iso else None, f_number, camera)


def _fits_unit(path: Path, file: Any) -> Any:
    unit = next((one for one in file if one.header.get("NAXIS", 0) in (2, 3)), None)
    if unit is None:
        raise _no(f"“{path.name}” holds no picture, only a header. {WANTED}", path.name)
    return unit


def _read_fits(path: Path) -> Picture:
    with fits.open(path, memmap=False, lazy_load_hdus=True) as file:
        unit = _fits_unit(path, file)
        header = _fits_header(path, unit.header)
        array = np.asarray(unit.data)[..., ::-1, :]  # FITS counts rows from the bottom
        return _from_array(path, header, array, mosaic="BAYERPAT" in unit.header)


def _read_raw(path: Path) -> Picture:
    import rawpy  # noqa: PLC0415

    with rawpy.imread(str(path)) as raw:
        sizes = raw.sizes
        _bounded(sizes.width, sizes.height, 2, path.name)
        mosaic = raw.raw_image_visible
        if mosaic.ndim != 2:
            raise _no(f"“{path.name}” is a raw file of a kind that keeps no sensor values. Give a JPEG instead.", path.name)
        header = _exif_header(path, "raw", sizes.width, sizes.height)
        plane = _halved(mosaic.astype(np.float32) - np.float32(np.mean(raw.black_level_per_channel)))
        clip = float(raw.white_level or plane.max())
        if raw.raw_pattern is not None and raw.raw_pattern.shape[0] == 6:
            # A six by six mosaic: two by two pixels do not hold the same colours everywhere.
            for row in range(3):
                for column in range(3):
                    plane[row::3, column::3] -= np.median(plane[row::3, column::3])
    return Picture(header, np.ascontiguousarray(plane), 2, clip)


_READERS: dict[Kind, Callable[[Path], Picture]] = {"JPEG": _read_jpeg, "TIFF": _read_tiff, "FITS": _read_fits, "raw": _read_raw}


def read_picture(path: Path) -> Picture:
    """Read a whole picture. Raises InvalidInput with what is wrong with the file and what to do."""
    kind = kind_of(path)
    try:
        return _READERS[kind](path)
    except InvalidInput:
        raise
    except MemoryError:
        raise _no(f"“{path.name}” needs more memory than there is. Save a smaller copy, or a JPEG.", path.name) from None
    except Exception as failed:  # four libraries, each with its own errors: to a person they all mean this
        said = " ".join(str(failed).split())[:120]
        raise _no(
            f"“{path.name}” could not be read as {kind}: it is damaged or cut short ({said or type(failed).__name__}). "
            "Copy it from the card again, or give the JPEG.",
            path.name,
        ) from failed


def read_sensor(path: Path) -> SensorFrame:
    """The counts of one colour as the sensor gave them, for measuring the camera. Raises InvalidInput.

    JPEGs are refused: a tone curve and compression stand between their values and the light.
    """
    kind = kind_of(path)
    if kind in {"JPEG", "TIFF"}:
        raise _no(
            f"“{path.name}” is a {kind}: its values are no longer those of the sensor. Set the camera to raw, or give FITS files.",
            path.name,
        )
    header = read_header(path)
    try:
        if kind == "FITS":
            with fits.open(path, memmap=False, lazy_load_hdus=True) as file:
                unit = _fits_unit(path, file)
                data = np.asarray(unit.data)
                if data.ndim != 2 or not np.issubdtype(data.dtype, np.integer):
                    raise _no(f"“{path.name}” holds no whole counts of a sensor. Give the frame before any processing.", path.name)
                told = unit.header.get("DATAMAX", unit.header.get("SATURATE"))
                clip = float(told) if isinstance(told, int | float) and told > 0 else float(np.iinfo(data.dtype).max)
                counts = data[::2, ::2] if "BAYERPAT" in unit.header else data
                return SensorFrame(path.name, np.ascontiguousarray(counts, dtype=np.float32), clip, header.camera, header.iso)
        import rawpy  # noqa: PLC0415

        with rawpy.imread(str(path)) as raw:
            mosaic, side = raw.raw_image_visible, 1 if raw.raw_pattern is None else raw.raw_pattern.shape[0]
            counts = np.ascontiguousarray(mosaic[::side, ::side], dtype=np.float32)
            return SensorFrame(path.name, counts, float(raw.white_level or mosaic.max()), header.camera, header.iso)
    except InvalidInput:
        raise
    except Exception as failed:
        raise _no(f"“{path.name}” could not be read as {kind}. Copy it from the card again.", path.name) from failed


def read_header(path: Path) -> Header:
    """Only what the file says of itself, without unpacking the picture. Raises InvalidInput."""
    kind = kind_of(path)
    try:
        if kind == "FITS":
            with fits.open(path, lazy_load_hdus=True) as file:
                return _fits_header(path, _fits_unit(path, file).header)
        if kind == "raw":
            import rawpy  # noqa: PLC0415

            with rawpy.imread(str(path)) as raw:
                return _exif_header(path, kind, raw.sizes.width, raw.sizes.height)
        with warnings.catch_warnings():
            warnings.simplefilter("ignore", Image.DecompressionBombWarning)
            if kind == "TIFF":
                import tifffile  # noqa: PLC0415

                with tifffile.TiffFile(path) as file:
                    page = file.pages.first
                    return _exif_header(path, kind, page.imagewidth, page.imagelength)
            with Image.open(path, formats=("JPEG",)) as image:
                return _exif_header(path, kind, *image.size)
    except InvalidInput:
        raise
    except Exception as failed:
        raise _no(f"“{path.name}” could not be read as {kind}. Copy it from the card again.", path.name) from failed

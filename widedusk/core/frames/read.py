"""A picture off the card: JPEG, TIFF, FITS or camera raw, told by its content and not by its name.

It becomes one plane of light, in proportion to what fell on the sensor as far as the file allows, and what the camera wrote
beside it. Everything is bounded before it is unpacked; large pictures are read at half their size.
The libraries of rarer kinds are loaded when a file of that kind comes, so that the web server carries none of them in vain.
"""

import mmap
import re
import warnings
from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass
from datetime import datetime, timedelta
from functools import partial
from pathlib import Path
from typing import Any, TypeVar

import numpy as np
from numpy.typing import NDArray

from widedusk.core.errors import Fault, InvalidInput, storable
from widedusk.core.frames import cuts
from widedusk.core.frames.header import MOST_PICTURE_BYTES, Header, Kind
from widedusk.core.frames.photon_transfer import SensorFrame
from widedusk.core.number_text import parse_number

Plane = NDArray[np.float32]

MOST_PIXELS = 125_000_000
MOST_UNPACKED_BYTES = 450_000_000
LEAST_SIDE_PX = 400
MOST_OF_A_CARD = 1e9  # no exposure, focal length, ISO or f-number is larger
FIRST_YEAR, LAST_YEAR = 1990, 2099  # of cameras' clocks
HALVE_ABOVE_PIXELS = 30_000_000
MOST_SCANS = 100  # of a progressive JPEG with its small views; a camera writes a dozen
MOST_TILE_BYTES = 64_000_000
MOST_PIECES = 200_000  # tiles or strips of a TIFF
FITS_BLOCK, MOST_FITS_BLOCKS, MOST_FITS_UNITS = 2880, 200, 8
WANTED = "Give a JPEG, TIFF, FITS or raw file as the camera wrote it."


@dataclass(frozen=True)
class Picture:
    """Luminance, rows from the top. `binning`: how many of the file's pixels, each way, went into one of these. `cuts`: its centre
    and corners pixel for pixel, (side, side) or with three colours last, cut out when they are asked for."""

    header: Header
    plane: Plane
    binning: int
    clip: float  # the highest count there can be
    cuts: Callable[[], tuple[Plane, ...]]
    curved: bool = False  # the camera drew it through a tone curve, of which only the usual part is taken off


def refused(message: str, value: object) -> InvalidInput:
    return InvalidInput([Fault("picture", value, message)])


# What people bring besides, and what to do about it.
_OTHERS = (
    (b"\x89PNG", 0, "a PNG: it was saved by another program and has lost when and how it was taken. Give the file off the card."),
    (b"ftyphei", 4, "a HEIC file, which is not read. Set the camera or phone to JPEG, or save this one as JPEG."),
    (b"ftypmif1", 4, "a HEIC file, which is not read. Set the camera or phone to JPEG, or save this one as JPEG."),
    (b"ftypavif", 4, "an AVIF file, which is not read. Save it as JPEG."),
    (b"ftypmp4", 4, "a film. Give single pictures."),
    (b"ftypisom", 4, "a film. Give single pictures."),
    (b"ftypqt", 4, "a film. Give single pictures."),
    (b"PK\x03\x04", 0, "an archive. Unpack it and give the pictures in it."),
    (b"WEBP", 8, "a WebP file: it was saved by another program. Give the file off the card."),
)


def kind_of(path: Path) -> Kind:
    """What a file is, by its first bytes. Raises InvalidInput when it is no picture, or too large to be one."""
    size = path.stat().st_size
    if size > MOST_PICTURE_BYTES:
        raise refused(f"The file has {size / 1e6:.0f} MB; a picture may have {MOST_PICTURE_BYTES / 1e6:.0f} MB.", path.name)
    with path.open("rb") as file:
        head = file.read(64)
    if head.startswith(b"\xff\xd8\xff"):
        return "JPEG"
    for mark, place, what in _OTHERS:
        if head[place:].startswith(mark):
            raise refused(f"“{path.name}” is {what}", path.name)
    if head.startswith(b"SIMPLE  ="):
        return "FITS"
    if head[:4] in {b"II*\0", b"MM\0*", b"II+\0", b"MM\0+"} and path.suffix.lower() in {".tif", ".tiff"}:
        return "TIFF"
    if len(head) < 64 or re.fullmatch(rb"[\t\n\r\x20-\x7e]+", head):
        what = "is empty" if not head else "holds text, whatever its name says"
        raise refused(f"“{path.name}” {what}. {WANTED}", path.name)
    return "raw"


def exif_header(path: Path, kind: Kind, width: int, height: int) -> Header:
    import exifread  # noqa: PLC0415

    with path.open("rb") as file:
        try:
            tags = exifread.process_file(file, details=False)
        except MemoryError:
            raise
        except Exception:  # a damaged header says nothing; the picture may be sound all the same
            tags = {}

    def text(name: str) -> str:
        return str(tags.get(f"EXIF {name}", "")).strip()

    def ratio(name: str) -> float | None:
        values = getattr(tags.get(f"EXIF {name}"), "values", None) or [None]
        try:
            value = float(np.ravel(values[0])[0])
        except (TypeError, ValueError, ZeroDivisionError, OverflowError, IndexError):
            return None
        return value if 0 < value < MOST_OF_A_CARD else None

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
        storable(str(tags.get("Image Model", "")))[:60],
    )


def _moment(stamp: str, fraction: str = "") -> datetime | None:
    try:
        whole = datetime.strptime(stamp[:19], "%Y:%m:%d %H:%M:%S")
    except ValueError:
        return None
    digits = re.match(r"\d{1,6}", fraction)
    return _credible(whole + timedelta(seconds=float(f"0.{digits[0]}")) if digits else whole)


def _credible(taken: datetime) -> datetime | None:
    """None for a clock of years in which nobody took pictures: it tells nothing, and at the ends of the calendar no sum holds."""
    return taken if FIRST_YEAR <= taken.year <= LAST_YEAR else None


def _offset(text: str) -> int | None:
    found = re.fullmatch(r"([+-])(\d\d):?(\d\d)", text)
    if not found:
        return 0 if text == "Z" else None
    minutes = int(found[2]) * 60 + int(found[3])
    if minutes > 15 * 60:
        return None
    return -minutes if found[1] == "-" else minutes


def bounded(width: int, height: int, bytes_a_pixel: int, name: str) -> None:
    if width * height > MOST_PIXELS or width * height * bytes_a_pixel > MOST_UNPACKED_BYTES:
        raise refused(
            f"“{name}” would unpack to {width} × {height} pixels, {width * height * bytes_a_pixel / 1e6:.0f} MB; "
            f"at most {MOST_PIXELS / 1e6:.0f} megapixels and {MOST_UNPACKED_BYTES / 1e6:.0f} MB are read. "
            "Set the camera to JPEG, or save a smaller copy.",
            name,
        )
    if min(width, height) < LEAST_SIDE_PX:
        raise refused(
            f"“{name}” has {width} × {height} pixels; {LEAST_SIDE_PX} each way are needed. "
            "Give the picture itself, not its thumbnail.",
            name,
        )


# The tone curve of IEC 61966-2-1 undone. Cameras bend theirs a little more; for places and widths of stars it is near enough.
_CODE = np.arange(256) / 255.0
LINEAR = np.where(_CODE <= 0.04045, _CODE / 12.92, ((_CODE + 0.055) / 1.055) ** 2.4).astype(np.float32)


def _scans(path: Path) -> int:
    """How often a JPEG begins a scan: the mark cannot stand inside coded light, only in small views beside it."""
    with path.open("rb") as file, mmap.mmap(file.fileno(), 0, access=mmap.ACCESS_READ) as content:
        count, at = 0, content.find(b"\xff\xda")
        while at >= 0 and count <= MOST_SCANS:
            count, at = count + 1, content.find(b"\xff\xda", at + 2)
        return count


def _read_jpeg(path: Path) -> Picture:
    from PIL import Image  # noqa: PLC0415

    if _scans(path) > MOST_SCANS:
        told = f"“{path.name}” builds its picture up in more than {MOST_SCANS} passes; no camera does. Give the file off the card."
        raise refused(told, path.name)
    with warnings.catch_warnings():
        warnings.simplefilter("ignore", Image.DecompressionBombWarning)
        try:
            opened = Image.open(path, formats=("JPEG",))
        except Image.DecompressionBombError:
            raise refused(f"“{path.name}” would unpack to more pixels than any camera has. {WANTED}", path.name) from None
    with opened as image:
        width, height = image.size
        bounded(width, height, 1, path.name)
        binning = 2 if width * height > HALVE_ABOVE_PIXELS else 1
        image.draft("L", (width // binning, height // binning))
        codes = np.asarray(image if image.mode == "L" else image.convert("L"))
    size = (width, height)
    binning = max(round(width / codes.shape[1]), 1)
    return Picture(
        exif_header(path, "JPEG", width, height),
        LINEAR[codes],
        binning,
        1.0,
        partial(_cuts_of_jpeg, path, size, codes if binning == 1 else None),
        True,
    )


def _cuts_of_jpeg(path: Path, size: tuple[int, int], light: NDArray[np.uint8] | None) -> tuple[Plane, ...]:
    """Light pixel for pixel, and colours at half the sharpness: no camera keeps more of them. light: where it is unpacked
    already."""
    from PIL import Image  # noqa: PLC0415

    with warnings.catch_warnings():
        warnings.simplefilter("ignore", Image.DecompressionBombWarning)
        with Image.open(path, formats=("JPEG",)) as image:
            if light is None:
                image.draft("L", size)
                light = np.asarray(image if image.mode == "L" else image.convert("L"))
        with Image.open(path, formats=("JPEG",)) as image:
            grey = image.mode == "L"
            image.draft("YCbCr", (size[0] // 2, size[1] // 2))
            small = None if grey else image.convert("YCbCr")
    found = []
    for left, top, side in cuts.boxes(*size):
        piece = np.ascontiguousarray(light[top : top + side, left : left + side])
        if small is None or small.width < size[0] // 2:
            found.append(LINEAR[piece])
            continue
        times = small.width / size[0]
        box = tuple(round(one * times) for one in (left, top, left + side, top + side))
        colours = small.crop(box).resize((side, side), Image.Resampling.BILINEAR).split()[1:]  # type: ignore[arg-type]
        found.append(LINEAR[np.asarray(Image.merge("YCbCr", (Image.fromarray(piece), *colours)).convert("RGB"))])
    return tuple(found)


def halved(plane: Plane) -> Plane:
    """Means of two by two pixels."""
    height, width = plane.shape[0] // 2 * 2, plane.shape[1] // 2 * 2
    even = plane[:height, :width]
    return np.asarray((even[::2, ::2] + even[1::2, ::2] + even[::2, 1::2] + even[1::2, 1::2]) / 4.0, dtype=np.float32)


def _from_array(path: Path, header: Header, array: NDArray[Any], letters: str = "") -> Picture:
    """One plane of an array of one or three colours; a mosaic of colours, of which the first two rows have these letters, is always
    halved."""
    if array.ndim == 3:
        colours = int(np.argmin(array.shape))
        array = np.moveaxis(array, colours, -1)[..., :3]
        plane = array.mean(axis=-1, dtype=np.float32)
    else:
        plane = array.astype(np.float32)
    if plane.ndim != 2:
        raise refused(f"“{path.name}” holds an array of {array.ndim} dimensions, no picture. {WANTED}", path.name)
    np.nan_to_num(plane, copy=False, nan=0.0, posinf=0.0, neginf=0.0)
    clip = float(np.iinfo(array.dtype).max) if np.issubdtype(array.dtype, np.integer) else float(plane.max())
    if clip <= 0.0:
        raise refused(f"“{path.name}” holds no light: its values are nought, too large, or no numbers. {WANTED}", path.name)
    whole = partial(cuts.of_array, array, letters if sorted(letters) == sorted("RGGB") else "")
    if array.dtype == np.uint8:
        plane, clip = LINEAR[plane.astype(np.uint8)], 1.0
    binning = 1
    if letters or plane.size > HALVE_ABOVE_PIXELS:
        plane, binning = halved(plane), 2
    return Picture(header, np.ascontiguousarray(plane), binning, clip, whole)


def tiff_array(path: Path) -> tuple[Header, NDArray[Any]]:
    """Header and values of a TIFF, bounded before it is unpacked. Raises InvalidInput."""
    import tifffile  # noqa: PLC0415

    with tifffile.TiffFile(path) as file:
        page = file.pages.first
        if page.ndim not in (2, 3):
            raise refused(f"“{path.name}” holds an array of {page.ndim} dimensions, no picture. {WANTED}", path.name)
        width, height = page.imagewidth, page.imagelength
        bounded(width, height, page.nbytes // max(width * height, 1), path.name)
        tile = page.tilewidth * page.tilelength * max(page.samplesperpixel, 1) * max(page.bitspersample // 8, 1)
        if tile > MOST_TILE_BYTES or len(page.dataoffsets) > MOST_PIECES:
            told = f"“{path.name}” is cut into pieces as no camera or program cuts them. Save it as a plain TIFF, or give the JPEG."
            raise refused(told, path.name)
        return exif_header(path, "TIFF", width, height), page.asarray(maxworkers=1)


def _read_tiff(path: Path) -> Picture:
    return _from_array(path, *tiff_array(path))


_END = b"END".ljust(80)


def _fits_units(path: Path) -> Iterator[tuple[Any, list[int], int]]:
    """Header, sides and bytes a value of each unit of a FITS file, read block by block and no further than it makes sense.

    The library that reads the light believes what a header says of its size; nothing goes there that was not weighed here.
    Raises InvalidInput for a header without an end, for sizes no picture has, and for light that is not in the file.
    """
    from astropy.io.fits import Header as Cards  # noqa: PLC0415

    size = path.stat().st_size
    with path.open("rb") as file:
        for _ in range(MOST_FITS_UNITS):
            text = b""
            while not any(text[at : at + 80] == _END for at in range(max(len(text) - FITS_BLOCK, 0), len(text), 80)):
                block = file.read(FITS_BLOCK)
                if len(block) < FITS_BLOCK:
                    if text.strip():
                        raise refused(f"The header of “{path.name}” has no end: it is damaged or cut short.", path.name)
                    return
                text += block
                if len(text) > MOST_FITS_BLOCKS * FITS_BLOCK:
                    raise refused(f"The header of “{path.name}” is longer than any camera writes. {WANTED}", path.name)
            cards = Cards.fromstring(text.decode("ascii", errors="replace"))
            count = _whole(cards.get("NAXIS", 0))
            if not 0 <= count <= 9:
                raise refused(f"“{path.name}” says it holds an array of {count} dimensions, no picture. {WANTED}", path.name)
            sides = [_whole(cards.get(f"NAXIS{axis}", 0)) for axis in range(1, count + 1)]
            width = abs(_whole(cards.get("BITPIX", 8))) // 8
            if any(not 0 <= side <= MOST_PICTURE_BYTES for side in sides) or width not in {1, 2, 4, 8}:
                raise refused(
                    f"“{path.name}” says it has {' × '.join(str(side)[:12] for side in sides)} pixels. {WANTED}", path.name
                )
            light = width * int(np.prod(sides, dtype=object)) if sides else 0
            light += min(max(_whole(cards.get("PCOUNT", 0)), 0), MOST_PICTURE_BYTES)
            if cards.get("ZIMAGE") is True:  # light packed into a table
                sides = [_whole(cards.get(f"ZNAXIS{axis}", 0)) for axis in range(1, min(_whole(cards.get("ZNAXIS", 0)), 9) + 1)]
                width = abs(_whole(cards.get("ZBITPIX", 8))) // 8
            yield cards, sides, width
            if file.tell() + light > size:
                raise refused(
                    f"“{path.name}” is cut short: its header tells of more light than there is. Copy it again.", path.name
                )
            file.seek(-(-light // FITS_BLOCK) * FITS_BLOCK, 1)


def _whole(given: object) -> int:
    """A whole number of a card; -1 for what is none."""
    return given if isinstance(given, int) and not isinstance(given, bool) else -1


def _fits_header(path: Path, head: Any, sides: list[int], width: int) -> Header:
    bounded(sides[0], sides[1], width * (sides[2] if len(sides) == 3 else 1), path.name)
    stamp = str(head.get("DATE-OBS", ""))
    try:
        taken = _credible(datetime.fromisoformat(stamp.rstrip("Z")).replace(tzinfo=None)) if "T" in stamp else None
    except ValueError:
        taken = None

    def number(*names: str) -> float | None:
        for name in names:
            value = head.get(name)
            if isinstance(value, int | float) and 0 < value < MOST_OF_A_CARD:
                return parse_number(value)
        return None

    exposure, focal, f_number = number("EXPTIME", "EXPOSURE"), number("FOCALLEN"), number("FNUMBER")
    iso = number("ISOSPEED", "ISO")
    camera = storable(str(head.get("INSTRUME", "")))[:60]
    offset = 0 if taken else None
    return Header("FITS", sides[0], sides[1], taken, offset, exposure, focal, int(iso) if iso else None, f_number, camera)


def fits_picture(path: Path) -> tuple[int, Header]:
    """Which unit holds the picture, and what its header says."""
    for place, (cards, sides, width) in enumerate(_fits_units(path)):
        if len(sides) in (2, 3) and (place == 0 or cards.get("XTENSION", "").strip() == "IMAGE" or cards.get("ZIMAGE") is True):
            return place, _fits_header(path, cards, sides, width)
    raise refused(f"“{path.name}” holds no picture, only a header. {WANTED}", path.name)


def fits_array(path: Path) -> tuple[Header, NDArray[Any], str]:
    """Header and values of a FITS file, rows from the top, and its mosaic of colours, empty where it has none; the pattern is that
    of the first rows as they are given here. Raises InvalidInput."""
    from astropy.io import fits  # noqa: PLC0415

    place, header = fits_picture(path)
    with fits.open(path, memmap=False, lazy_load_hdus=True) as file:
        unit = file[place]
        array = np.asarray(unit.data)[..., ::-1, :]  # FITS counts rows from the bottom
        pattern = str(unit.header.get("BAYERPAT", "")).strip().upper()
        if len(pattern) == 4 and array.shape[-2] % 2 == 0:
            pattern = pattern[2:] + pattern[:2]  # written for the rows as they lie in the file
        return header, array, pattern


def _read_fits(path: Path) -> Picture:
    return _from_array(path, *fits_array(path))


def _read_raw(path: Path) -> Picture:
    import rawpy  # noqa: PLC0415

    with rawpy.imread(str(path)) as raw:
        sizes = raw.sizes
        bounded(sizes.width, sizes.height, 2, path.name)
        mosaic = raw.raw_image_visible
        if mosaic.ndim != 2:
            raise refused(f"“{path.name}” is a raw file of a kind that keeps no sensor values. Give a JPEG instead.", path.name)
        header = exif_header(path, "raw", sizes.width, sizes.height)
        plane = halved(mosaic.astype(np.float32) - np.float32(np.mean(raw.black_level_per_channel)))
        clip = float(raw.white_level or plane.max())
        whole = cuts.doubled(partial(cuts.of_array, plane))
        tile = 0 if raw.raw_pattern is None else raw.raw_pattern.shape[0]
        if tile in {2, 6}:
            letters = raw.color_desc.decode("ascii", errors="replace")
            pattern = "".join(letters[one] for one in raw.raw_colors_visible[:tile, :tile].ravel())
            pieces = cuts.of_array(mosaic, pattern)  # at once: the file is closed behind it
            whole = lambda: pieces  # noqa: E731
        if tile == 6:
            # A six by six mosaic: two by two pixels do not hold the same colours everywhere.
            for row in range(3):
                for column in range(3):
                    plane[row::3, column::3] -= np.median(plane[row::3, column::3])
    return Picture(header, np.ascontiguousarray(plane), 2, clip, whole)


_READERS: dict[Kind, Callable[[Path], Picture]] = {"JPEG": _read_jpeg, "TIFF": _read_tiff, "FITS": _read_fits, "raw": _read_raw}


T = TypeVar("T")


def read_as(path: Path, readers: Mapping[Kind, Callable[[Path], T]]) -> T:
    """Read a file by the reader of its kind. Raises InvalidInput with what is wrong with the file and what to do."""
    kind = kind_of(path)
    try:
        return readers[kind](path)
    except InvalidInput:
        raise
    except MemoryError:
        raise refused(
            f"“{path.name}” needs more memory than a picture should. Save a smaller copy, or a JPEG.", path.name
        ) from None
    except Exception as failed:  # four libraries, each with its own errors: to a person they all mean this
        said = " ".join(str(failed).split())[:120]
        raise refused(
            f"“{path.name}” could not be read as {kind}: it is damaged or cut short ({said or type(failed).__name__}). "
            "Copy it from the card again, or give the JPEG.",
            path.name,
        ) from failed


def read_picture(path: Path) -> Picture:
    """Read a whole picture. Raises InvalidInput with what is wrong with the file and what to do."""
    return read_as(path, _READERS)


def read_sensor(path: Path) -> SensorFrame:
    """The counts of one colour as the sensor gave them, for measuring the camera. Raises InvalidInput.

    JPEGs are refused: a tone curve and compression stand between their values and the light.
    """
    kind = kind_of(path)
    if kind in {"JPEG", "TIFF"}:
        raise refused(
            f"“{path.name}” is a {kind}: its values are no longer those of the sensor. Set the camera to raw, or give FITS files.",
            path.name,
        )
    header = read_header(path)
    try:
        if kind == "FITS":
            from astropy.io import fits  # noqa: PLC0415

            with fits.open(path, memmap=False, lazy_load_hdus=True) as file:
                unit = file[fits_picture(path)[0]]
                data = np.asarray(unit.data)
                if data.ndim != 2 or not np.issubdtype(data.dtype, np.integer):
                    raise refused(
                        f"“{path.name}” holds no whole counts of a sensor. Give the frame before any processing.", path.name
                    )
                told = unit.header.get("DATAMAX", unit.header.get("SATURATE"))
                clip = (
                    float(told) if isinstance(told, int | float) and 0 < told < MOST_OF_A_CARD else float(np.iinfo(data.dtype).max)
                )
                counts = data[::2, ::2] if "BAYERPAT" in unit.header else data
                return SensorFrame(path.name, np.ascontiguousarray(counts, dtype=np.float32), clip, header.camera, header.iso)
        import rawpy  # noqa: PLC0415

        with rawpy.imread(str(path)) as raw:
            mosaic, side = raw.raw_image_visible, 1 if raw.raw_pattern is None else raw.raw_pattern.shape[0]
            counts = np.ascontiguousarray(mosaic[::side, ::side], dtype=np.float32)
            return SensorFrame(path.name, counts, float(raw.white_level or mosaic.max()), header.camera, header.iso)
    except (InvalidInput, MemoryError):
        raise
    except Exception as failed:
        raise refused(f"“{path.name}” could not be read as {kind}. Copy it from the card again.", path.name) from failed


def read_header(path: Path) -> Header:
    """Only what the file says of itself, without unpacking the picture. Raises InvalidInput."""
    kind = kind_of(path)
    try:
        if kind == "FITS":
            return fits_picture(path)[1]
        if kind == "raw":
            import rawpy  # noqa: PLC0415

            with rawpy.imread(str(path)) as raw:
                return exif_header(path, kind, raw.sizes.width, raw.sizes.height)
        if kind == "TIFF":
            import tifffile  # noqa: PLC0415

            with tifffile.TiffFile(path) as file:
                page = file.pages.first
                return exif_header(path, kind, page.imagewidth, page.imagelength)
        from PIL import Image  # noqa: PLC0415

        with warnings.catch_warnings():
            warnings.simplefilter("ignore", Image.DecompressionBombWarning)
            with Image.open(path, formats=("JPEG",)) as image:
                return exif_header(path, kind, *image.size)
    except (InvalidInput, MemoryError):
        raise
    except Exception as failed:
        raise refused(f"“{path.name}” could not be read as {kind}. Copy it from the card again.", path.name) from failed

"""What is kept and what is culled, for other programs: tables, lists of names, FITS keywords with lists of stars, XMP sidecars.

XMP: ISO 16684-1; xmp:Rating -1 is "rejected", 1 to 5 stars; xmp:Label is free text. FITS 4.0 (IAU FWG 2018): names of keywords
have at most eight characters; DATE-OBS is its own, EXPTIME, RA and DEC are widely used.
"""

import csv
import io
import zipfile
from collections.abc import Sequence
from dataclasses import dataclass, fields
from typing import Literal
from xml.sax.saxutils import escape, quoteattr

import numpy as np

from widedusk.core.files import shielded
from widedusk.core.sky.time import Floats

TableForm = Literal["csv", "ecsv", "kept", "culled"]
RATING = {"keep": 3, "less": 2, "cull": -1}
LABEL = {"keep": "Kept", "less": "Kept with less weight", "cull": "Culled"}
FIRST_MOMENT = (1980, 1, 1, 0, 0, 0)  # the least that a zip can hold: nothing in it hangs on a clock


@dataclass(frozen=True)
class Line:
    """One frame as it is told to other programs. by: who had the last word. NaN where a frame does not tell."""

    file: str
    began_utc: str
    exposure_s: float
    word: str
    by: str
    weight: float
    cause: str
    reason: str
    fwhm_px: float
    elongation: float
    starlight: float
    background: float
    ra_deg: float
    dec_deg: float
    sky_mag: float


UNITS = {"exposure_s": "s", "fwhm_px": "pix", "ra_deg": "deg", "dec_deg": "deg", "sky_mag": "mag / arcsec2"}


def table_text(lines: Sequence[Line], form: TableForm) -> str:
    """The list of a run in one of its forms."""
    if form in {"kept", "culled"}:
        wanted = {"keep", "less"} if form == "kept" else {"cull"}
        return "".join(f"{one.file}\n" for one in lines if one.word in wanted)
    names = [one.name for one in fields(Line)]
    if form == "csv":
        out = io.StringIO()
        writer = csv.writer(out, lineterminator="\n")
        writer.writerow(names)
        writer.writerows([_plain(getattr(one, name)) for name in names] for one in lines)
        return out.getvalue()
    from astropy.table import Table  # noqa: PLC0415 - large, and only for this

    table = Table({name: [getattr(one, name) for one in lines] for name in names})
    for name, unit in UNITS.items():
        table[name].unit = unit
    out = io.StringIO()
    table.write(out, format="ascii.ecsv")
    return out.getvalue()


# A field of a line, the keyword of a FITS header that says it, and what it is.
KEYWORDS = (
    ("file", "FILENAME", "name of the file"),
    ("began_utc", "DATE-OBS", "UTC when the exposure began"),
    ("exposure_s", "EXPTIME", "exposure"),
    ("ra_deg", "RA", "ICRS, middle of the picture"),
    ("dec_deg", "DEC", "ICRS, middle of the picture"),
    ("fwhm_px", "FWHM", "of stars across their trail"),
    ("elongation", "ELONG", "long axis over width"),
    ("starlight", "STARLGHT", "share of that of a clear sky"),
    ("background", "BACKGRND", "share of full scale"),
    ("sky_mag", "SKYMAG", "against stars above the air"),
    ("weight", "WEIGHT", "in the stack, 1 for a good frame"),
    ("word", "VERDICT", "keep, less or cull"),
    ("by", "BY", "who had the last word"),
    ("cause", "CAUSE", "likeliest cause"),
    ("reason", "REASON", "as measured"),
)
STAR_COLUMNS = (  # of the lists of stars: name, unit, what it is
    ("RA", "deg", "ICRS"),
    ("DEC", "deg", "ICRS"),
    ("VMAG", "mag", "Johnson V"),
    ("X", "pix", "right of the left edge of the picture"),
    ("Y", "pix", "down from its upper edge"),
    ("LIGHT", "", "above the background, as counted"),
)


def tables_fits(lines: Sequence[Line], stars: Sequence[Floats]) -> bytes:
    """A FITS file with two tables: FRAMES, a row a frame with columns named as keywords of its header, and STARS, the named stars
    of every frame with the row (from 1) of theirs.

    stars: of each line, shape (n, 6) in the order of STAR_COLUMNS.
    """
    from astropy.io import fits  # noqa: PLC0415 - large, and only for this

    def column(field: str, keyword: str) -> fits.Column:
        values = [getattr(one, field) for one in lines]
        if isinstance(values[0], float):
            return fits.Column(keyword, "D", UNITS.get(field, "").replace("arcsec2", "arcsec**2"), array=np.array(values))
        texts = [one.encode("ascii", "replace") for one in values]  # a FITS table holds ASCII alone
        return fits.Column(keyword, f"{max(1, *map(len, texts))}A", array=np.array(texts))

    frames = fits.BinTableHDU.from_columns([column(field, keyword) for field, keyword, _ in KEYWORDS], name="FRAMES")
    every = np.concatenate([np.empty((0, len(STAR_COLUMNS))), *stars])
    rows = np.repeat(np.arange(len(lines), dtype=np.int32) + 1, [len(one) for one in stars])
    listed = [fits.Column("FRAME", "J", array=rows)]
    listed += [fits.Column(name, "D", unit, array=every[:, place]) for place, (name, unit, _) in enumerate(STAR_COLUMNS)]
    table = fits.BinTableHDU.from_columns(listed, name="STARS")
    for hdu, told in (
        (frames, [about for *_, about in KEYWORDS]),
        (table, ["row in FRAMES", *(about for *_, about in STAR_COLUMNS)]),
    ):
        for place, about in enumerate(told, 1):
            hdu.header.comments[f"TTYPE{place}"] = about
    out = io.BytesIO()
    fits.HDUList([fits.PrimaryHDU(), frames, table]).writeto(out)
    return out.getvalue()


def _plain(value: object) -> object:
    if isinstance(value, float):
        return "" if value != value else f"{value:.6g}"  # noqa: PLR0124 - NaN
    return shielded(value) if isinstance(value, str) else value


def sidecar(line: Line) -> str:
    """The XMP packet of one frame."""
    about = " ".join(part for part in (LABEL[line.word] + ".", line.reason) if part)
    return (
        '<?xpacket begin="\ufeff" id="W5M0MpCehiHzreSzNTczkc9d"?>\n'
        '<x:xmpmeta xmlns:x="adobe:ns:meta/">\n'
        ' <rdf:RDF xmlns:rdf="http://www.w3.org/1999/02/22-rdf-syntax-ns#">\n'
        '  <rdf:Description rdf:about="" xmlns:xmp="http://ns.adobe.com/xap/1.0/" xmlns:dc="http://purl.org/dc/elements/1.1/"\n'
        f'    xmp:Rating="{RATING[line.word]}" xmp:Label={quoteattr(LABEL[line.word])}>\n'
        f'   <dc:description><rdf:Alt><rdf:li xml:lang="x-default">{escape(about)}</rdf:li></rdf:Alt></dc:description>\n'
        "  </rdf:Description>\n"
        " </rdf:RDF>\n"
        "</x:xmpmeta>\n"
        '<?xpacket end="w"?>\n'
    )


def sidecars(lines: Sequence[Line]) -> bytes:
    """A zip with a sidecar for each frame, named after it."""
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        for one in lines:
            stem = one.file.rsplit(".", 1)[0]
            archive.writestr(zipfile.ZipInfo(f"{stem}.xmp", FIRST_MOMENT), sidecar(one))
    return out.getvalue()

"""What is kept and what is culled, for other programs: tables, lists of names, and XMP sidecars.

XMP: ISO 16684-1; xmp:Rating -1 is "rejected", 1 to 5 stars; xmp:Label is free text.
"""

import csv
import io
import zipfile
from collections.abc import Sequence
from dataclasses import dataclass, fields
from typing import Literal
from xml.sax.saxutils import escape, quoteattr

from widedusk.core.files import shielded

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

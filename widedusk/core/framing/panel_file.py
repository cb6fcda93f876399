"""Panels as files: CSV and ECSV of centres and corners in and out, outlines as text out. Columns: docs/formats.md.

Every row carries the framing it belongs to, so that any one of them brings it back; ECSV brings back what shall be in the picture
too. Outlines are one line a panel as the IVOA writes polygons (DALI 1.1, section 3.3.7, after STC-S): POLYGON ICRS and then right
ascension and declination of the corners, degrees.
"""

import csv
import io
from collections.abc import Mapping
from dataclasses import asdict
from typing import Any

import numpy as np
from astropy import units
from astropy.table import Table

from widedusk.core.errors import InvalidInput, storable
from widedusk.core.files import PanelFormat, bared, bound_rows, refuse, shielded, text_of
from widedusk.core.framing.frame import Subject, corners, ra_dec_deg
from widedusk.core.framing.framing import MOST_WANTED, Framing
from widedusk.core.framing.panels import MOST_PANELS, Panels
from widedusk.core.number_text import parse_number

OF_THE_FRAMING = ("framing", "middle_ra_deg", "middle_dec_deg", "middle_angle_deg", "columns", "rows", "overlap", "grid")
_CORNERS = ("upper_left", "upper_right", "lower_right", "lower_left")
CORNERS = tuple(f"{name}_{part}_deg" for name in _CORNERS for part in ("ra", "dec"))
COLUMNS = (*OF_THE_FRAMING, "row", "column", "shot", "ra_deg", "dec_deg", "angle_deg", "width_deg", "height_deg", *CORNERS)
_DEGREES = tuple(name for name in COLUMNS if name.endswith("_deg"))


def _rows(framing: Framing, laid: Panels) -> list[dict[str, Any]]:
    kept = set(framing.kept(laid))
    found = []
    for one in laid.panels:
        ra, dec = ra_dec_deg(corners(one.frame))
        corner = dict(zip(CORNERS, (float(value) for pair in zip(ra, dec, strict=True) for value in pair), strict=True))
        found.append(
            {
                "framing": framing.name,
                "middle_ra_deg": framing.ra_deg,
                "middle_dec_deg": framing.dec_deg,
                "middle_angle_deg": framing.angle_deg,
                "columns": framing.columns,
                "rows": framing.rows,
                "overlap": framing.overlap,
                "grid": framing.grid,
                "row": one.row + 1,
                "column": one.column + 1,
                "shot": "yes" if one in kept else "no",
                **{name: getattr(one.frame, name) for name in ("ra_deg", "dec_deg", "angle_deg", "width_deg", "height_deg")},
                **corner,
            }
        )
    return found


def write_panels(framing: Framing, laid: Panels, form: PanelFormat) -> str:
    """The panels of a framing as the text of a file, in the order in which they are shot."""
    rows = _rows(framing, laid)
    out = io.StringIO()
    if form == "outlines":
        for row in rows:
            if row["shot"] == "yes":
                out.write("POLYGON ICRS " + " ".join(f"{row[name]:.6f}" for name in CORNERS) + "\n")
        return out.getvalue()
    if form == "csv":
        lines = csv.writer(out)
        lines.writerow(COLUMNS)
        lines.writerows([[shielded(row[name]) for name in COLUMNS] for row in rows])
        return out.getvalue()
    table = Table({name: [row[name] for row in rows] for name in COLUMNS})
    for name in _DEGREES:
        table[name].unit = units.deg
    table.meta["description"] = "Panels of one framing; places ICRS, angles from north through east"
    table.meta["wanted"] = [asdict(one) for one in framing.wanted]
    table.write(out, format="ascii.ecsv", delimiter=",")
    return out.getvalue()


def _csv_rows(text: str) -> list[dict[str, Any]]:
    try:
        reader = csv.DictReader(io.StringIO(text, newline=""), strict=True)
        named = [{(name or "").strip(): cell for name, cell in row.items()} for row in reader]
    except csv.Error as caught:
        raise refuse(f"This is no table of comma-separated values: {caught}.") from caught
    return [{name: bared(cell.strip()) if isinstance(cell, str) else "" for name, cell in row.items()} for row in named]


def _ecsv_rows(text: str) -> tuple[list[dict[str, Any]], list[Any]]:
    try:
        table = Table.read(text, format="ascii.ecsv")
    except (MemoryError, RecursionError):
        raise
    except Exception as caught:  # astropy raises many kinds for a bad file; each means the same to a person
        raise refuse(f"The table cannot be read: {storable(str(caught))[:160] or 'no reason given'}") from caught
    wanted = table.meta.get("wanted", []) if isinstance(table.meta, Mapping) else []
    columns = {name: np.asarray(table[name]).tolist() for name in table.colnames}
    rows = [dict(zip(columns, cells, strict=True)) for cells in zip(*columns.values(), strict=True)]
    return rows, wanted if isinstance(wanted, list) else []


def _number(row: Mapping[str, Any], name: str, place: int, whole: bool = False) -> float:
    cell = row.get(name)
    try:
        value = parse_number(cell)
        if whole and value != int(value):
            raise ValueError
    except (TypeError, ValueError) as caught:
        said = storable(str(cell))[:40]
        kind = "a whole number" if whole else "a number; write decimal degrees with a point"
        raise refuse(f"Row {place}, {name}: “{said}” is not {kind}.", said, f"row {place}, {name}") from caught
    return value


def read_panels(content: bytes) -> Framing:
    """A framing out of a CSV or ECSV file of its panels. Raises InvalidInput naming the row and column of what cannot be right."""
    text = text_of(content)
    if text.lstrip()[:13] == "POLYGON ICRS ":
        raise refuse("Outlines do not say how they were cut; bring the CSV or ECSV of the same panels.")
    rows, wanted = _ecsv_rows(text) if text.lstrip().startswith("# %ECSV") else (_csv_rows(text), [])
    if not rows:
        raise refuse("The table has no rows.", 0)
    bound_rows(len(rows))
    if len(rows) > MOST_PANELS:
        raise refuse(f"The file has {len(rows)} panels; up to {MOST_PANELS} are laid.", len(rows))
    missing = [name for name in (*OF_THE_FRAMING, "row", "column", "shot") if name not in rows[0]]
    if missing:
        raise refuse(f"Column “{missing[0]}” is missing; the columns are {', '.join(COLUMNS)}.", missing[0])
    if any(rows[0][name] != row.get(name) for row in rows for name in OF_THE_FRAMING):
        raise refuse("The rows belong to several framings; bring one at a time.")
    first = rows[0]
    dropped = tuple(
        (int(_number(row, "row", place, True)) - 1, int(_number(row, "column", place, True)) - 1)
        for place, row in enumerate(rows, start=1)
        if str(row["shot"]).strip().lower() in {"no", "false", "0"}
    )
    try:
        return Framing(
            name=storable(str(first["framing"]))[:120],
            ra_deg=_number(first, "middle_ra_deg", 1),
            dec_deg=_number(first, "middle_dec_deg", 1),
            angle_deg=_number(first, "middle_angle_deg", 1),
            columns=int(_number(first, "columns", 1, True)),
            rows=int(_number(first, "rows", 1, True)),
            overlap=_number(first, "overlap", 1),
            grid="equatorial" if str(first["grid"]).strip() == "equatorial" else "turned",
            dropped=dropped,
            wanted=_wanted(wanted),
        )
    except InvalidInput as caught:
        raise InvalidInput([*caught.faults[:20]]) from caught


def _wanted(given: list[Any]) -> tuple[Subject, ...]:
    found = []
    for one in given[:MOST_WANTED]:
        if not isinstance(one, Mapping):
            raise refuse("What shall be in the picture is written otherwise than here; take it out of the file’s head.")
        try:
            ra, dec, long, angle = (parse_number(one.get(name)) for name in ("ra_deg", "dec_deg", "long_deg", "angle_deg"))
            short = None if one.get("short_deg") is None else parse_number(one.get("short_deg"))
            found.append(Subject(storable(str(one.get("name", "")))[:120], ra, dec, long, short, angle))
        except (TypeError, ValueError) as caught:
            raise refuse("What shall be in the picture has a value that is no number.") from caught
    return tuple(found)

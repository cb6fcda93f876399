"""Targets as tables: CSV, ECSV and VOTable in and out. The columns are described in docs/formats.md.

A VOTable or ECSV of another maker is read too: its places are found by their UCD or by the usual names of their columns.
"""

import csv
import io
import math
import warnings
from collections.abc import Mapping, Sequence
from typing import Any, cast

import numpy as np
from astropy import units
from astropy.io.votable import from_table
from astropy.table import Table

from widedusk.core.errors import Fault, InvalidInput, storable
from widedusk.core.files import MOST_ROWS, TargetsFormat, bared, bound_rows, refuse, shielded, text_of, xml_of
from widedusk.core.number_text import parse_number
from widedusk.core.scene import Target

COLUMNS = (
    "name",
    "ra_deg",
    "dec_deg",
    "extent_deg",
    "width_deg",
    "angle_deg",
    "surface_mag",
    "kind",
    "light",
    "constellation",
    "numbers",
)
_TEXTS = {"name", "kind", "light", "constellation", "numbers"}
_UNITS = {
    "ra_deg": units.deg,
    "dec_deg": units.deg,
    "extent_deg": units.deg,
    "width_deg": units.deg,
    "angle_deg": units.deg,
    "surface_mag": units.mag / units.arcsec**2,
}
_UCDS = {"name": "meta.id;meta.main", "ra_deg": "pos.eq.ra;meta.main", "dec_deg": "pos.eq.dec;meta.main", "angle_deg": "pos.posAng"}
_OTHER_NAMES = {
    "name": ("name", "main_id", "id", "object", "designation"),
    "ra_deg": ("ra_deg", "ra", "raj2000", "_raj2000", "ra_icrs", "_ra"),
    "dec_deg": ("dec_deg", "dec", "dej2000", "_dej2000", "decj2000", "de_icrs", "_de"),
}
MOST_COLUMNS, MOST_CELL = 300, 2_000
# What is taken where a table is silent, and told to whoever brings it.
USUAL_EXTENT_DEG, USUAL_SURFACE_MAG = 1.0, 22.0


def _table_of(targets: Sequence[Target]) -> Table:
    def cell(target: Target, name: str) -> Any:
        value = getattr(target, name)
        return target.extent_deg if name == "width_deg" and value is None else value

    table = Table({name: [cell(one, name) for one in targets] for name in COLUMNS})
    table.meta["description"] = "Targets; places ICRS at J2000.0"
    for name in COLUMNS:
        table[name].unit = _UNITS.get(name)
        if name in _UCDS:
            table[name].meta["ucd"] = _UCDS[name]
    return table


def write_targets(targets: Sequence[Target], form: TargetsFormat) -> str:
    """Targets as the text of a file."""
    if form == "csv":
        out = io.StringIO()
        rows = csv.writer(out)
        rows.writerow(COLUMNS)
        rows.writerows(
            [["" if getattr(one, name) is None else shielded(getattr(one, name)) for name in COLUMNS] for one in targets]
        )
        return out.getvalue()
    table = _table_of(targets)
    if form == "ecsv":
        text = io.StringIO()
        table.write(text, format="ascii.ecsv", delimiter=",")
        return text.getvalue()
    binary = io.BytesIO()
    # astropy's compiled writer of rows (8.0.2) sets a byte behind its buffer; the one in Python beside it does not.
    from_table(table).to_xml(binary, tabledata_format="tabledata", _debug_python_based_parser=True)
    return binary.getvalue().decode()


def _columns_of(table: Table) -> dict[str, str]:
    """Which column of a table holds each of ours: by our own name, by UCD, by the usual names."""
    by_ucd = {str(table[name].meta.get("ucd", "")).lower(): name for name in table.colnames}
    by_name = {name.lower(): name for name in reversed(table.colnames)}
    found = {name: by_name[name] for name in COLUMNS if name in by_name}
    for wanted, others in _OTHER_NAMES.items():
        ucd = _UCDS[wanted]
        # The main place first, then any place, then the usual names.
        spelled = [by_ucd.get(ucd), by_ucd.get(ucd.split(";")[0]), *(by_name.get(other) for other in others)]
        chosen = next((name for name in spelled if name), None)
        if wanted not in found and chosen:
            found[wanted] = chosen
    return found


def _plain(value: object) -> str | float | None:
    """A cell as a text or a number. Raises TypeError for anything larger."""
    if value is None or np.ma.is_masked(value):
        return None
    if isinstance(value, np.generic):
        value = value.item()
    if isinstance(value, bytes):
        return value.decode(errors="replace")
    if isinstance(value, (str, int, float)):
        return value
    raise TypeError(type(value).__name__)


def _cells(table: Table) -> list[dict[str, Any]]:
    named = _columns_of(table)
    faults = [
        Fault("file", None, f"The table has no column for the {word}; it needs one called {name}, or marked as {_UCDS[name]}.")
        for name, word in (("ra_deg", "right ascension"), ("dec_deg", "declination"), ("name", "name"))
        if name not in named
    ]
    if faults:
        raise InvalidInput(faults)
    values = {}
    for name, column in named.items():
        held = table[column]
        if held.ndim != 1 or held.dtype.kind == "c":
            what = "complex numbers" if held.dtype.kind == "c" else f"arrays of shape {held.shape[1:]}"
            raise refuse(f"Column “{column}” holds {what}; one number or text a row is needed.", column)
        unit = getattr(held, "unit", None)
        if name in _UNITS and unit is not None and held.dtype.kind in "fiu":
            try:
                factor = units.Unit(unit).to(_UNITS[name])
            except (units.UnitConversionError, ValueError, TypeError) as caught:
                told = f"Column “{column}” is in {unit}; it should be in {_UNITS[name]}."
                raise refuse(told, str(unit), f"column {column}") from caught
            held = held * factor
        try:
            values[name] = [_plain(value) for value in held]
        except TypeError as caught:
            raise refuse(f"Column “{column}” holds {caught}; one number or text a row is needed.", column) from caught
    return [dict(zip(values, row, strict=True)) for row in zip(*values.values(), strict=True)]


def _read_votable(content: bytes) -> list[dict[str, Any]]:
    root = xml_of(content)
    columns = rows = 0
    for one in root.iter():
        word = str(one.tag).rpartition("}")[2].upper()
        if word == "STREAM" and any(name.rpartition("}")[2].lower() == "href" for name in one.attrib):
            raise refuse("Its rows lie in another file, which is not fetched; export it again with the rows inside.")
        columns += word == "FIELD"
        rows += word in {"TR", "ROW"}
        said = str(one.attrib.get("nrows", "0"))
        if word == "TABLE" and said.strip() and not (said.isdecimal() and len(said) < 10 and int(said) <= MOST_ROWS):
            raise refuse(f"The file says it has {said[:20]} rows; give at most {MOST_ROWS:,} at a time.", said[:20])
        if word in {"FIELD", "PARAM"} and _cell_size(str(one.attrib.get("arraysize", "1"))) > MOST_CELL:
            told = f"A column of it has {str(one.attrib['arraysize'])[:20]} values in a cell; one is needed."
            raise refuse(told, str(one.attrib["arraysize"])[:20])
    bound_rows(rows)
    if columns > MOST_COLUMNS:
        raise refuse(f"The table has {columns:,} columns; give at most {MOST_COLUMNS}.", columns)
    return _cells(_astropy(io.BytesIO(content), "votable"))


def _cell_size(arraysize: str) -> int:
    """How many values a cell of a VOTable holds by its own word; a variable length counts as one."""
    size = 1
    for side in arraysize.replace("*", "x1").split("x"):
        if side.strip():
            size *= int(side) if side.strip().isdecimal() and len(side) < 10 else MOST_CELL + 1
    return size


def _astropy(source: io.BytesIO | str, form: str) -> Table:
    with warnings.catch_warnings():
        warnings.simplefilter("ignore")  # small breaches of the standard are common and harmless here
        try:
            return Table.read(source, format=form)
        except (MemoryError, RecursionError):
            raise
        except Exception as caught:  # astropy raises many kinds for a bad file; each means the same to a person
            raise refuse(f"The table cannot be read: {storable(str(caught))[:160] or 'no reason given'}") from caught


def _read_csv(text: str) -> list[dict[str, Any]]:
    try:
        reader = csv.DictReader(io.StringIO(text, newline=""), strict=True)
        columns = [name.strip() for name in reader.fieldnames or []]
        reader.fieldnames = columns
        missing = [name for name in ("name", "ra_deg", "dec_deg") if name not in columns]
        if missing:
            raise InvalidInput(
                [Fault("file", name, f"Column “{name}” is missing; the columns are {', '.join(COLUMNS)}.") for name in missing]
            )
        return [
            {name: bared(cell.strip()) if isinstance(cell, str) else None for name, cell in row.items() if name} for row in reader
        ]
    except csv.Error as caught:
        raise refuse(f"This is no table of comma-separated values: {caught}.") from caught


def _target(row: Mapping[str, Any], path: str, faults: list[Fault]) -> Target | None:
    values: dict[str, Any] = {"extent_deg": USUAL_EXTENT_DEG, "surface_mag": USUAL_SURFACE_MAG}
    before = len(faults)
    for name in COLUMNS:
        cell = row.get(name)
        if cell is None or cell == "" or (isinstance(cell, float) and math.isnan(cell)):  # NaN stands for nothing in tables
            continue
        if name in _TEXTS:
            values[name] = storable(str(cell))[: 240 if name == "numbers" else 120]
            continue
        try:
            values[name] = parse_number(cell)
        except ValueError:
            said = storable(str(cell))[:40]
            faults.append(Fault(f"{path}, {name}", said, f"“{said}” is no number; write decimal degrees."))
    for name in ("name", "ra_deg", "dec_deg"):
        if name not in values and len(faults) == before:
            faults.append(Fault(f"{path}, {name}", None, "This is needed in every row."))
    if len(faults) > before:
        return None
    try:
        return Target(**values)
    except InvalidInput as caught:
        faults += [Fault(f"{path}, {fault.field}", fault.value, fault.message) for fault in caught.faults]
        return None


def read_targets(content: bytes) -> tuple[Target, ...]:
    """Targets out of a CSV, ECSV or VOTable file; which of them it is, is seen from its beginning.

    Raises InvalidInput naming the row and column of everything that cannot be right; nothing is taken in halves.
    """
    text = text_of(content)
    begins = text.lstrip()[:20]
    if begins.startswith("<"):
        rows = _read_votable(content)
    elif begins.startswith("# %ECSV"):
        rows = _cells(_astropy(text, "ascii.ecsv"))
    else:
        rows = _read_csv(text)
    if not rows:
        raise refuse("The table has no rows.", 0)
    bound_rows(len(rows))
    faults: list[Fault] = []
    targets = [_target(row, f"row {number}", faults) for number, row in enumerate(rows, start=1)]
    if faults:
        raise InvalidInput(faults[:20])
    return tuple(cast(list[Target], targets))

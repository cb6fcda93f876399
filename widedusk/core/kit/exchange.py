"""Inventory and rigs as files: one JSON document, or two CSV tables. The formats are described in docs/formats.md."""

import csv
import io
import json
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import Any, cast

from widedusk.core.errors import Fault, InvalidInput, storable
from widedusk.core.files import bared, bound_rows, refuse, shielded, text_of
from widedusk.core.kit.assembly import Assembly, Placed
from widedusk.core.kit.described import About, abouts, build, plain
from widedusk.core.kit.parts import KINDS, Part
from widedusk.core.number_text import parse_number

FORMAT, VERSION = "wide-dusk kit", 1
RIG_COLUMNS = ("rig", "star_fwhm_px", "focal_mm", "part", "arm_mm", "along_mm", "carried", "fed_by")
_RIG_NEEDS = ("rig", "part", "arm_mm")
_PART_NEEDS = ("kind", "name", "mass_g")


@dataclass(frozen=True)
class Inventory:
    parts: tuple[Part, ...]
    rigs: tuple[Assembly, ...]


def part_columns() -> tuple[str, ...]:
    """Columns of the table of parts: kind, then every field of any kind in the order of first use."""
    return ("kind", *dict.fromkeys(name for shape in KINDS.values() for name, _, _ in abouts(shape)))


def _row_text(about: About, value: Any) -> str:
    """Rows inside a cell: "800:3.9:24000; 1600:2.9:12000"."""
    names = [name for name, _, _ in abouts(cast(type[Any], about.row))]
    return "; ".join(":".join(f"{row[name]:g}" for name in names) for row in value)


def _row_values(about: About, text: str) -> list[dict[str, str]]:
    names = [name for name, _, _ in abouts(cast(type[Any], about.row))]
    return [dict(zip(names, (cell.strip() for cell in one.split(":")), strict=False)) for one in text.split(";") if one.strip()]


def parts_csv(parts: Sequence[Part]) -> str:
    out = io.StringIO()
    table = csv.DictWriter(out, part_columns(), restval="")
    table.writeheader()
    for part in parts:
        values = plain(part)
        known = {name: about for name, about, _ in abouts(type(part))}
        cells = {name: _row_text(known[name], value) if known[name].sort == "rows" else value for name, value in values.items()}
        said = {True: "yes", False: "no", None: ""}
        table.writerow(
            {
                "kind": part.KIND,
                **{
                    name: said[value] if value is None or isinstance(value, bool) else shielded(value)
                    for name, value in cells.items()
                },
            }
        )
    return out.getvalue()


def rigs_csv(rigs: Sequence[Assembly]) -> str:
    out = io.StringIO()
    table = csv.writer(out)
    table.writerow(RIG_COLUMNS)
    for rig in rigs:
        for one in rig.placed:
            head = (rig.name, rig.star_fwhm_px, rig.focal_mm if rig.focal_mm is not None else "")
            row = (*head, one.name, one.arm_mm, one.along_mm, "yes" if one.carried else "no", one.fed_by or "")
            table.writerow([shielded(cell) for cell in row])
    return out.getvalue()


def kit_json(parts: Sequence[Part], rigs: Sequence[Assembly]) -> str:
    document = {
        "format": FORMAT,
        "version": VERSION,
        "parts": [{"kind": part.KIND, **plain(part)} for part in parts],
        "rigs": [
            {
                "name": rig.name,
                "star_fwhm_px": rig.star_fwhm_px,
                "focal_mm": rig.focal_mm,
                "placed": [
                    {"part": one.name, "arm_mm": one.arm_mm, "along_mm": one.along_mm, "carried": one.carried, "fed_by": one.fed_by}
                    for one in rig.placed
                ],
            }
            for rig in rigs
        ],
    }
    return json.dumps(document, ensure_ascii=False, indent=1)


def _read_part(given: Mapping[str, object], path: str, faults: list[Fault]) -> Part | None:
    values = dict(given)
    kind = str(values.pop("kind", "")).strip()
    shape = KINDS.get(kind)
    if shape is None:
        faults.append(Fault(f"{path}, kind", kind, f"“{kind}” is no kind of part; known are {', '.join(KINDS)}."))
        return None
    try:
        return build(shape, values)
    except InvalidInput as caught:
        faults += [Fault(f"{path}, {fault.field}", fault.value, fault.message) for fault in caught.faults]
        return None


def _number(given: object, default: float | None, path: str, faults: list[Fault]) -> float | None:
    if given in (None, ""):
        return default
    try:
        return parse_number(given)
    except ValueError as caught:
        faults.append(Fault(path, given, f"“{given}”: {caught}"))
        return default


def _yes(given: object, default: bool) -> bool:
    return default if given in (None, "") else str(given).strip().lower() in {"yes", "true", "1"}


def _read_rig(given: Mapping[str, Any], known: Mapping[str, Part], path: str, faults: list[Fault]) -> Assembly | None:
    before = len(faults)
    placed = []
    rows = given.get("placed")
    for place, row in enumerate(rows if isinstance(rows, Sequence) and not isinstance(rows, str) else ()):
        at = str(row.get("at") or f"{path}, part {place + 1}") if isinstance(row, Mapping) else path
        part = known.get(str(row.get("part", ""))) if isinstance(row, Mapping) else None
        if part is None:
            name = row.get("part") if isinstance(row, Mapping) else row
            faults.append(Fault(f"{at}, part", str(name), f"There is no part “{name}”, neither in the file nor in your inventory."))
            continue
        arm, along = (_number(row.get(name), 0.0, f"{at}, {name}", faults) or 0.0 for name in ("arm_mm", "along_mm"))
        placed.append(Placed(part, arm, along, _yes(row.get("carried"), part.CARRIED), str(row.get("fed_by") or "") or None))
    stars = _number(given.get("star_fwhm_px"), 2.5, f"{path}, star_fwhm_px", faults) or 2.5
    focal = _number(given.get("focal_mm"), None, f"{path}, focal_mm", faults)
    if len(faults) > before:
        return None
    try:
        return Assembly(str(given.get("name") or ""), tuple(placed), stars, focal)
    except InvalidInput as caught:
        faults += [Fault(f"{path}, {fault.field}", fault.value, fault.message) for fault in caught.faults]
        return None


def _from_json(text: str, own: Mapping[str, Part]) -> Inventory:
    try:
        document = json.loads(text)
    except ValueError as caught:
        raise refuse(f"This is no JSON: {caught}.") from caught
    if not isinstance(document, dict) or document.get("format") != FORMAT:
        raise refuse(f"This is not a kit exported here: its format should read “{FORMAT}”.")
    if document.get("version") != VERSION:
        said = storable(str(document.get("version")))[:40]
        raise refuse(f"Version {said} is not known; give version {VERSION}.", said)
    given = {name: document.get(name, []) for name in ("parts", "rigs")}
    for name, rows in given.items():
        if not isinstance(rows, list) or not all(isinstance(row, dict) for row in rows):
            raise refuse(f"“{name}” should be a list of objects.", name)
        bound_rows(len(rows), name)
    faults: list[Fault] = []
    parts = [_read_part(row, f"part {place + 1}", faults) for place, row in enumerate(given["parts"])]
    _refuse_twins(parts, faults)
    known = {**own, **{part.name: part for part in parts if part}}
    rigs = [_read_rig(row, known, f"rig {place + 1}", faults) for place, row in enumerate(given["rigs"])] if not faults else []
    if faults:
        raise InvalidInput(faults)
    return Inventory(tuple(part for part in parts if part), tuple(rig for rig in rigs if rig))


def _refuse_twins(parts: Sequence[Part | None], faults: list[Fault]) -> None:
    seen: set[str] = set()
    for place, part in enumerate(parts):
        if part and part.name in seen:
            faults.append(
                Fault(f"part {place + 1}, name", part.name, f"“{part.name}” stands in the file twice; names must differ.")
            )
        if part:
            seen.add(part.name)


def _table(text: str) -> tuple[list[str], Iterator[dict[str, str]]]:
    reader = csv.DictReader(io.StringIO(text, newline=""), strict=True)
    columns = [name.strip() for name in reader.fieldnames or []]
    reader.fieldnames = columns
    return columns, ({name: bared(cell) if isinstance(cell, str) else cell for name, cell in row.items()} for row in reader)


def _check_columns(columns: Sequence[str], known: Sequence[str], needed: Sequence[str]) -> None:
    strange = [name for name in columns if name not in known]
    faults = [Fault("file", name, f"Column “{name}” is not known; known are {', '.join(known)}.") for name in strange[:3]]
    faults += [Fault("file", name, f"Column “{name}” is missing.") for name in needed if name not in columns]
    if faults:
        raise InvalidInput(faults)


def _parts_from_csv(rows: Sequence[Mapping[str, str]]) -> Inventory:
    faults: list[Fault] = []
    parts = []
    for line, row in enumerate(rows, start=2):
        path = f"row {line}"
        if None in row:
            faults.append(Fault(path, None, "This row has more cells than there are columns; a comma inside a text needs quotes."))
            continue
        given: dict[str, object] = {name: cell for name, cell in row.items() if cell not in (None, "")}
        shape = KINDS.get(str(given.get("kind", "")).strip())
        for name, about, _ in abouts(shape) if shape else ():
            if about.sort == "rows" and name in given:
                given[name] = _row_values(about, str(given[name]))
        parts.append(_read_part(given, path, faults))
    _refuse_twins(parts, faults)
    if faults:
        raise InvalidInput(faults)
    return Inventory(tuple(part for part in parts if part), ())


def _rigs_from_csv(rows: Sequence[Mapping[str, str]], own: Mapping[str, Part]) -> Inventory:
    grouped: dict[str, dict[str, Any]] = {}
    for line, row in enumerate(rows, start=2):
        name = (row.get("rig") or "").strip()
        rig = grouped.setdefault(name, {"name": name, "placed": [], **{key: row.get(key) for key in ("star_fwhm_px", "focal_mm")}})
        rig["placed"].append({**row, "at": f"row {line}"})
    faults: list[Fault] = []
    rigs = [_read_rig(rig, own, f"rig “{name}”", faults) for name, rig in grouped.items()]
    if faults:
        raise InvalidInput(faults)
    return Inventory((), tuple(rig for rig in rigs if rig))


def read_file(content: bytes, own: Mapping[str, Part]) -> Inventory:
    """A kit out of a file: JSON, a table of parts, or a table of rigs made of `own` parts by name.

    Raises InvalidInput naming the row and column of everything that cannot be right; nothing is taken in halves.
    """
    text = text_of(content)
    if text.lstrip()[:1] in {"{", "["}:
        return _from_json(text, own)
    try:
        columns, table = _table(text)
        if "rig" in columns:
            _check_columns(columns, RIG_COLUMNS, _RIG_NEEDS)
        else:
            _check_columns(columns, part_columns(), _PART_NEEDS)
        rows = list(table)
    except csv.Error as caught:
        raise refuse(f"This is no table of comma-separated values: {caught}.") from caught
    bound_rows(len(rows))
    return _rigs_from_csv(rows, own) if "rig" in columns else _parts_from_csv(rows)

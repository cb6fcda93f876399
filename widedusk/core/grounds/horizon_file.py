"""A spot's horizon profile as a table of azimuth and altitude in degrees, one pair a line."""

import csv
import io
import re

from widedusk.core.errors import Fault, InvalidInput, storable
from widedusk.core.files import refuse, text_of
from widedusk.core.number_text import parse_number
from widedusk.core.sky.horizon import HorizonProfile

COLUMNS = ("azimuth_deg", "altitude_deg")
MOST_POINTS = 720


def write_horizon(profile: HorizonProfile) -> str:
    """The profile as CSV."""
    out = io.StringIO()
    rows = csv.writer(out)
    rows.writerow(COLUMNS)
    rows.writerows(sorted(profile.points_deg))
    return out.getvalue()


def pair_cells(line: str) -> list[str]:
    """The values of a line. Between spaces, tabs or semicolons a comma is a decimal one; where there are none it parts the two."""
    cells = [cell.strip(",") for cell in re.split(r"[\s;]+", line.strip()) if cell.strip(",")]
    return [cell for cell in cells[0].split(",") if cell] if len(cells) == 1 else cells


def read_horizon(content: bytes) -> HorizonProfile:
    """A profile out of a file: comma, semicolon, tab or spaces between the two; a heading and lines with # are passed over.

    Raises InvalidInput naming the line of everything that cannot be right.
    """
    points: list[tuple[float, float]] = []
    lines: list[int] = []
    faults: list[Fault] = []
    for number, line in enumerate(text_of(content).splitlines(), start=1):
        cells = pair_cells(line.partition("#")[0])
        if not cells or (not points and not faults and not any(character.isdecimal() for character in line)):
            continue
        try:
            azimuth, altitude = (parse_number(cell) for cell in cells)
        except ValueError:
            faults.append(
                Fault(f"line {number}", storable(line)[:80], "Each line holds an azimuth and an altitude in degrees, like 90 20.")
            )
            continue
        points.append((azimuth, altitude))
        lines.append(number)
    if faults:
        raise InvalidInput(faults[:10])
    if not points:
        raise refuse("The file holds no azimuth and altitude.")
    if len(points) > MOST_POINTS:
        raise refuse(f"The profile has {len(points):,} points; {MOST_POINTS} are as fine as half a degree.", len(points))
    try:
        return HorizonProfile(tuple(points))
    except InvalidInput as caught:
        raise InvalidInput([_told_by_line(fault, lines) for fault in caught.faults[:10]]) from caught


def _told_by_line(fault: Fault, lines: list[int]) -> Fault:
    found = re.fullmatch(r"horizon\.(\d+)\.(.+)", fault.field)
    return Fault(f"line {lines[int(found[1])]}, {found[2]}", fault.value, fault.message) if found else fault

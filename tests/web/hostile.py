"""Files that a stranger may send, over every door: some built by hand to reach outside or to take everything, some sound ones
with bytes changed. Each is (door, name, content)."""

import io
import json
import struct
import zipfile
from collections.abc import Iterator
from pathlib import Path

import numpy as np
from PIL import Image

Sent = tuple[str, str, bytes]
TARGETS, PLACES, KIT, PICTURES = "targets/file", "places/file", "exchange", "pictures"

_VOTABLE = """<?xml version="1.0"?>
<VOTABLE version="1.4" xmlns="http://www.ivoa.net/xml/VOTable/v1.3"><RESOURCE><TABLE {table}>
<FIELD name="name" datatype="char" arraysize="{size}"/><FIELD name="ra_deg" datatype="double"/>
<FIELD name="dec_deg" datatype="double"/><DATA>{data}</DATA></TABLE></RESOURCE></VOTABLE>"""
_ROW = "<TABLEDATA><TR><TD>M 1</TD><TD>10</TD><TD>20</TD></TR></TABLEDATA>"
_ECSV = """# %ECSV 1.0
# ---
# datatype:
# - {{name: name, datatype: string}}
# - {{name: ra_deg, {ra}}}
# - {{name: dec_deg, datatype: float64}}
{more}name ra_deg dec_deg
{row}
"""


def _votable(table: str = "", size: str = "*", data: str = _ROW) -> bytes:
    return _VOTABLE.format(table=table, size=size, data=data).encode()


def sound() -> dict[tuple[str, str], bytes]:
    """One small good file of every kind and door."""
    light = np.random.default_rng(2).integers(0, 60, (420, 420), dtype=np.uint8)
    jpeg, tiff = io.BytesIO(), io.BytesIO()
    exif = Image.Exif()
    exif[0x0132] = "2026:12:08 20:00:00"
    Image.fromarray(light).save(jpeg, "JPEG", exif=exif)
    Image.fromarray(light).save(tiff, "TIFF")
    place = {"type": "Feature", "geometry": {"type": "Point", "coordinates": [16.9, -24.6]}, "properties": {"name": "Pan"}}
    part = {"kind": "counterweight", "name": "A weight", "mass_g": 700}
    return {
        (TARGETS, "one.csv"): b"name,ra_deg,dec_deg\nM 1,10,20\n",
        (TARGETS, "one.ecsv"): _ECSV.format(ra="datatype: float64", more="", row='"M 1" 10 20').encode(),
        (TARGETS, "one.vot"): _votable(),
        (PLACES, "one.gpx"): b'<gpx version="1.1"><wpt lat="-24.6" lon="16.9"><name>Pan</name></wpt></gpx>',
        (PLACES, "one.geojson"): json.dumps({"type": "FeatureCollection", "features": [place]}).encode(),
        (KIT, "kit.json"): json.dumps({"format": "wide-dusk kit", "version": 1, "parts": [part], "rigs": []}).encode(),
        (KIT, "parts.csv"): b"kind,name,mass_g\ncounterweight,A weight,700\n",
        (PICTURES, "one.jpg"): jpeg.getvalue(),
        (PICTURES, "one.tif"): tiff.getvalue(),
        (PICTURES, "one.fits"): fits(NAXIS=2, NAXIS1=420, NAXIS2=420) + light.tobytes().ljust(-(-light.size // 2880) * 2880, b"\0"),
    }


_PICTURE = {"NAXIS": 2, "NAXIS1": 420, "NAXIS2": 420}
_CARDS = (
    {"NAXIS": 10**9},
    {"NAXIS": -1},
    {"NAXIS": "'two'"},
    {"NAXIS": 2},
    {"NAXIS": 2, "NAXIS1": 10**9, "NAXIS2": 10**9},
    {"NAXIS": 2, "NAXIS1": -5, "NAXIS2": 5},
    {"NAXIS": 2, "NAXIS1": "1e400", "NAXIS2": 5},
    {"NAXIS": 0, "PCOUNT": 10**15},
    {**_PICTURE, "BITPIX": 7},
    {**_PICTURE, "EXPTIME": "1E400"},
    {**_PICTURE, "FOCALLEN": "9" * 60},
    {**_PICTURE, "DATE-OBS": "'0000-99-99T99:99:99'"},
    {**_PICTURE, "ZIMAGE": "T", "ZNAXIS": 10**9},
)


def fits(end: bool = True, **cards: object) -> bytes:
    """A header by hand, whatever it says."""
    told = {"SIMPLE": "T", "BITPIX": 8, **cards}
    text = "".join(f"{name:<8}= {value!s:>20}".ljust(80)[:80] for name, value in told.items())
    text += "END".ljust(80) if end else ""
    return text.encode("latin-1").ljust(-(-len(text) // 2880) * 2880, b" ")


def many_scans(count: int) -> bytes:
    """A progressive JPEG whose last pass stands in it again and again."""
    out = io.BytesIO()
    Image.new("L", (640, 480), 90).save(out, "JPEG", progressive=True)
    content = out.getvalue()
    last, end = content.rindex(b"\xff\xda"), content.rindex(b"\xff\xd9")
    return content[:end] + content[last:end] * count + content[end:]


def tile_bomb() -> bytes:
    """A TIFF of a few hundred bytes whose single tile would unpack to gigabytes."""
    side = 40_000
    tags = (
        (256, 4, side),
        (257, 4, side),
        (258, 3, 16),
        (259, 3, 8),
        (262, 3, 1),
        (277, 3, 1),
        (322, 4, side),
        (323, 4, side),
        (324, 4, 200),
        (325, 4, 40),
    )
    body = b"II*\0" + struct.pack("<I", 8) + struct.pack("<H", len(tags))
    body += b"".join(struct.pack("<HHII", tag, kind, 1, value) for tag, kind, value in tags) + struct.pack("<I", 0)
    return body.ljust(200, b"\0") + b"x\x9c" + b"\0" * 200


def _looped_tiff() -> bytes:
    return b"II*\0" + struct.pack("<IH", 8, 1) + struct.pack("<HHII", 256, 4, 1, 5) + struct.pack("<I", 8) + b"\0" * 80


def reaching(canary: Path, port: int) -> Iterator[Sent]:
    """Files that name other files and addresses."""
    address = f"http://127.0.0.1:{port}/rows"
    for target in (f"file://{canary}", str(canary), address, f"ftp://127.0.0.1:{port}/x", f"FILE://{canary}", f"jar:{address}!/x"):
        for how in ("BINARY", "BINARY2", "FITS"):
            yield TARGETS, f"{how}.vot", _votable(data=f'<{how}><STREAM href="{target}" encoding="base64"/></{how}>')
        entity = f'<?xml version="1.0"?><!DOCTYPE v [<!ENTITY x SYSTEM "{target}">]>'
        outside = f'<?xml version="1.0"?><!DOCTYPE v SYSTEM "{target}">'
        for head in (entity, outside, f'<?xml version="1.0"?><!DOCTYPE v [<!ENTITY % p SYSTEM "{target}"> %p;]>'):
            yield TARGETS, "entity.vot", head.encode() + _votable(data=_ROW.replace("M 1", "&x;"))[22:]
            yield PLACES, "entity.gpx", head.encode() + b'<gpx version="1.1"><wpt lat="1" lon="2"><name>&x;</name></wpt></gpx>'
        include = f'<wpt lat="1" lon="2"><xi:include xmlns:xi="http://www.w3.org/2001/XInclude" href="{target}"/></wpt>'
        yield PLACES, "include.gpx", f'<gpx version="1.1">{include}</gpx>'.encode()
        yield (
            TARGETS,
            "yaml.ecsv",
            _ECSV.format(
                ra="datatype: float64", more=f"# meta: !!python/object/apply:urllib.request.urlopen ['{target}']\n", row='"M 1" 1 2'
            ).encode(),
        )


def odd_tables() -> Iterator[Sent]:
    """Tables, places and kits that claim, nest, repeat or spell what none should."""
    laughs = "".join(f'<!ENTITY l{n} "{f"&l{n - 1};" * 10}">' for n in range(1, 10))
    yield TARGETS, "laughs.vot", f'<?xml version="1.0"?><!DOCTYPE v [<!ENTITY l0 "ha">{laughs}]><VOTABLE>&l9;</VOTABLE>'.encode()
    yield TARGETS, "deep.vot", b"<VOTABLE>" + b"<RESOURCE>" * 60_000 + b"</RESOURCE>" * 20_000
    for rows in ("100000000", "9" * 40, "-1", "many", "1e9"):
        yield TARGETS, "rows.vot", _votable(table=f'nrows="{rows}"')
    for size in ("4000x4000", "9" * 30, "1000x*", "-3", "axb", "99999999*"):
        yield TARGETS, "cells.vot", _votable(size=size)
    for data in (
        "<BINARY><STREAM encoding='base64'>!!!!</STREAM></BINARY>",
        "<BINARY2><STREAM encoding='gzip'>H4sI</STREAM></BINARY2>",
        "",
        "<TABLEDATA/>",
    ):
        yield TARGETS, "inline.vot", _votable(data=data)
    yield TARGETS, "encoding.vot", _votable().replace(b'version="1.0"?', b'version="1.0" encoding="no-such"?')
    yield TARGETS, "encoding16.vot", _votable().decode().encode("utf-16")
    kinds = (
        "complex128",
        "object",
        "bool",
        "no_such",
        "float64, subtype: 'float64[4000,4000]'",
        "string, subtype: json",
        "string, unit: !!python/name:os.system x",
    )
    for kind in kinds:
        yield TARGETS, "kind.ecsv", _ECSV.format(ra=f"datatype: {kind}", more="", row='"M 1" "[1, 2]" 2').encode()
    anchors = "# a0: &a0 [x, x, x, x, x, x, x, x]\n" + "".join(
        f"# a{n}: &a{n} [{', '.join([f'*a{n - 1}'] * 8)}]\n" for n in range(1, 9)
    )
    yield TARGETS, "anchors.ecsv", _ECSV.format(ra="datatype: float64", more=anchors, row='"M 1" 1 2').encode()
    for cell in (
        "nan",
        "inf",
        "1e400",
        "-1e400",
        "1" * 400,
        "0x10",
        "1_000",
        "١٢",
        "\x00",
        "\ud800".encode("utf-8", "surrogatepass").decode("latin-1"),
        "",
    ):
        yield TARGETS, "cell.csv", f"name,ra_deg,dec_deg\nM 1,{cell},20\n".encode()
        yield TARGETS, "name.csv", f"name,ra_deg,dec_deg\nM{cell}1,5,20\n".encode()
        yield PLACES, "cell.gpx", f'<gpx version="1.1"><wpt lat="{cell}" lon="2"><name>x</name></wpt></gpx>'.encode()
        yield (
            PLACES,
            "cell.geojson",
            ('{"type":"Feature","geometry":{"type":"Point","coordinates":[%s,1]},"properties":{}}' % (cell or "null")).encode(),
        )
        yield (
            PLACES,
            "sky.geojson",
            (
                '{"type":"Feature","geometry":{"type":"Point","coordinates":[1,1]},"properties":{"sky_mag":%s}}' % (cell or "null")
            ).encode(),
        )
        yield KIT, "cell.csv", f"kind,name,mass_g\ncounterweight,A{cell},7\n".encode()
        yield KIT, "mass.csv", f"kind,name,mass_g\ncounterweight,A,{cell}\n".encode()
        yield (
            KIT,
            "mass.json",
            (
                '{"format":"wide-dusk kit","version":1,"parts":[{"kind":"counterweight","name":"A","mass_g":%s}],"rigs":[]}'
                % (cell or "null")
            ).encode(),
        )
    for body in (
        b"\xff\xfe\x00",
        b"\x00" * 400,
        b'"',
        b"a,b\n" * 3000,
        b"name,ra_deg,dec_deg\n" + b"x,1,2\n" * 2001,
        b"x" * 900_000,
        b"",
        b"\r" * 500,
        b"=cmd|' /C x'!A0,1,2",
    ):
        for door in (TARGETS, PLACES, KIT):
            yield door, "odd.txt", body
    for body in (
        b"[" * 200_000,
        b'{"a":' * 50_000,
        b'{"features": 3}',
        b'{"features": [[]]}',
        b'{"type": "Feature", "geometry": []}',
        b'{"format": "wide-dusk kit", "version": []}',
        b"null",
        b"[1e400]",
        b'{"format":"wide-dusk kit","version":1,"parts":[{"kind":["x"],"name":{},"mass_g":[]}],"rigs":[{"placed":3,"name":7}]}',
    ):
        for door in (PLACES, KIT):
            yield door, "odd.json", body


def odd_pictures() -> Iterator[Sent]:
    """Pictures that claim more than they hold, are something else, or have a name that is none."""
    for cards in _CARDS:
        yield PICTURES, "odd.fits", fits(**cards)
    yield PICTURES, "endless.fits", fits(end=False, NAXIS=0) * 400
    yield PICTURES, "units.fits", fits(NAXIS=0) * 400
    yield PICTURES, "scans.jpg", many_scans(49_085)
    yield PICTURES, "tile.tif", tile_bomb()
    yield PICTURES, "loop.tif", _looped_tiff()
    zipped = io.BytesIO()
    with zipfile.ZipFile(zipped, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr("x.jpg", b"\0" * 5_000_000)
    heads = (
        b"\x89PNG\r\n\x1a\n",
        b"\0\0\0\x18ftypheic",
        b"\0\0\0\x18ftypmif1",
        zipped.getvalue(),
        b"RIFF\x10\0\0\0WEBP",
        b"FUJIFILMCCD-RAW 0201",
        b"MM\0*",
        b"II*\0",
        b"II+\0",
        b"\xff\xd8\xff",
        b"SIMPLE  =",
        b"text only",
        b"",
        b"GIF89a",
        b"%PDF-1.7",
        b"#!/bin/sh\nrm -rf /",
    )
    for head in heads:
        for ending in ("jpg", "tif", "nef"):
            yield PICTURES, f"head.{ending}", head.ljust(600, b"\x07")
    good = sound()[(PICTURES, "one.jpg")]
    for name in (
        "é" * 120 + ".jpg",
        "星" * 90 + ".jpg",
        "../../../../tmp/x.jpg",
        "a\nb.jpg",
        "a\0b.jpg",
        ".jpg",
        "con.jpg ",
        "x" * 250 + ".jpg",
        "<script>alert(1)</script>.jpg",
    ):
        yield PICTURES, name, good


def changed(seed: int = 4, times: int = 14) -> Iterator[Sent]:
    """Sound files with bytes turned, cut out, doubled or cut off."""
    rng = np.random.default_rng(seed)
    for (door, name), content in sound().items():
        for _ in range(times):
            spoilt = bytearray(content)
            for _ in range(int(rng.integers(1, 12))):
                if not spoilt:
                    break
                at = int(rng.integers(0, len(spoilt)))
                how = rng.integers(0, 4)
                if how == 0:
                    spoilt[at] = int(rng.integers(0, 256))
                elif how == 1:
                    del spoilt[at : at + int(rng.integers(1, 40))]
                elif how == 2:
                    spoilt[at:at] = spoilt[at : at + int(rng.integers(1, 200))]
                elif len(spoilt) > 100:
                    del spoilt[max(at, 50) :]
            yield door, name, bytes(spoilt)

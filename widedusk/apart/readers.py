"""The readers of files as they are done apart. Each loads what it needs when it is called: the web server names them only."""
# ruff: noqa: PLC0415 - that is the point of this module

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from pathlib import Path
from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    from widedusk.core.files import PanelFormat, PlacesFormat, TargetsFormat
    from widedusk.core.frames.frame import Frame, Known
    from widedusk.core.frames.header import Header
    from widedusk.core.frames.lens_facts import LensPicture
    from widedusk.core.frames.measure import Measured
    from widedusk.core.frames.photon_transfer import SensorFrame
    from widedusk.core.framing.framing import Framing
    from widedusk.core.framing.panels import Panels
    from widedusk.core.grounds.place import PlaceInput
    from widedusk.core.judge.export import Line, TableForm
    from widedusk.core.kit.exchange import Inventory
    from widedusk.core.kit.parts import Part
    from widedusk.core.scene import Target
    from widedusk.core.sky.horizon import HorizonProfile
    from widedusk.core.sky.time import Floats


def targets(content: bytes) -> tuple[Target, ...]:
    from widedusk.core.catalogue.tables import read_targets

    return read_targets(content)


def targets_text(given: Sequence[Target], form: TargetsFormat) -> str:
    """The other way; here because of what writing a table loads."""
    from widedusk.core.catalogue.tables import write_targets

    return write_targets(given, form)


def panels(content: bytes) -> Framing:
    from widedusk.core.framing.panel_file import read_panels

    return read_panels(content)


def panels_text(framing: Framing, laid: Panels, form: PanelFormat) -> str:
    from widedusk.core.framing.panel_file import write_panels

    return write_panels(framing, laid, form)


def frames_text(lines: Sequence[Line], form: TableForm) -> str:
    from widedusk.core.judge.export import table_text

    return table_text(lines, form)


def frames_fits(lines: Sequence[Line], stars: Sequence[Floats]) -> bytes:
    from widedusk.core.judge.export import tables_fits

    return tables_fits(lines, stars)


def places(content: bytes) -> tuple[PlaceInput, ...]:
    from widedusk.core.grounds.places_file import read_places

    return read_places(content)


def places_text(given: Sequence[PlaceInput], form: PlacesFormat) -> str:
    from widedusk.core.grounds.places_file import write_places

    return write_places(given, form)


def horizon(content: bytes) -> HorizonProfile:
    from widedusk.core.grounds.horizon_file import read_horizon

    return read_horizon(content)


def kit(content: bytes, own: Mapping[str, Part]) -> Inventory:
    from widedusk.core.kit.exchange import read_file

    return read_file(content, own)


def picture_header(path: Path) -> Header:
    from widedusk.core.frames.read import read_header

    return read_header(path)


def sensor_frame(path: Path, tell: Callable[[float, str], None]) -> SensorFrame:
    from widedusk.core.frames.read import read_sensor

    return read_sensor(path)


def measured(
    path: Path, patterns: Path, sensor_mm: float | None, focal_mm: float | None, light: bool, tell: Callable[[float, str], None]
) -> Measured:
    from widedusk.core.frames.measure import measure
    from widedusk.core.frames.patterns import load_patterns

    return measure(path, load_patterns(patterns), sensor_mm, focal_mm, tell, light)


def lens_picture(path: Path, tell: Callable[[float, str], None]) -> LensPicture:
    from widedusk.core.frames.lens_picture import read_lens_picture

    return read_lens_picture(path, tell)


def frame(
    path: Path, patterns: Path, field: tuple[float | None, float | None], known: Known | None, tell: Callable[[float, str], None]
) -> Frame:
    from widedusk.core.frames.frame import read_frame
    from widedusk.core.frames.patterns import load_patterns

    return read_frame(path, lambda: load_patterns(patterns), field, known, tell)


def forecast(content: bytes, name: str) -> dict[str, Any]:
    import json

    from widedusk.core.errors import Fault, InvalidInput
    from widedusk.outside.coverage import document_of

    try:
        return document_of(json.loads(content, parse_constant=_refuse_constant), name[:120], None)
    except (ValueError, RecursionError) as caught:
        if isinstance(caught, InvalidInput):
            raise
        raise InvalidInput([Fault("file", name, f"“{name}” is not a file of CoverageJSON.")]) from caught


def _refuse_constant(word: str) -> float:
    raise ValueError(word)

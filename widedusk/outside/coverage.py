"""A forecast out of CoverageJSON (OGC 21-069r2), as services of the OGC API – Environmental Data Retrieval answer a position query.

What each parameter is, is told by its name in the CF standard names; units are converted. Kept is the document that
widedusk/core/night/weather.py reads, hour by hour.
"""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from datetime import UTC, datetime
from typing import Any

import numpy as np
from covjson_pydantic.coverage import Coverage, CoverageCollection
from covjson_pydantic.ndarray import NdArrayFloat, NdArrayInt
from covjson_pydantic.parameter import Parameter
from pydantic import ValidationError

from widedusk.core.errors import Fault, InvalidInput
from widedusk.core.kit.dew import humidity_percent
from widedusk.core.sky.time import Floats, datetime_from_mjd, mjd_from_datetime

# Factor and offset from a unit, as UCUM or services write it, to ours.
_CELSIUS = {
    "K": (1.0, -273.15),
    "Cel": (1.0, 0.0),
    "°C": (1.0, 0.0),
    "degC": (1.0, 0.0),
    "C": (1.0, 0.0),
    "[degF]": (5 / 9, -160 / 9),
}
_SPEED = {
    **dict.fromkeys(("m/s", "m s-1", "m.s-1", "m s^-1", "m*s-1"), (1.0, 0.0)),
    **dict.fromkeys(("km/h", "km h-1", "km.h-1"), (1 / 3.6, 0.0)),
    **dict.fromkeys(("kn", "kt", "knot", "knots", "[kn_i]"), (1852 / 3600, 0.0)),
}
_PERCENT = {"%": (1.0, 0.0), "percent": (1.0, 0.0), **dict.fromkeys(("1", "", "fraction"), (100.0, 0.0)), "okta": (12.5, 0.0)}
_RAIN = {**dict.fromkeys(("mm", "kg m-2", "kg.m-2", "kg/m2", "kg/m^2"), (1.0, 0.0)), "m": (1000.0, 0.0)}
_RAIN_RATE = {
    **dict.fromkeys(("kg m-2 s-1", "kg.m-2.s-1", "mm/s", "mm s-1"), (3600.0, 0.0)),
    "mm/h": (1.0, 0.0),
    "mm h-1": (1.0, 0.0),
}
_FAR = {"m": (1.0, 0.0), "km": (1000.0, 0.0)}
UNITS: dict[str, Mapping[str, tuple[float, float]]] = {
    "air_temperature": _CELSIUS,
    "dew_point_temperature": _CELSIUS,
    "relative_humidity": _PERCENT,
    "wind_speed": _SPEED,
    "eastward_wind": _SPEED,
    "northward_wind": _SPEED,
    "wind_speed_of_gust": _SPEED,
    "cloud_area_fraction": _PERCENT,
    "low_type_cloud_area_fraction": _PERCENT,
    "medium_type_cloud_area_fraction": _PERCENT,
    "high_type_cloud_area_fraction": _PERCENT,
    "precipitation_amount": _RAIN,
    "precipitation_flux": _RAIN_RATE,
    "visibility_in_air": _FAR,
}
OPTIONAL = {"gust_m_s": "wind_speed_of_gust", "rain_mm_h": "precipitation_amount", "visibility_m": "visibility_in_air"}
LAYERS = {"cloud_low_percent": "low", "cloud_middle_percent": "medium", "cloud_high_percent": "high"}


@dataclass(frozen=True)
class _Series:
    mjd: Floats
    values: Floats


def _refuse(message: str, value: object = None) -> InvalidInput:
    return InvalidInput([Fault("forecast", value, message)])


def standard_name(key: str, label: object, observed: object) -> str:
    """The CF standard name of a parameter, by the address of what is observed, its label or its key; empty for none of ours."""
    told = str(observed or "").rstrip("/#").rpartition("/")[2].rpartition("#")[2]
    for words in (told, str(label or ""), key):
        name = words.strip().lower().replace(" ", "_").replace("-", "_")
        if name in UNITS:
            return name
    return ""


def _told(text: object) -> str:
    """A text that may come in several languages."""
    if isinstance(text, Mapping):
        return str(text.get("en") or next(iter(text.values()), ""))
    return str(getattr(text, "root", text) or "")


def _unit(parameter: Parameter) -> str:
    unit = parameter.unit
    if unit is None:
        return ""
    symbol = unit.symbol
    return str(getattr(symbol, "value", symbol) or _told(unit.label)).strip()


def _coverages(document: object) -> Iterator[tuple[Coverage, Mapping[str, Parameter]]]:
    if not isinstance(document, Mapping) or document.get("type") not in {"Coverage", "CoverageCollection"}:
        raise _refuse("The forecast is something other than CoverageJSON.")
    try:
        if document["type"] == "Coverage":
            one = Coverage.model_validate(document)
            yield one, one.parameters.root if one.parameters else {}
            return
        many = CoverageCollection.model_validate(document)
    except ValidationError as wrong:
        where = ".".join(str(part) for part in wrong.errors()[0]["loc"])[:80]
        raise _refuse(f"The CoverageJSON of the forecast is not sound at “{where}”.") from wrong
    shared = many.parameters.root if many.parameters else {}
    for one in many.coverages:
        yield one, one.parameters.root if one.parameters else shared


def _series(document: object) -> dict[str, _Series]:
    """Each quantity that we know, along time, in our units."""
    found: dict[str, _Series] = {}
    for coverage, parameters in _coverages(document):
        axis = getattr(coverage.domain.axes, "t", None)
        moments = [one for one in getattr(axis, "values", None) or () if isinstance(one, datetime)]
        if not moments:
            continue
        mjd = np.array([mjd_from_datetime(one) for one in moments])
        for key, values in coverage.ranges.items():
            parameter = parameters.get(key)
            if parameter is None or not isinstance(values, NdArrayFloat | NdArrayInt):
                continue
            observed = parameter.observedProperty
            name = standard_name(key, _told(observed.label), observed.id)
            if not name or len(values.values) != len(mjd):
                continue
            unit = _unit(parameter)
            if unit not in UNITS[name]:
                raise _refuse(f"The forecast tells “{name}” in “{unit}”, which is not known here.", unit)
            factor, offset = UNITS[name][unit]
            array = np.array([np.nan if one is None else float(one) for one in values.values]) * factor + offset
            known = np.isfinite(array)
            if known.any():
                found[name] = _Series(mjd[known], array[known])
    return found


def document_of(document: object, source: str, issued: datetime | None) -> dict[str, Any]:
    """Hour by hour what weather.py reads, and under "missing" the CF names of what the service does not tell but might.

    Raises InvalidInput naming what no night can be judged without.
    """
    found = _series(document)
    if {"eastward_wind", "northward_wind"} <= set(found) and "wind_speed" not in found:
        east, north = found["eastward_wind"], found["northward_wind"]
        found["wind_speed"] = _Series(east.mjd, np.hypot(east.values, np.interp(east.mjd, north.mjd, north.values)))
    lacking = [name for name in ("air_temperature", "wind_speed") if name not in found]
    if not {"dew_point_temperature", "relative_humidity"} & set(found):
        lacking.append("dew_point_temperature")
    if "cloud_area_fraction" not in found and not any(f"{layer}_type_cloud_area_fraction" in found for layer in LAYERS.values()):
        lacking.append("cloud_area_fraction")
    if lacking:
        raise _refuse(f"The forecast does not tell {', '.join(lacking)}.")
    air = found["air_temperature"]
    hours = air.mjd

    def at(name: str) -> Floats:
        return np.asarray(np.interp(hours, found[name].mjd, found[name].values))

    columns = {"temperature_c": air.values, "wind_m_s": np.maximum(at("wind_speed"), 0.0)}
    if "relative_humidity" in found:
        columns["humidity_percent"] = np.clip(at("relative_humidity"), 1.0, 100.0)
    else:
        columns["humidity_percent"] = np.clip(humidity_percent(air.values, at("dew_point_temperature")), 1.0, 100.0)
    layered = [layer for layer in LAYERS.values() if f"{layer}_type_cloud_area_fraction" in found]
    for field, layer in LAYERS.items():
        name = f"{layer}_type_cloud_area_fraction"
        whole = not layered and layer == "low"  # all of it in one layer, where nobody tells them apart
        told = at(name) if name in found else at("cloud_area_fraction") if whole else np.zeros(hours.size)
        columns[field] = np.clip(told, 0.0, 100.0)
    if "precipitation_flux" in found:
        found.setdefault("precipitation_amount", found["precipitation_flux"])
    for field, name in OPTIONAL.items():
        if name in found:
            columns[field] = np.maximum(at(name), 0.0)
    rows = [
        {
            "time": datetime_from_mjd(float(one)).astimezone(UTC).isoformat(),
            **{key: round(float(values[k]), 3) for key, values in columns.items()},
        }
        for k, one in enumerate(hours)
    ]
    missing = [name for name in OPTIONAL.values() if name not in found]
    return {"source": source, "issued": issued.isoformat() if issued else None, "hours": rows, "missing": missing}

"""Fields that say what they are: label, unit, what is sensible. Forms, files and checks all read the same description.

@dataclass(frozen=True)
class Shaft(Part):
    length_mm: float = length("Length", 30, 2_000)
"""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import MISSING, dataclass, field, fields, is_dataclass
from typing import Any, Literal, TypeVar, cast

from widedusk.core.errors import Checks, Fault, InvalidInput
from widedusk.core.kit.units import METRIC, Dimension, Units
from widedusk.core.number_text import parse_number

Sort = Literal["number", "whole", "yes or no", "choice", "text", "rows"]
NAME_LENGTH = 120
MOST_ROWS = 40


@dataclass(frozen=True)
class About:
    """What a field is, for whoever fills it in."""

    label: str
    sort: Sort
    unit: str = ""
    low: float = 0.0
    high: float = 0.0
    hint: str = ""
    options: tuple[str, ...] = ()
    spoken: tuple[str, ...] = ()  # the options as a person reads them; none: as they are
    row: type[Any] | None = None
    dimension: Dimension = ""


def _described(about: About, default: Any) -> Any:
    return field(default=default, metadata={"about": about})


def number(label: str, unit: str, low: float, high: float, default: Any = MISSING, hint: str = "") -> Any:
    """A number between two sensible ends; a default of None means that it may stay empty."""
    return _described(About(label, "number", unit, low, high, hint), default)


def whole(label: str, unit: str, low: int, high: int, default: Any = MISSING, hint: str = "") -> Any:
    return _described(About(label, "whole", unit, low, high, hint), default)


def mass(label: str, low: float, high: float, default: Any = MISSING, hint: str = "") -> Any:
    return _described(About(label, "number", "g", low, high, hint, dimension="mass"), default)


def length(label: str, low: float, high: float, default: Any = MISSING, hint: str = "") -> Any:
    """A length that is read in the person's own unit. Optics stay in millimetres and use `number`."""
    return _described(About(label, "number", "mm", low, high, hint, dimension="length"), default)


def yes_or_no(label: str, default: Any = MISSING, hint: str = "") -> Any:
    return _described(About(label, "yes or no", hint=hint), default)


def one_of(label: str, options: Sequence[str] | Mapping[str, str], default: Any = MISSING, hint: str = "") -> Any:
    """One of a few words; a mapping gives each as a person reads it."""
    spoken = tuple(options.values()) if isinstance(options, Mapping) else ()
    return _described(About(label, "choice", hint=hint, options=tuple(options), spoken=spoken), default)


def words(label: str, default: Any = MISSING, hint: str = "") -> Any:
    return _described(About(label, "text", hint=hint), default)


def rows(label: str, row: type[Any], default: Any = MISSING, hint: str = "") -> Any:
    return _described(About(label, "rows", hint=hint, row=row), default)


def abouts(shape: type[Any]) -> Iterator[tuple[str, About, Any]]:
    """(name, description, default or MISSING) of every described field, in order."""
    for one in fields(shape):
        if "about" in one.metadata:
            yield one.name, one.metadata["about"], one.default


def check(value: Any, checks: Checks, prefix: str = "") -> None:
    """Hold a described dataclass against its own description."""
    for name, about, default in abouts(type(value)):
        at, found = prefix + name, getattr(value, name)
        if found is None and default is None:
            continue
        if about.sort in {"number", "whole"}:
            checks.within(at, found, about.low, about.high, about.unit)
        elif about.sort == "choice" and found not in about.options:
            checks.fault(at, found, f"{found!r} is none of these: {', '.join(about.options)}.")
        elif about.sort == "text":
            (checks.named if name == "name" else checks.line)(at, found)
        elif about.sort == "rows":
            for place, row in enumerate(found):
                check(row, checks, f"{at}.{place}.")


def _read_number(about: About, given: object, units: Units) -> float:
    if isinstance(given, str) and about.dimension:
        return parse_number(units.read(given, about.dimension))
    return parse_number(given, about.unit)


_YES = {"yes": True, "true": True, "no": False, "false": False}
_WANTED = {
    "mass": "This is no mass; write it like 480 g, 1.2 kg or 2 lb 3 oz.",
    "length": "This is no length; write it like 120 mm or 4.5 in.",
}


def _read_plain(about: About, given: object, units: Units) -> Any:
    """A number or a yes or no. Raises ValueError for what is neither."""
    if about.sort == "yes or no":
        said = given if isinstance(given, bool) else _YES.get(str(given).strip().lower())
        if said is None:
            raise ValueError(f"“{given}” is neither yes nor no.")
        return said
    found = _read_number(about, given, units)
    return int(found) if about.sort == "whole" and found == int(found) else found


def _read(about: About, given: object, units: Units, path: str, faults: list[Fault]) -> Any:
    if about.sort in {"number", "whole", "yes or no"}:
        try:
            found = _read_plain(about, given, units)
        except (ValueError, OverflowError) as caught:
            told = _WANTED.get(about.dimension, str(caught))
            faults.append(Fault(path, given, told))
            return None
        if about.sort == "whole" and not isinstance(found, int):
            faults.append(Fault(path, given, "Give a whole number."))
        return found
    if about.sort == "rows":
        return _read_rows(about, given, units, path, faults)
    text = str(given).strip()
    if len(text) > NAME_LENGTH:
        faults.append(Fault(path, text, f"This is too long; keep it under {NAME_LENGTH} letters."))
    return text


def _read_rows(about: About, given: object, units: Units, path: str, faults: list[Fault]) -> tuple[Any, ...]:
    if not isinstance(given, Sequence) or isinstance(given, str) or len(given) > MOST_ROWS:
        faults.append(Fault(path, None, f"Give a list of at most {MOST_ROWS} rows."))
        return ()
    shape = cast(type[Any], about.row)
    return tuple(_build(shape, row, units, f"{path}.{place}.", faults) for place, row in enumerate(given))


def _build(shape: type[Any], given: object, units: Units, prefix: str, faults: list[Fault]) -> Any:
    if not isinstance(given, Mapping):
        faults.append(Fault(prefix.rstrip("."), None, "Give its fields by name."))
        return None
    known = {name: (about, default) for name, about, default in abouts(shape)}
    for name in given:
        if name not in known:
            faults.append(Fault(f"{prefix}{name}", given[name], f"There is no field “{name}” here; known are {', '.join(known)}."))
    values, before = {}, len(faults)
    for name, (about, default) in known.items():
        value = given.get(name)
        if value is not None and value != "":
            values[name] = _read(about, value, units, prefix + name, faults)
        elif default is MISSING:
            needed = "A name is needed, so that you can find it again." if name == "name" else "This is needed."
            faults.append(Fault(prefix + name, None, needed))
    return shape(**values) if len(faults) == before else None


T = TypeVar("T")


def build(shape: type[T], given: Mapping[str, object], units: Units = METRIC) -> T:
    """A described dataclass out of what was typed or stored: numbers, or text with units. An empty field takes its default.

    Raises InvalidInput with every fault found; what is missing or unreadable in one field hides no fault of another.
    """
    faults: list[Fault] = []
    made = _build(shape, given, units, "", faults)
    if faults:
        raise InvalidInput(faults + _sensible_faults(shape, given, units, {fault.field for fault in faults}))
    return cast(T, made)


def _sensible_faults(shape: type[Any], given: Mapping[str, object], units: Units, told: set[str]) -> list[Fault]:
    """Ends overstepped by those numbers that could be read."""
    checks, unread = Checks(), list[Fault]()
    for name, about, _ in abouts(shape):
        value = given.get(name)
        if about.sort in {"number", "whole"} and value not in (None, "") and name not in told:
            found = _read(about, value, units, name, unread)
            if found is not None:
                checks.within(name, found, about.low, about.high, about.unit)
    return checks.faults


def plain(value: Any) -> Any:
    """A described dataclass as lists, numbers and words that JSON can hold."""
    if is_dataclass(value):
        return {name: plain(getattr(value, name)) for name, _, _ in abouts(type(value))}
    if isinstance(value, (list, tuple)):
        return [plain(one) for one in value]
    return value

"""The one door by which words and numbers come in: whatever passes it can be stored, compared and written out again."""

import json
import math
import re
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Any, TypeVar, cast, overload

from django.db.models import Model, QuerySet
from django.http import HttpRequest
from django.utils.datastructures import MultiValueDict
from ninja import Field, Schema
from ninja.pagination import LimitOffsetPagination
from ninja.parser import Parser

from widedusk.core.errors import Fault, InvalidInput, unstorable

MOST_WHOLE = 2**63 - 1  # what the database counts to
MOST_DEEP = 40
MOST_OFFSET = 1_000_000
EACH_ALONE = "events"  # of a night out: a phone sends them together, and one that is spoilt must not hold back the others
_LONG_NUMBER = re.compile(r"\s*[+-]?\d{19,}\s*")


def _fault(path: str, message: str) -> Fault:
    return Fault(path.removeprefix("."), None, message)


def _wrong(value: object, deep: int) -> str:
    """Why one value cannot come in; empty when it can."""
    if deep > MOST_DEEP:
        return "This is nested too deeply."
    if isinstance(value, str) and (found := unstorable(value)):
        return f"The character {found} in it cannot be kept; take it out."
    if isinstance(value, float) and not math.isfinite(value):
        return "Give a finite number."
    return "This number is too large." if isinstance(value, int) and abs(value) > MOST_WHOLE else ""


def _faults(value: object, path: str = "", deep: int = 0) -> list[Fault]:
    """What cannot come in, wherever it stands in a document."""
    if wrong := _wrong(value, deep):
        return [_fault(path, wrong)]
    if isinstance(value, list):
        return [fault for place, one in enumerate(value) for fault in _faults(one, f"{path}.{place}", deep + 1)]
    if isinstance(value, dict):
        return [fault for name, one in value.items() for fault in (*_faults(name, path), *_faults(one, f"{path}.{name}", deep + 1))]
    return []


@dataclass(frozen=True)
class Spoilt:
    """One of several things that came together, and why it cannot come in."""

    given: object
    faults: tuple[Fault, ...]


def _each_alone(several: list[object]) -> list[object]:
    """The sound ones as they are."""
    return [Spoilt(one, tuple(found[:20])) if (found := _faults(one, deep=1)) else one for one in several]


class Door(Parser):
    """Reads bodies and query strings. Raises InvalidInput with every value that cannot be taken."""

    def parse_body(self, request: HttpRequest) -> dict[str, Any]:
        try:
            document = json.loads(request.body)
        except RecursionError:
            raise InvalidInput([Fault("", None, "This is nested too deeply.")]) from None
        except ValueError:  # no JSON, no UTF-8, or a number of thousands of digits
            raise InvalidInput([Fault("", None, "This is no readable JSON.")]) from None
        several = document.pop(EACH_ALONE) if isinstance(document, dict) and isinstance(document.get(EACH_ALONE), list) else None
        found = _faults(document)
        if found:
            raise InvalidInput(found[:20])
        return cast(dict[str, Any], document if several is None else {**document, EACH_ALONE: _each_alone(several)})

    def parse_querydict(self, data: MultiValueDict[str, Any], list_fields: list[str], request: HttpRequest) -> dict[str, Any]:
        found = [fault for name in data for one in data.getlist(name) for fault in _faults(one, name)]
        found += [
            _fault(name, "This number is too large.")
            for name in data
            for one in data.getlist(name)
            if isinstance(one, str) and _LONG_NUMBER.fullmatch(one)
        ]
        if found:
            raise InvalidInput(found[:20])
        return super().parse_querydict(data, list_fields, request)


class Pages(LimitOffsetPagination):
    """A page of a list, by how many and from which on; both have an end."""

    class Input(Schema):
        limit: int = Field(50, ge=1, le=200)
        offset: int = Field(0, ge=0, le=MOST_OFFSET)


Row = TypeVar("Row", bound=Model)
Answer = TypeVar("Answer")


class RowsAsAnswers(Sequence[Answer]):
    """Rows of which only those on the page that is asked for are read, and made into answers together."""

    def __init__(self, rows: QuerySet[Row], answers: Callable[[Sequence[Row]], list[Answer]]) -> None:
        self.rows, self.answers = rows, answers

    def __len__(self) -> int:
        return self.rows.count()

    @overload
    def __getitem__(self, place: int) -> Answer: ...
    @overload
    def __getitem__(self, place: slice) -> Sequence[Answer]: ...
    def __getitem__(self, place: int | slice) -> Answer | Sequence[Answer]:
        if isinstance(place, slice):
            return self.answers(list(self.rows[place]))
        return self.answers([self.rows[place]])[0]

"""Shapes shared by several routers. The core's frozen dataclasses are used as they are where they are answers."""

from datetime import datetime, time
from typing import Annotated, Any, cast

from django.contrib.auth.models import AbstractBaseUser
from django.http import HttpRequest
from ninja import Schema
from pydantic import AfterValidator, BeforeValidator, Field, PlainSerializer, WithJsonSchema
from pydantic_core import PydanticCustomError

from widedusk.core.number_text import NoNumber, parse_number


def _on_one_line(text: str) -> str:
    if "\n" in text or "\r" in text:
        raise PydanticCustomError("one_line", "This runs over several lines; keep it on one.")
    return text


def _with_zone(moment: datetime) -> datetime:
    if moment.tzinfo is None:
        raise PydanticCustomError("zone", "Say the zone too, such as 2026-12-08T20:00:00Z.")
    return moment


Text = Annotated[str, Field(max_length=120), AfterValidator(_on_one_line)]
Moment = Annotated[datetime, AfterValidator(_with_zone)]
Clock = Annotated[  # what the clock at the place shows: it has no zone of its own, which a “time” of JSON Schema must have
    time,
    PlainSerializer(lambda clock: clock.strftime("%H:%M"), return_type=str),
    WithJsonSchema({"type": "string", "pattern": r"^([01]\d|2[0-3]):[0-5]\d$"}),
]
Id = Annotated[int, Field(ge=1, le=2**63 - 1)]
Offset = Annotated[int, Field(ge=0, le=1_000_000)]


def _number_from(unit: str) -> BeforeValidator:
    """Reads what was typed as a number: with a comma, a fraction or the unit of its field. A number passes as it is."""

    def read(given: object) -> object:
        if not isinstance(given, str):
            return given
        try:
            return parse_number(given, unit)
        except NoNumber as caught:
            raise PydanticCustomError("number", "{words}", {"words": str(caught)}) from caught

    return BeforeValidator(read)


def number_in(unit: str) -> Any:
    """The type of a number that may be typed with this unit behind it."""
    return Annotated[float, Field(allow_inf_nan=False), _number_from(unit)]


Number = Annotated[float, Field(allow_inf_nan=False), _number_from("")]
Degrees = Annotated[float, Field(allow_inf_nan=False), _number_from("°")]
Metres = Annotated[float, Field(allow_inf_nan=False), _number_from("m")]
Whole = Annotated[int, _number_from("")]


class Done(Schema):
    done: bool = True


def user_of(request: HttpRequest) -> AbstractBaseUser:
    """The person who asks. Routers behind SessionAuth only ever see a signed-in one."""
    return cast(AbstractBaseUser, request.user)

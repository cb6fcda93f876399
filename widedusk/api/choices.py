"""Choices and context as they travel with a request."""

from dataclasses import MISSING
from datetime import date
from typing import TYPE_CHECKING, Annotated, Any, Literal

from ninja import Schema
from pydantic import Field, create_model

from widedusk.api.schemas import Whole, number_in
from widedusk.core.choices import Choices
from widedusk.core.kit.described import NAME_LENGTH, About, abouts


class _Shape(Schema):
    """How this person works; each field left out stands at the house's default."""

    def core(self) -> Choices:
        """The checked choices. Raises InvalidInput."""
        return Choices(**self.dict(include=set(ChoicesShape.model_fields)))


def _typed(about: About, default: Any) -> tuple[Any, Any]:
    """A described field as pydantic wants it."""
    kinds: dict[str, Any] = {"number": number_in(about.unit), "whole": Whole, "text": Annotated[str, Field(max_length=NAME_LENGTH)]}
    kind = Literal[about.options] if about.options else kinds[about.sort]
    return (kind | None if default is None else kind), ... if default is MISSING else default


if TYPE_CHECKING:

    class ChoicesShape(_Shape): ...

else:
    ChoicesShape = create_model(
        "ChoicesShape", __base__=_Shape, **{name: _typed(about, default) for name, about, default in abouts(Choices)}
    )


class Context(Schema):
    """With what, where, when, at what."""

    rig: int
    spot: int
    night: date
    target: int
    framing: int | None = None  # of the target; none: its own middle

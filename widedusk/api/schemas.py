"""Shapes shared by several routers. The core's frozen dataclasses are used as they are where they are answers."""

from typing import Annotated, cast

from django.contrib.auth.models import AbstractBaseUser
from django.http import HttpRequest
from ninja import Schema
from pydantic import Field

Text = Annotated[str, Field(max_length=120)]
Number = Annotated[float, Field(allow_inf_nan=False)]


class Done(Schema):
    done: bool = True


def user_of(request: HttpRequest) -> AbstractBaseUser:
    """The person who asks. Routers behind SessionAuth only ever see a signed-in one."""
    return cast(AbstractBaseUser, request.user)

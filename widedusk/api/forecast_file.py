"""A forecast that somebody brings as a file, for a night at one of their spots."""

from datetime import date

from django.http import HttpRequest
from ninja import File, Query, Router, Schema, UploadedFile

from widedusk.apart import readers
from widedusk.apart.process import read_apart
from widedusk.api.failures import FailureOut
from widedusk.api.files import content_of
from widedusk.api.nights import own_spot
from widedusk.api.schemas import Done, user_of
from widedusk.records.weather.services import forget_forecast_file, keep_forecast_file

router = Router(tags=["nights"])


class ForecastOf(Schema):
    spot: int
    night: date


@router.post("/forecast", response={200: Done, 422: FailureOut})
def take_forecast_file(request: HttpRequest, asked: Query[ForecastOf], file: File[UploadedFile]) -> Done:
    """Take the forecast of a night from a file of CoverageJSON; it stands in place of the service's until it is removed."""
    place = own_spot(user_of(request), asked.spot).place
    name = file.name or "forecast"
    keep_forecast_file(place, asked.night, name, read_apart(readers.forecast, content_of(file), name))
    return Done()


@router.delete("/forecast", response={200: Done, 422: FailureOut})
def remove_forecast_file(request: HttpRequest, asked: Query[ForecastOf]) -> Done:
    """Remove the forecast of a file; the service tells that night again."""
    forget_forecast_file(own_spot(user_of(request), asked.spot).place, asked.night)
    return Done()

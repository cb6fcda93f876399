"""What the forecast service last said about a place and a night, and whether it has failed since."""

from typing import ClassVar

from django.db import models

from widedusk.records.grounds.models import Place


class ForecastService(models.Model):
    """How a service has answered of late. While it rests nobody asks it, for whichever place and night."""

    address = models.CharField(max_length=300, unique=True)
    failures = models.PositiveIntegerField(default=0)  # in a row
    rests_until = models.DateTimeField(null=True, default=None)
    failure = models.CharField(max_length=300, blank=True, default="")

    def __str__(self) -> str:
        return f"{self.address}, {self.failures} failures in a row"


class StoredForecast(models.Model):
    place = models.ForeignKey(Place, on_delete=models.CASCADE, related_name="forecasts")
    night = models.DateField()
    at = models.CharField(max_length=60)  # where the place was then: a moved place needs a new one
    asked_at = models.DateTimeField(null=True, default=None)  # when a worker was last sent for it
    document = models.JSONField(null=True, default=None)  # the last good answer
    fetched_at = models.DateTimeField(null=True, default=None)
    failed_at = models.DateTimeField(null=True, default=None)  # since then
    failure = models.CharField(max_length=300, blank=True, default="")
    uploaded = models.BooleanField(default=False)  # from a file: no service is asked while it stands

    class Meta:
        constraints: ClassVar[tuple[models.BaseConstraint, ...]] = (
            models.UniqueConstraint(fields=("place", "night"), name="one_forecast_a_place_and_night"),
        )

    def __str__(self) -> str:
        return f"{self.place.name}, {self.night}"

"""A place has one sky and several spots; each spot has its own horizon profile."""

from django.db import models

from widedusk.records.owned import Owned, OwnedQuerySet


class Place(Owned):
    latitude_deg = models.FloatField()
    longitude_deg = models.FloatField()
    height_m = models.FloatField(null=True)  # none: nobody gave it, and sea level stands in
    time_zone = models.CharField(max_length=64)
    sky_mag = models.FloatField()
    access = models.TextField(blank=True, default="")  # how to get there, whom to ask, local rules
    caution = models.TextField(blank=True, default="")  # what can hurt there

    objects = OwnedQuerySet["Place"].as_manager()

    class Meta(Owned.Meta):
        abstract = False


class Spot(models.Model):
    place = models.ForeignKey(Place, on_delete=models.CASCADE, related_name="spots")
    name = models.CharField(max_length=120)
    horizon = models.JSONField(default=list)  # [[azimuth°, altitude°], ...]
    deleted_at = models.DateTimeField(null=True, blank=True, default=None)  # plans may still refer to it

    class Meta:
        ordering = ("id",)

    def __str__(self) -> str:
        return f"{self.place.name}, {self.name}"

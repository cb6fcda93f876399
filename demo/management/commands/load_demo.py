"""Load the demo's account and records once."""

from datetime import time

from django.conf import settings
from django.contrib.auth import get_user_model
from django.core.management.base import BaseCommand
from django.db import transaction

from demo.lived import Person
from demo.scenario import HERON, PARTS, PLACES, PLAN_CHOICES, PLAN_NAME, SPARROW, TARGETS, TRIP_NAME
from widedusk.core.choices import set_choices
from widedusk.core.sky.moon import darkest_evening
from widedusk.core.sky.time import mjd_from_datetime
from widedusk.records.clock import now
from widedusk.records.grounds.services import keep_place, spot_of
from widedusk.records.kit.services import keep_part, keep_rig
from widedusk.records.nights.nights import keep_chosen
from widedusk.records.nights.trips import TripInput, keep_trip
from widedusk.records.targets.services import keep_target


class Command(BaseCommand):
    help = "Load the demo's account and records, unless they are there."

    @transaction.atomic
    def handle(self, *args: object, **options: object) -> None:
        people = get_user_model()
        if people.objects.filter(username="demo").exists():
            self.stdout.write("the demo is loaded")
            return
        owner = people.objects.create_user("demo", password=settings.WIDE_DUSK_DEMO_PASSWORD)
        for part in PARTS:
            keep_part(owner, part)
        rigs = [keep_rig(owner, rig) for rig in (SPARROW, HERON)]
        places = [keep_place(owner, place) for place in PLACES]
        targets = [keep_target(owner, target) for target in TARGETS]
        spot = places[0].spots.all()[0]
        evening = darkest_evening(mjd_from_datetime(now()), spot_of(spot).observer.longitude_rad)
        keep_chosen(owner, spot, evening, [targets[2].pk, targets[1].pk, targets[0].pk])
        stops = [spot.pk] * 3
        keep_trip(
            owner, TripInput(TRIP_NAME, evening, stops, [rig.pk for rig in rigs], [one.pk for one in targets[:3]], time(7), 4.5)
        )
        context = {"rig": rigs[1].pk, "spot": spot.pk, "night": evening.isoformat(), "target": targets[1].pk}
        Person(owner).sends("plans", {**context, "name": PLAN_NAME, "choices": set_choices(PLAN_CHOICES)})
        self.stdout.write("loaded the demo")

"""Live the demo's past trip: once, after its pictures are there."""

from pathlib import Path

from django.conf import settings
from django.contrib.auth import get_user_model
from django.core.management.base import BaseCommand

from demo.lived import has_lived, live


class Command(BaseCommand):
    help = "Enter the demo's past trip of three nights and hand its pictures over to the workers, unless that was done."

    def handle(self, *args: object, **options: object) -> None:
        Path(settings.STATIC_ROOT).mkdir(parents=True, exist_ok=True)  # the pages may not be there yet, and nobody asks for one
        owner = get_user_model().objects.get(username="demo")
        if has_lived(owner):
            self.stdout.write("the demo's past trip is there")
            return
        self.stdout.write(live(owner, Path(settings.WIDE_DUSK_PICTURE_FOLDER)))

"""Have the demo's camera take its pictures."""

from pathlib import Path

from django.conf import settings
from django.core.management.base import BaseCommand

from demo.pictures import are_fresh, take_pictures
from widedusk.records.clock import now, true_now


class Command(BaseCommand):
    help = "Write the demo's pictures into the folder from which pictures may be chosen, unless they are there."

    def handle(self, *args: object, **options: object) -> None:
        folder = Path(settings.WIDE_DUSK_PICTURE_FOLDER)
        if are_fresh(folder, true_now()):
            self.stdout.write("the demo's pictures are there")
            return
        self.stdout.write(f"took {take_pictures(folder, now())} pictures")

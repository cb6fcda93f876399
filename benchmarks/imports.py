"""How long a full inventory and a full list of places take to come in: python -m benchmarks.imports, with the database running.

1,900 parts as CSV and 1,990 waypoints as GPX, through the API as a browser brings them, for a person who has nothing; all of it is
rolled back. Beside it how long the database takes for as many bare rows.
"""

# ruff: noqa: PLC0415 - Django wants to be set up before its models are named

import csv
import io
import time
from collections.abc import Callable

import django

PARTS, WAYPOINTS = 1_900, 1_990


def parts_table() -> bytes:
    out = io.StringIO()
    table = csv.writer(out)
    table.writerow(("kind", "name", "mass_g"))
    table.writerows(("other", f"Part {number}", 100 + number) for number in range(PARTS))
    return out.getvalue().encode()


def waypoints() -> bytes:
    points = (
        f'<wpt lat="{-30 + number / 400:.4f}" lon="{15 + number % 97 / 20:.4f}"><name>Camp {number}</name></wpt>'
        for number in range(WAYPOINTS)
    )
    return f'<?xml version="1.0"?><gpx version="1.1" creator="benchmark">{"".join(points)}</gpx>'.encode()


def seconds(work: Callable[[], object]) -> float:
    began = time.perf_counter()
    work()
    return time.perf_counter() - began


def main() -> None:
    django.setup()
    from django.contrib.auth.models import User
    from django.core.files.uploadedfile import SimpleUploadedFile
    from django.db import transaction
    from django.test import Client

    from widedusk.records.kit.models import Part

    with transaction.atomic():
        person = User.objects.create_user("benchmark")
        client = Client(headers={"host": "127.0.0.1"})
        client.force_login(person)
        client.post("/api/exchange", {"file": SimpleUploadedFile("none.csv", b"none")})  # the process that reads files is up now
        for path, name, content in (("/api/exchange", "parts.csv", parts_table()), ("/api/places/file", "camps.gpx", waypoints())):
            answers = []

            def bring(path: str = path, name: str = name, content: bytes = content, answers: list[object] = answers) -> None:
                answers.append(client.post(path, {"file": SimpleUploadedFile(name, content)}))

            took = seconds(bring)
            print(f"{name:10} {answers[0].status_code} {took:5.2f} s")  # type: ignore[attr-defined]
        bare = [Part(owner=person, name=f"Bare {number}", kind="other", values={"mass_g": 1}) for number in range(PARTS)]
        print(f"{PARTS} bare rows {seconds(lambda: Part.objects.bulk_create(bare)):5.2f} s")
        transaction.set_rollback(True)


if __name__ == "__main__":
    main()

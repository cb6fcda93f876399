"""The forecast over real HTTP: fresh, stale, missing, back again; a service that hangs, sends HTML or NaN, or drips."""

import json
import threading
import time
from datetime import UTC, datetime, timedelta
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer

import pytest
from django.conf import settings
from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import connection
from procrastinate.contrib.django.models import ProcrastinateJob

from standins.forecast import Handler, coverage
from tests.web.conftest import context_of, faults
from widedusk.api.worked import IN_TURN
from widedusk.command.standins import address
from widedusk.jobs.queue import fetch_forecast
from widedusk.outside import forecast as outside
from widedusk.records.weather import services
from widedusk.records.weather.models import ForecastService, StoredForecast


@pytest.fixture
def service(settings, monkeypatch):
    """Starts a service with a handler and makes it the one that is asked; it rests for no time, and pages wait for none."""
    running = []
    monkeypatch.setattr(services, "REST", timedelta(0))
    monkeypatch.setattr(services, "ASK_AGAIN", timedelta(0))
    monkeypatch.setattr(services, "MOMENT_S", 0.0)
    monkeypatch.setattr(outside, "WAIT_S", 0.6)
    outside._collections.clear()

    def start(handler):
        server = ThreadingHTTPServer(("127.0.0.1", 0), handler)
        server.daemon_threads = True
        threading.Thread(target=server.serve_forever, daemon=True).start()
        running.append(server)
        settings.WIDE_DUSK_FORECAST_URL = address(server.server_port)
        return server

    yield start
    for server in running:
        server.shutdown()
        server.server_close()


def saying(body: bytes, status: int = 200, wait_s: float = 0.0, drip: bool = False):
    class Says(BaseHTTPRequestHandler):
        def do_GET(self):
            time.sleep(wait_s)
            self.send_response(status)
            self.send_header("Content-Length", str(len(body)))
            self.end_headers()
            try:
                for byte in body if drip else (body,):
                    self.wfile.write(bytes([byte]) if drip else byte)
                    time.sleep(0.1 if drip else 0)
            except OSError:
                return  # the other side has had enough

        def log_message(self, format, *args):
            pass

    return Says


def positions(change):
    """The stand-in, whose answers at a point are changed; refused where nothing comes of it."""

    class Changed(Handler):
        def _say(self, status, document):
            if "/position" in self.path:
                document = change(document)
                status = 200 if document is not None else 400
            super()._say(status, document)

    return Changed


def lacking(found, *names):
    return {**found, "ranges": {name: one for name, one in found["ranges"].items() if name not in names}}


def in_unit(found, name, unit):
    told = {**found["parameters"][name], "unit": {"symbol": unit}}
    return {**found, "parameters": {**found["parameters"], name: told}}


def do_errands():
    """What the worker for errands would do with the jobs that wait; what is in line counts, not what was asked for."""
    waiting = ProcrastinateJob.objects.filter(task_name="fetch a forecast")
    for job in list(waiting):
        fetch_forecast(**job.args)
    with connection.cursor() as cursor:
        cursor.execute("DELETE FROM procrastinate_jobs")


def weather(client):
    client.get("/api/tonight", context_of(client))
    do_errands()
    answer = client.get("/api/tonight", context_of(client))
    assert answer.status_code == 200, answer.content
    return answer.json()["weather"], answer.json()["strip"]["weather"]


def told_dew(client):
    """What the Bench says of dew for the first rig on the demo's night."""
    context = context_of(client)
    rig = next(row for row in client.get("/api/rigs").json()["items"] if row["id"] == context["rig"])
    held = {name: rig[name] for name in ("name", "star_fwhm_px", "focal_mm", "placed")}
    asked = {"rig": held, "spot": context["spot"], "night": context["night"]}
    verdicts = client.post("/api/bench", asked, "application/json").json()["verdicts"]
    return next(one["sentence"] for one in verdicts if one["topic"] == "Dew")


def test_the_stand_in_reaches_strip_and_bench(ours, service):
    without = told_dew(ours)
    assert without.startswith("Type the air")
    service(Handler)
    told, strip = weather(ours)
    assert told["state"] == "fresh" and told["reaches"] and told["words"] == "" and told["missing"] == []
    assert told["source"] == "Stand-in service with invented weather" and told["issued"].endswith(":00 UTC")
    assert len(strip["cloud_percent"]) == len(strip["glass_above_dew_c"]) > 300 and strip["verdict"]["topic"] == "Weather"
    assert not told_dew(ours).startswith("Type the air")


@pytest.mark.parametrize(
    ("handler", "words"),
    [
        (saying(b"{}", wait_s=2.0), "took longer than 0.6 s"),
        (saying(b"x" * 100, drip=True), "took longer than 0.6 s"),
        (saying(b"<html>Sign in to the hotel's network</html>"), "something other than a forecast"),
        (saying(b'{"parameter_names": {"wind": NaN}}'), "NaN"),
        (saying(b"[" * 100_000), "something other than a forecast"),
        (saying(b'{"hours": []}'), "no collection of OGC API"),
        (positions(lambda found: {"type": "FeatureCollection", "features": []}), "other than CoverageJSON"),
        (positions(lambda found: {**found, "ranges": {"air_temperature": {"type": "NdArray"}}}), "not sound at “ranges"),
        (positions(lambda found: lacking(found, "wind_speed")), "does not tell wind_speed"),
        (
            positions(lambda found: lacking(found, "dew_point_temperature", "air_temperature")),
            "air_temperature, dew_point_temperature",
        ),
        (positions(lambda found: in_unit(found, "wind_speed", "furlong/fortnight")), "“wind_speed” in “furlong/fortnight”"),
        (positions(lambda found: None), "answered 400"),
        (saying(b"busy", status=503), "answered 503"),
        (saying(b" " * 600_000), "more than a forecast"),
    ],
)
def test_a_service_that_fails_leaves_the_page_working_and_says_how(ours, service, handler, words):
    service(handler)
    told, strip = weather(ours)
    assert told["state"] == "missing" and words in told["words"] and "under “How”" in told["words"] and strip is None


def test_a_key_goes_where_the_service_wants_it(ours, service, settings):
    asked = []

    class Asked(Handler):
        def do_GET(self):  # noqa: N802
            asked.append((self.headers.get("X-Key"), self.path))
            super().do_GET()

    service(Asked)
    settings.WIDE_DUSK_FORECAST_KEY = "X-Key: a lamp"
    assert weather(ours)[0]["state"] == "fresh" and {key for key, _ in asked} == {"a lamp"} and len(asked) == 2
    outside._collections.clear()
    StoredForecast.objects.all().delete()
    settings.WIDE_DUSK_FORECAST_KEY = "api-key=lamp"
    assert weather(ours)[0]["state"] == "fresh" and all("api-key=lamp" in path for _, path in asked[2:])


def test_what_a_service_does_not_tell_is_said(ours, service):
    service(positions(lambda found: lacking(found, "wind_speed_of_gust", "visibility_in_air")))
    told, strip = weather(ours)
    assert told["state"] == "fresh" and told["missing"] == ["wind_speed_of_gust", "visibility_in_air"]
    assert "gusts" not in strip["verdict"]["sentence"]


def test_a_dead_service_leaves_the_last_forecast_marked_old_and_comes_back(ours, service, settings):
    alive = service(Handler)
    weather(ours)
    StoredForecast.objects.update(fetched_at=datetime.now(UTC) - timedelta(hours=3))
    alive.shutdown()
    alive.server_close()
    told, strip = weather(ours)
    assert told["state"] == "stale" and "cannot be reached" in told["words"] and "3 h old" in told["words"] and strip
    service(Handler)
    assert weather(ours)[0]["state"] == "fresh"


def test_no_page_asks_the_service_itself_and_one_that_failed_rests_for_every_place(ours, service, monkeypatch):
    monkeypatch.setattr(services, "REST", timedelta(seconds=30))
    asked = []

    class Counts(saying(b"{}", status=500)):
        def do_GET(self):  # noqa: N802
            asked.append(self.path)
            super().do_GET()

    service(Counts)
    context = context_of(ours)
    north = next(place for place in ours.get("/api/places").json()["items"] if place["latitude_deg"] > 0)["spots"][0]["id"]
    for spot in (context["spot"], north):
        assert ours.get("/api/tonight", {**context, "spot": spot}).json()["weather"]["state"] == "asked"
    assert asked == []
    do_errands()
    for night in ("2026-12-08", "2026-12-09", "2026-12-10"):
        told = ours.get("/api/tonight", {**context, "night": night}).json()["weather"]
        assert told["state"] == "missing" and "answered 500" in told["words"]
        do_errands()
    assert len(asked) == 1
    # It is asked again when it has rested, and a good answer ends the resting.
    ForecastService.objects.update(rests_until=datetime.now(UTC))
    service(Handler)
    ForecastService.objects.update(address=settings.WIDE_DUSK_FORECAST_URL)
    assert weather(ours)[0]["state"] == "fresh"
    assert ForecastService.objects.get().failures == 0


@pytest.mark.parametrize("path", ["/api/tonight", "/api/exposure"])
def test_who_waits_for_a_forecast_holds_up_nobody_who_works_out_a_night(ours, service, monkeypatch, path):
    service(Handler)
    free = []

    def sent(*_: object) -> None:
        free.append([IN_TURN.acquire(blocking=False) for _ in range(2)])
        for _ in range(2):
            IN_TURN.release()

    monkeypatch.setattr("widedusk.api.weather.send_for_forecast", sent)
    assert ours.get(path, context_of(ours)).status_code == 200
    assert free == [[True, True]]


def test_ones_own_figures_win_and_no_service_is_no_trouble(ours, settings):
    settings.WIDE_DUSK_FORECAST_URL = ""
    told, strip = weather(ours)
    assert told["state"] == "off" and strip is None
    typed = ours.get("/api/tonight", {**context_of(ours), "air_evening_c": 5, "air_low_c": -2, "humidity_percent": 70}).json()
    assert typed["weather"]["typed"] is True


def as_file(client, change=lambda told: told):
    """A night's hours as the stand-in tells them, in a file."""
    context, first = context_of(client), datetime(2026, 12, 8, 9, tzinfo=UTC)
    place = next(one for one in client.get("/api/places").json()["items"] if one["latitude_deg"] < 0)
    span = f"{first:%Y-%m-%dT%H:%M:%SZ}/{first + timedelta(hours=29):%Y-%m-%dT%H:%M:%SZ}"
    asked = {"coords": f"POINT({place['longitude_deg']} {place['latitude_deg']})", "datetime": span}
    told = json.dumps(change(coverage(asked))).encode()
    return context, SimpleUploadedFile("mountain-met.covjson", told)


def brings(client, context, file):
    return client.post(f"/api/nights/forecast?spot={context['spot']}&night={context['night']}", {"file": file})


def test_a_forecast_from_a_file_stands_until_it_is_removed(ours, client_of, service):
    """With a service or without; the figures are those the service tells of the same hours."""
    service(Handler)
    by_service, strip_by_service = weather(ours)
    context, file = as_file(ours)
    assert brings(ours, context, file).status_code == 200
    told, strip = weather(ours)
    assert (told["state"], told["source"], told["issued"]) == ("file", "mountain-met.covjson", "")
    assert strip["cloud_percent"] == strip_by_service["cloud_percent"] and by_service["state"] == "fresh"
    assert ours.get("/api/tonight", {**context, "night": "2026-12-09"}).json()["weather"]["state"] != "file"
    stranger = client_of("neighbour")
    assert brings(stranger, *as_file(ours)).status_code in {404, 422}
    where = f"/api/nights/forecast?spot={context['spot']}&night={context['night']}"
    assert ours.delete(where).status_code == 200
    assert weather(ours)[0]["state"] == "fresh"


@pytest.mark.parametrize(
    ("change", "words"),
    [
        (lambda told: {**told, "ranges": {}}, "does not tell"),
        (lambda told: {"type": "Feature"}, "other than CoverageJSON"),
        (lambda told: in_unit(told, "wind_speed", "parsec"), "parsec"),
        (lambda told: float("nan"), "not a file of CoverageJSON"),
    ],
)
def test_a_file_that_is_no_forecast_of_this_night_is_refused_and_changes_nothing(ours, change, words):
    answer = brings(ours, *as_file(ours, change))
    assert any(words in message for message in faults(answer).values()), answer.content
    context, file = as_file(ours)
    late = brings(ours, {**context, "night": "2026-12-20"}, file)
    assert "does not reach from sunset to sunrise" in faults(late)["file"] and "8 Dec" in faults(late)["file"].replace("08", "8")
    assert weather(ours)[0]["state"] == "off"

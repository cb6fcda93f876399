"""No list and no page takes more queries with twenty rows of everything, or with a hundred, than with one.

Left out is frames/alarms: it looks through each watched folder of one night, of which there are as many as rigs stand there.
"""

from datetime import UTC, date, datetime, time, timedelta

from django.db import connection
from django.test.utils import CaptureQueriesContext

from tests.web.conftest import context_of
from tests.web.test_frames import GOOD
from widedusk.records.frames.frames import stored_facts
from widedusk.records.frames.models import Folder, Frame
from widedusk.records.grounds.models import Place, Spot
from widedusk.records.kit.models import Part, Placement, Rig
from widedusk.records.kit.services import snapshot_of
from widedusk.records.nights.facts import facts_from, save_facts
from widedusk.records.nights.models import Night, Run, RunPlan, Trip
from widedusk.records.pictures.models import Measurement, Picture
from widedusk.records.pole.models import Alignment
from widedusk.records.targets.models import Framing, Target

ROWS, NIGHTLY_ROWS = (1, 20), (1, 20, 100)
MAX_QUERIES = 20


def _more(owner, numbers: range) -> None:
    """More of everything that is listed."""

    def copies(kind, given, **more):
        values = {one.attname: getattr(given, one.attname) for one in kind._meta.concrete_fields if not one.primary_key}
        return kind.objects.bulk_create(kind(**{**values, "name": f"copy {number}", **more}) for number in numbers)

    rig, target, place = (kind.objects.of(owner).first() for kind in (Rig, Target, Place))
    spot = place.spots.first()
    copies(Part, Part.objects.of(owner).first())
    copies(Target, target)
    for row in copies(Rig, rig):
        same = {"arm_mm": 0, "along_mm": 0}
        Placement.objects.bulk_create(
            Placement(rig=row, part=one.part, order=one.order, carried=one.carried, **same) for one in rig.placements.all()
        )
    Spot.objects.bulk_create(Spot(place=row, name="here", horizon=[]) for row in copies(Place, place))
    RunPlan.objects.bulk_create(RunPlan(run=run, changed_at=run.created_at) for run in copies(Run, Run.objects.of(owner).first()))
    error = {"altitude_arcmin": 1, "azimuth_arcmin": 1, "altitude_sigma": 1, "azimuth_sigma": 1}
    asked = {"pictures": [], "pole": "refracted", "tolerance_arcmin": 10}
    result = {"error": error, "pictures": [], "turn_deg": 45, "stars": 9}
    night = date(2026, 12, 8)
    for number in numbers:
        common, name = {"owner": owner, "rig": rig, "spot": spot, "night": night}, f"number {number}"
        Alignment.objects.create(**common, **error, name=name, method="x", measured_at=datetime.now(UTC))
        told = {"state": "done", "result": result} if number % 2 else {"state": "waiting"}
        Measurement.objects.create(**common, target=target, task="axis", asked=asked, **told)
        Picture.objects.create(owner=owner, name=name, digest="", header={"kind": "JPEG", "width_px": 900, "height_px": 600})
        evening = Night.objects.create(owner=owner, name=name, spot=spot, date=night + timedelta(days=300 + number))
        lies = {"owner": owner, "night": evening, "rig": rig, "target": target, "path": name, "name": name}
        folder = Folder.objects.create(**lies, settled_at=datetime.now(UTC) + timedelta(days=1))
        for state in ("waiting", "failed", "done"):
            ended = None if state == "waiting" else datetime.now(UTC)
            common_to = {"owner": owner, "folder": folder, "size_bytes": 1, "changed_ns": 1}
            Frame.objects.create(**common_to, name=state, state=state, kind="dark", measured_at=ended)
        of_night = {"owner": owner, "name": name, "target": target, "night": evening, "rig": rig}
        noted = Run.objects.create(**of_night, state="noted", origin="noted", snapshot=snapshot_of(rig))
        save_facts(noted, facts_from("user", {"kept": 9, "exposure_s": 60, "f_number": 4}))
        begun = datetime(2026, 12, 9, 21, tzinfo=UTC) + timedelta(days=number)
        running = Run.objects.create(**of_night, state="running", origin="files")
        save_facts(running, facts_from("files", {"begins_at": begun, "exposure_s": 60, "frames": 3}))
        for place in range(3):
            Frame.objects.create(
                owner=owner, folder=folder, size_bytes=1, changed_ns=1, name=f"light {place}", state="done", kind="light",
                run=running, began_at=begun + timedelta(minutes=place), measured_at=begun, digest=f"{number} {place}",
                facts=stored_facts(GOOD), header={"exposure_s": 60.0, "iso": 800, "f_number": 4.0},
            )  # fmt: skip
        Framing.objects.create(owner=owner, name=name, target=target, ra_deg=80, dec_deg=-30)
        trip = Trip.objects.create(owner=owner, name=name, first_night=night, wake_time=time(7), drive_h=1)
        trip.nights.add(evening)


def test_lists_and_pages_take_no_more_queries_with_20_or_100_rows_than_with_1(ours, django_user_model, pytestconfig):
    owner = django_user_model.objects.get(username="demo")
    _more(owner, range(ROWS[0]))
    context = context_of(ours)
    night = {"spot": context["spot"], "night": context["night"]}
    with_rig, with_target = {**night, "rig": context["rig"]}, {**night, "target": context["target"]}
    run, trip, noted = Run.objects.get(state="running"), Trip.objects.latest("pk"), Night.objects.latest("pk")
    no_words = ("alignments", "frames/folders", "frames/folders/there", "frames/runs", "framings", "framings/figures", "habits")
    no_words += (
        "lenses",
        "nights",
        "runs",
        "parts",
        "parts/kinds",
        "pictures",
        "pictures/folder",
        "pictures/measurements",
        "places",
    )
    no_words += ("places", "plans", "rigs", "sessions", "targets", "targets/kinds", "tonight/start", "trips", "account/export")
    no_words += ("exchange/kit.json", "exchange/parts.csv", "exchange/rigs.csv", f"trips/{trip.pk}/plan")
    no_words += (f"frames/runs/{run.pk}", f"frames/runs/{run.pk}/axis", f"frames/runs/{run.pk}/beside", f"nights/{noted.pk}/events")
    pages: dict[str, dict] = {
        **{path: {} for path in no_words},
        **dict.fromkeys(
            ("tonight", "tonight/better", "exposure", "pole/need", "pole/rough", "pole/keeping", "nights/cues"), context
        ),
        **dict.fromkeys(("nights/field", "nights/fortnight", "nights/panorama", "nights/whole", "framings/above"), night),
        **dict.fromkeys(("nights/suits", "nights/together", "pole/scope", "framings/angles"), with_rig),
        **dict.fromkeys(("nights/lanes", "nights/spots", "nights/year"), with_target),
        "nights/frame": context,
        "packing": {**night, "rigs": context["rig"]},
        f"trips/{trip.pk}/overview": context,
        "targets/catalogue": {"words": "m 42"},
    }

    def count(path: str, query: dict) -> int:
        ours.get(f"/api/{path}", query)  # what is remembered from one request to the next
        with CaptureQueriesContext(connection) as seen:
            answer = ours.get(f"/api/{path}", query)
        assert answer.status_code == 200, (path, answer.content[:300])
        return len(seen)

    counts: dict[str, list[int]] = {path: [] for path in pages}
    before = 0
    for rows in NIGHTLY_ROWS if pytestconfig.getoption("everything") else ROWS:
        _more(owner, range(before or ROWS[0], rows))
        before = rows
        # Whether a worker is heard is asked once somebody waits for long; on a slow machine that would be in the midst of this.
        Measurement.objects.filter(state="waiting").update(created_at=datetime.now(UTC) - timedelta(hours=1))
        for path, query in pages.items():
            counts[path].append(count(path, query))
    # Fewer is right: what no row of the first page has is not asked for.
    assert {path: found for path, found in counts.items() if max(found) > found[0]} == {}
    counts.pop("account/export")  # one for each table, by its nature
    assert {path: found for path, found in counts.items() if max(found) > MAX_QUERIES} == {}

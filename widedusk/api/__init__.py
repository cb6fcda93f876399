"""The typed API: one router per workspace or noun; parse, call, return."""

from django.http import HttpRequest, HttpResponse
from ninja.security import SessionAuth

from widedusk.api import (
    account,
    alignments,
    begin,
    bench,
    exchange,
    exposure,
    field,
    forecast_file,
    frame_folders,
    frames,
    framing,
    framing_night,
    grounds,
    habits,
    kit,
    lenses,
    measurements,
    night_list,
    nights,
    packing,
    parts,
    pictures,
    plannings,
    plans,
    polar_scope,
    pole,
    pole_by_day,
    pole_by_drift,
    runs,
    session,
    sessions,
    targets,
    tonight,
    trips,
    whole,
)
from widedusk.api.document import OneShape
from widedusk.api.door import Door
from widedusk.api.failures import FaultOut, answer_failures
from widedusk.api.strict_json import StrictJson
from widedusk.api.versions import CHANGED, ChangedMeanwhile, ChangedOut

api = OneShape(
    title="Wide Dusk", version="1", docs_url=None, auth=SessionAuth(), urls_namespace="api", renderer=StrictJson(), parser=Door()
)
answer_failures(api)


@api.exception_handler(ChangedMeanwhile)
def changed(request: HttpRequest, exc: ChangedMeanwhile) -> HttpResponse:
    """Refused, with what stands there now."""
    told = ChangedOut(faults=[FaultOut(field="", value=None, message=CHANGED)], theirs=exc.theirs)
    return api.create_response(request, told.dict(), status=409)


api.add_router("/session", session.router)
api.add_router("/account", account.router)
api.add_router("/begin", begin.router)
api.add_router("/parts", parts.router)
api.add_router("/rigs", kit.router)
api.add_router("/bench", bench.router)
api.add_router("/framings", framing.router)
api.add_router("/framings", framing_night.router)
api.add_router("/packing", packing.router)
api.add_router("/exchange", exchange.router)
api.add_router("/habits", habits.router)
api.add_router("/places", grounds.router)
api.add_router("/targets", targets.router)
api.add_router("/plans", plans.router)
api.add_router("/tonight", tonight.router)
api.add_router("/nights", nights.router)
api.add_router("/nights", night_list.router)
api.add_router("/nights", field.router)
api.add_router("/nights", forecast_file.router)
api.add_router("/nights/whole", whole.router)
api.add_router("/nights/whole", plannings.router)
api.add_router("/trips", trips.router)
api.add_router("/trips", plannings.trip_router)
api.add_router("/pole", pole.router)
api.add_router("/pole/rough", pole_by_day.router)
api.add_router("/pole/scope", polar_scope.router)
api.add_router("/pole/drift", pole_by_drift.router)
api.add_router("/exposure", exposure.router)
api.add_router("/lenses", lenses.router)
api.add_router("/sessions", sessions.router)
api.add_router("/runs", runs.router)
api.add_router("/alignments", alignments.router)
api.add_router("/frames/folders", frame_folders.router)
api.add_router("/frames", frames.router)
api.add_router("/pictures", pictures.router)
api.add_router("/pictures/measurements", measurements.router)

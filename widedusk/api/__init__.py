"""The typed API: one router per workspace or noun; parse, call, return."""

from ninja import NinjaAPI
from ninja.security import SessionAuth

from widedusk.api import bench, exchange, grounds, habits, kit, packing, parts, plans, session, targets, tonight
from widedusk.api.failures import answer_failures

api = NinjaAPI(title="Wide Dusk", version="1", docs_url=None, auth=SessionAuth(), urls_namespace="api")
answer_failures(api)
api.add_router("/session", session.router)
api.add_router("/parts", parts.router)
api.add_router("/rigs", kit.router)
api.add_router("/bench", bench.router)
api.add_router("/packing", packing.router)
api.add_router("/exchange", exchange.router)
api.add_router("/habits", habits.router)
api.add_router("/places", grounds.router)
api.add_router("/targets", targets.router)
api.add_router("/plans", plans.router)
api.add_router("/tonight", tonight.router)

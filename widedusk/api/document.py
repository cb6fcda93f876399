"""The API's description of itself: what many requests share is written down once."""

import json
from dataclasses import asdict
from pathlib import Path
from typing import Any

from ninja import NinjaAPI
from ninja.openapi.schema import OpenAPISchema
from ninja.responses import NinjaJSONEncoder

from widedusk.api.choices import ChoicesShape
from widedusk.core.choices import described_choices

SHARED = "ChoicesShape"


class OneShape(NinjaAPI):
    """Choices travel flat in every query; in the document they are one parameter that is spread out (form, exploded)."""

    def get_openapi_schema(self, **words: Any) -> OpenAPISchema:
        document = super().get_openapi_schema(**words)
        names = set(ChoicesShape.model_fields)
        shared = {
            "in": "query",
            "name": "choices",
            "required": False,
            "style": "form",
            "explode": True,
            "schema": {"$ref": f"#/components/schemas/{SHARED}"},
        }
        for methods in document["paths"].values():
            for operation in methods.values():
                given = operation.get("parameters", [])
                others = [one for one in given if one["in"] != "query" or one["name"] not in names]
                if len(given) - len(others) == len(names):
                    operation["parameters"] = [*others, shared]
        shapes = document["components"]["schemas"]
        for name in [one for one, shape in shapes.items() if one != SHARED and names <= set(shape.get("properties", ()))]:
            del shapes[name]  # of a query: its parameters say the same
        document["x-choices"] = [asdict(one) for one in described_choices()]  # of which the front end makes its form
        return document

    def write_document(self, path: str) -> None:
        """As JSON. Ninja's own command for it would be an application that every worker loads."""
        document = self.get_openapi_schema()
        Path(path).write_text(json.dumps(document, cls=NinjaJSONEncoder, sort_keys=True, ensure_ascii=False))

"""What the API's description says beside its answers: the errors that any operation may end with, files, and recipes."""

from typing import Annotated, Any

from ninja import NinjaAPI, Schema
from ninja.openapi.schema import OpenAPISchema
from pydantic import BeforeValidator

from plinto_core.recipe import Recipe, recipe_from_json
from plinto_server.two_ways import TwoWaySchema

#: Errors by status, in words; all of them come from `plinto_server.api`'s handlers, or from signing in.
_ERRORS = {
    400: "What was sent cannot be read: no JSON, or no form.",
    401: "Nobody is signed in.",
    403: "This person may not do that, or the request did not come from Plinto's own pages.",
    404: "What is named is not here, or not any more.",
    409: "Somebody else changed it first, or it is in a state that does not allow this.",
    413: "Larger than may be taken in.",
    422: "What was given cannot be; the text says why and what fits.",
    503: "The database or the machine is busy. Nothing was done; try again.",
    507: "The disk is full. Nothing was kept.",
}


_JSON, _FILE = "application/json", "The file"


class Refusal(Schema):
    """Why something was refused, for people; where fields of the request are at fault, one entry for each."""

    detail: str | list[dict[str, Any]]


def _given_recipe(given: object) -> Recipe:
    return given if isinstance(given, Recipe) else recipe_from_json(given)


#: A recipe as it is sent: read as one from a file is, so that a setting that nothing is called is refused.
GivenRecipe = Annotated[Recipe, BeforeValidator(_given_recipe)]


class DescribedAPI(NinjaAPI):
    """An API whose description names its errors too, and has types for both ways."""

    def get_openapi_schema(
        self, *, path_prefix: str | None = None, path_params: dict[str, Any] | None = None
    ) -> OpenAPISchema:
        """See `NinjaAPI`; with errors."""
        prefix = self.get_root_path(path_params or {}) if path_prefix is None else path_prefix
        schema = TwoWaySchema(self, prefix)
        schema["components"]["schemas"].setdefault("Refusal", Refusal.json_schema())
        for path, operations in schema["paths"].items():
            for method, operation in operations.items():
                for status in _errors_of(path, method, operation):
                    operation["responses"].setdefault(status, _refusal(status))
        return schema


def file_of(*kinds: str) -> dict[str, Any]:
    """`openapi_extra` of an operation that answers with a file of one of these media types."""
    plain: dict[str, Any] = {"type": "object"}
    content = {kind: {"schema": plain if kind == _JSON else {"type": "string", "format": "binary"}} for kind in kinds}
    return {"responses": {200: {"description": _FILE, "content": content}}}


def _errors_of(path: str, method: str, operation: dict[str, Any]) -> list[int]:
    changes, given = method != "get", bool(operation.get("parameters") or "requestBody" in operation)
    # A file may not be there yet: what it is made of is in a state of its own.
    makes_file = operation["responses"].get(200, {}).get("description") == _FILE
    return [
        *([400] if "requestBody" in operation else []),
        *([401] if operation.get("security") else []),
        *([403] if changes else []),
        *([404] if "{" in path or given else []),
        *([409] if changes or makes_file else []),
        *([413] if "requestBody" in operation else []),
        *([422] if given else []),
        503,
        *([507] if changes else []),
    ]


def _refusal(status: int) -> dict[str, Any]:
    content = {_JSON: {"schema": {"$ref": "#/components/schemas/Refusal"}}}
    return {"description": _ERRORS[status], "content": content}

"""The API's description with a type for each way: what may be sent, and what comes back.

A setting that has a default may be left out of what is sent and is always there in what comes back. Django Ninja describes
both by one name, whichever it meets last; here what may be sent is called `...Given` where the two differ, so that a client
never has to say that what came back is whole.
"""

import json
from typing import Any

from ninja.openapi.schema import REF_TEMPLATE, OpenAPISchema
from ninja.params.models import TModel
from ninja.schema import NinjaGenerateJsonSchema
from pydantic.json_schema import JsonSchemaMode

_SENT = "Given"


class _Whole(NinjaGenerateJsonSchema):
    """Everything is there in what comes back: no operation of Plinto leaves defaults out."""

    def field_is_required(self, field: Any, total: bool) -> bool:
        return self.mode == "serialization" or super().field_is_required(field, total)


class TwoWaySchema(OpenAPISchema):
    """See the module. Types that are the same both ways, with all that they refer to, are named once."""

    def __init__(self, api: Any, path_prefix: str) -> None:
        self._sent: dict[str, Any] = {}
        super().__init__(api, path_prefix)
        differing = self._differing()
        for name, definition in self._sent.items():
            if name in differing:
                self.schemas[name + _SENT] = definition
            else:
                self.schemas.setdefault(name, definition)
        # References were marked as sent while it was not known yet whether the two differ.
        whole = _renamed(dict(self), {name + _SENT: name for name in self._sent if name not in differing})
        self.update(whole)

    def add_schema_definitions(self, definitions: dict[str, Any]) -> None:
        """What comes here by itself belongs to a request's parameters."""
        self._sent.update(_renamed(definitions, {name: name + _SENT for name in definitions}))

    def _create_schema_from_model(
        self, model: TModel, by_alias: bool = True, remove_level: bool = True, mode: JsonSchemaMode = "validation"
    ) -> tuple[dict[str, Any], bool]:
        if mode == "validation" or hasattr(model, "__ninja_flatten_map__"):
            schema, required = super()._create_schema_from_model(model, by_alias, remove_level, mode)
            return _renamed(schema, {name: name + _SENT for name in self._sent}), required
        schema = model.model_json_schema(
            ref_template=REF_TEMPLATE, by_alias=by_alias, schema_generator=_Whole, mode=mode
        ).copy()
        self.schemas.update(schema.pop("$defs", {}))
        if remove_level and len(schema["properties"]) == 1:
            [(name, details)] = schema["properties"].items()
            return details, name in schema.get("required", {})
        return schema, True

    def _differing(self) -> set[str]:
        """Names of types that are sent and come back, and are not the same: themselves, or in what they refer to."""
        both = {name for name in self._sent if name in self.schemas}
        plain = {name: _renamed(self._sent[name], {other + _SENT: other for other in self._sent}) for name in both}
        found = {name for name in both if plain[name] != self.schemas[name]}
        while more := {
            name
            for name in both - found
            if any(_reference(other + _SENT) in json.dumps(self._sent[name]) for other in found)
        }:
            found |= more
        return found


def _reference(name: str) -> str:
    return f'"{REF_TEMPLATE.format(model=name)}"'


def _renamed(described: Any, names: dict[str, str]) -> Any:
    """A copy whose references go by other names."""
    if isinstance(described, dict):
        return {
            key: REF_TEMPLATE.format(model=names.get(model := str(value).rpartition("/")[2], model))
            if key == "$ref"
            else _renamed(value, names)
            for key, value in described.items()
        }
    if isinstance(described, list):
        return [_renamed(each, names) for each in described]
    return described

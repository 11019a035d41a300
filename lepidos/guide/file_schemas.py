"""JSON Schemas (2020-12) of the guide's files, made of the core's models, for editors."""

from typing import Any

from pydantic import BaseModel

from lepidos.core.cutting.deeds import Checks
from lepidos.core.cutting.hazards import Caution, FirstAid
from lepidos.core.cutting.methods import Methods
from lepidos.core.cutting.stand_ins import Tool
from lepidos.core.fish.bodyplan import BodyPlan, Piece
from lepidos.core.fish.identification import LookAlike
from lepidos.core.fish.likeness import Likeness
from lepidos.core.fish.species import Species
from lepidos.core.pack.findings import ByproductUses, FindingKinds
from lepidos.guide.label_words import LabelLanguage

DRAFT = "https://json-schema.org/draft/2020-12/schema"
# what the reader adds of itself, or takes from another file
_ADDED: dict[type[BaseModel], tuple[str, ...]] = {
    Species: ("key",), LookAlike: ("key",), Piece: ("key",), Tool: ("key",),
}  # fmt: skip


def file_schemas() -> dict[str, dict[str, Any]]:
    """The schema of each kind of guide file. A plan with `like` may leave out any field."""
    species = _of(Species)
    likeness = Likeness.model_json_schema(ref_template="#/$defs/{model}")
    species["$defs"] |= likeness.pop("$defs", {}) | {"Likeness": likeness}
    species["properties"]["shape"] = {
        "anyOf": [{"$ref": "#/$defs/Shape"}, {"$ref": "#/$defs/Likeness"}]
    }
    plan = _of(BodyPlan)
    plan["properties"]["like"] = {"type": "string"}
    plan["properties"]["without_zones"] = {"type": "array", "items": {"type": "string"}}
    plan.pop("required", None)
    plan["$defs"]["Step"].pop("required", None)
    lookalike = _of(LookAlike)
    lookalike["$defs"]["Answer"]["properties"]["base"] = {"type": "string"}
    cautions = _each(_of(Caution))
    cautions["additionalProperties"]["properties"]["stung"] = {"type": "string"}
    return {
        "species": species, "bodyplan": plan, "lookalike": lookalike, "cautions": cautions,
        "pieces": _each(_of(Piece)), "tools": _each(_of(Tool)), "methods": _of(Methods),
        "findings": _of(FindingKinds), "byproduct_uses": _of(ByproductUses),
        "firstaid": _of(FirstAid), "checks": _of(Checks), "label": _of(LabelLanguage),
    }  # fmt: skip


def _of(kind: type[BaseModel]) -> dict[str, Any]:
    found = kind.model_json_schema()
    for name in _ADDED.get(kind, ()):
        found["properties"].pop(name, None)
        if name in found.get("required", ()):
            found["required"].remove(name)
    found.setdefault("$defs", {})
    return {"$schema": DRAFT, **found}


def _each(one: dict[str, Any]) -> dict[str, Any]:
    """A file of many tables alike."""
    defs = one.pop("$defs")
    schema = one.pop("$schema")
    return {"$schema": schema, "type": "object", "additionalProperties": one, "$defs": defs}

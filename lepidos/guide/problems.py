"""What does not hold in a file of the guide: which file, which field, what to write instead."""

import difflib
from collections.abc import Mapping, Sequence
from typing import Any, TypeVar

from pydantic import BaseModel, ValidationError

Made = TypeVar("Made", bound=BaseModel)
_KINDS = {
    "number": "a number", "integer": "a whole number", "string": "a text in quotes",
    "boolean": "true or false", "array": "a list in [ ]", "object": "a table",
}  # fmt: skip
MAX_NAMED = 8  # flaws of one file that are told at once
MAX_SHOWN = 60  # letters of what stands there


class GuideProblem(ValueError):
    """A file of the guide does not hold. `where` is its name, `said` a sentence for each flaw."""

    def __init__(self, where: str, said: Sequence[str]) -> None:
        self.where, self.said = where, tuple(said)
        super().__init__("\n".join(f"{where}: {one}" for one in said))


def made(where: str, kind: type[Made], raw: Mapping[str, Any], **more: Any) -> Made:
    """A value of the core from what a file says.

    Args: `where` names the file, and the part of it; `more` are fields that are not in the file.
    Raises: GuideProblem with each field that is missing, misspelt or wrong.
    """
    try:
        return kind(**(dict(raw) | more))
    except ValidationError as error:
        schema = kind.model_json_schema()
        told = [_told(one, schema) for one in error.errors(include_url=False)[:MAX_NAMED]]
        raise GuideProblem(where, list(dict.fromkeys(told))) from error
    except TypeError as error:  # a key that is no name
        raise GuideProblem(where, [str(error)]) from error


def made_each(
    where: str, kind: type[Made], raws: Mapping[str, Any], keyed: bool = False
) -> dict[str, Made]:
    """Each table of a file as a value, by its name. `keyed`: the value knows its name as `key`."""
    found = {}
    for key, raw in raws.items():
        if not isinstance(raw, Mapping):
            raise GuideProblem(where, [f"{key} is {raw!r}: write a table, [{key}]"])
        found[key] = made(f"{where}, [{key}]", kind, raw, **({"key": key} if keyed else {}))
    return found


def _told(error: Any, schema: Mapping[str, Any]) -> str:
    at = [part for part in error["loc"] if not _is_label(part)]
    field = _path(at)
    if error["type"] == "missing":
        return f"{field} is missing: write {at[-1]} = …, {_wanted(schema, at) or 'its value'}"
    if error["type"] == "extra_forbidden":
        known = _part(schema, at[:-1]).get("properties", {})
        near = difflib.get_close_matches(str(at[-1]), known, 1)
        return f"there is no field {field}: " + (
            f"write {near[0]}" if near else f"take it out, or write one of {', '.join(known)}"
        )
    why = str(error["msg"]).removeprefix("Value error, ").removeprefix("Assertion failed, ")
    if not field:  # of the whole
        return why[:1].lower() + why[1:]
    stands = repr(error["input"])
    shown = stands if len(stands) <= MAX_SHOWN else f"{stands[:MAX_SHOWN]}…"
    if error["type"].startswith("value_error"):
        return f"{field}: {why}"
    wanted = _wanted(schema, at)
    return f"{field} is {shown}: " + (f"write {wanted}" if wanted else why[:1].lower() + why[1:])


def _is_label(part: object) -> bool:
    """A branch of several kinds, as pydantic names it: no field of the file."""
    return isinstance(part, str) and not part.isidentifier()


def _path(at: Sequence[object]) -> str:
    said = ""
    for part in at:
        said += f"[{part + 1}]" if isinstance(part, int) else f".{part}" if said else str(part)
    return said


def _part(schema: Mapping[str, Any], at: Sequence[object]) -> Mapping[str, Any]:
    """The part of a JSON Schema that a field is held to; {} where it says nothing of it."""
    whole, one = schema, schema
    for step in (*at, None):
        if "$ref" in one:
            one = whole["$defs"][one["$ref"].rpartition("/")[2]]
        if "anyOf" in one:
            one = next((some for some in one["anyOf"] if some.get("type") != "null"), {})
            if "$ref" in one:
                one = whole["$defs"][one["$ref"].rpartition("/")[2]]
        if step is None:
            break
        if isinstance(step, int):
            rows = one.get("prefixItems", ())
            one = rows[step] if step < len(rows) else one.get("items", {})
        else:
            one = one.get("properties", {}).get(step) or one.get("additionalProperties") or {}
        if not isinstance(one, Mapping):
            return {}
    return one


def _wanted(schema: Mapping[str, Any], at: Sequence[object]) -> str:
    """What may stand in a field, in words; "" where only the model itself knows."""
    part = _part(schema, at)
    if "enum" in part:
        return "one of " + ", ".join(f'"{one}"' for one in part["enum"])
    said = _KINDS.get(str(part.get("type")), "")
    low = part.get("minimum", part.get("exclusiveMinimum"))
    high = part.get("maximum", part.get("exclusiveMaximum"))
    if low is not None and high is not None:
        said += f" from {low:g} to {high:g}"
    elif low is not None:
        said += f" of {low:g} or more" if "minimum" in part else f" above {low:g}"
    if part.get("type") == "object" and (fields := part.get("required")):
        said += f" with {', '.join(fields)}"
    if "pattern" in part:
        said += f" like {part['pattern']}"
    return said

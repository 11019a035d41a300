"""An order read from the API's address and JSON, as its own fields say; see `web/shell/orders.py`.

A field is called as in the order, `kg` "weight_kg" and lengths "…_cm" in centimetres. What an order
has BESIDE what it asks for is not taken.
"""

from collections.abc import Mapping
from dataclasses import MISSING, Field, fields
from datetime import datetime
from inspect import Parameter, Signature
from typing import Annotated, Any, get_type_hints

from fastapi import APIRouter, Depends, Request
from pydantic import BaseModel, ConfigDict, create_model

from lepidos.core.errors import Refused
from lepidos.web.api.shapes import DoneOut, Key, Mass, done_out
from lepidos.web.shell.orders import Order, UseCase, order_of, path_names, posted_name
from lepidos.web.shell.render import context_of

_OF_BODY = ConfigDict(extra="forbid", allow_inf_nan=False, str_max_length=200)


def by_api(
    router: APIRouter,
    tag: str,
    path: str,
    use_case: UseCase,
    about: str,
    method: str = "POST",
    without: tuple[str, ...] = (),
    names: Mapping[str, str] | None = None,
) -> None:
    """A use case over the API, `about` which its documents say this; the rest its order says.

    `without`: fields that only pages say; `names`: what the API calls a field otherwise.
    """
    kind = order_of(use_case)
    called = {
        posted_name(f.name): (names or {}).get(f.name) or _called(f.name) for f in fields(kind)
    }  # what a refusal calls a field and what the API does

    def write(request: Request, key: Key, order: Any) -> DoneOut:
        try:
            return done_out(use_case(context_of(request), key, order))
        except Refused as error:
            named = {called.get(name, name): why for name, why in error.problems.items()}
            raise Refused(named) from error

    read = asked(kind, path_names(path), without, names)
    write.__annotations__["order"] = Annotated[kind, read]
    write.__name__ = use_case.__name__
    router.add_api_route(
        path,
        write,
        methods=[method],
        tags=[tag],
        status_code=201 if method == "POST" else 200,
        description=about,
    )


def asked(
    kind: type[Order],
    in_path: tuple[str, ...] = (),
    without: tuple[str, ...] = (),
    names: Mapping[str, str] | None = None,
) -> Any:
    """Tell FastAPI how to read an order: `order: Annotated[LandFish, asked(LandFish, …)]`."""
    hints = get_type_hints(kind)
    flat: dict[str, type[Any]] = {
        f.name: hints[f.name]
        for f in fields(kind)  # type: ignore[arg-type]
        if f.metadata.get("flat")
    }
    shape, called = _shape(kind, {*in_path, *without, *flat}, names or {})
    inner = {name: _shape(hint, set(), {}) for name, hint in flat.items()}
    for more, _ in inner.values():
        shape |= more
    body = create_model(kind.__name__, __doc__=kind.__doc__, __config__=_OF_BODY, **shape)
    own = {f.name for f in fields(kind)}  # type: ignore[arg-type]

    def read(**given: Any) -> Order:
        said: BaseModel = given.pop("body", None) or body()  # where nothing has to be said
        found = {name: value for name, value in given.items() if name in own}
        found |= _values(said, called)
        for name, (_, parts) in inner.items():
            found[name] = flat[name](**_values(said, parts))
        for name, value in found.items():
            if isinstance(value, datetime) and value.tzinfo is None:
                raise Refused({name: "Say the zone too, as in 2026-07-14T13:10:00Z"})
        return kind(**found)

    # FastAPI reads what a dependency takes from its signature
    known = [Parameter(name, Parameter.KEYWORD_ONLY, annotation=str) for name in in_path]
    if any(default is ... for _, default in shape.values()):
        known.append(Parameter("body", Parameter.KEYWORD_ONLY, annotation=body))
    elif shape:
        may_lack = body | None
        known.append(Parameter("body", Parameter.KEYWORD_ONLY, annotation=may_lack, default=None))
    read.__signature__ = Signature(known)  # type: ignore[attr-defined]
    return Depends(read)


def _called(name: str) -> str:
    """What the API calls a field.

    >>> _called("kg"), _called("length_m"), _called("party_id")
    ('weight_kg', 'length_cm', 'party_id')
    """
    return "weight_kg" if name == "kg" else f"{name[:-2]}_cm" if name.endswith("_m") else name


def _shape(
    kind: type[Any], without: set[str], names: Mapping[str, str]
) -> tuple[dict[str, Any], dict[str, str]]:
    """The API's fields for a class, and by field of the class the name that the API has for it."""
    taken = [f for f in fields(kind) if f.name not in without and not f.metadata.get("beside")]
    called = {f.name: names.get(f.name) or _called(f.name) for f in taken}
    hints = get_type_hints(kind, include_extras=True)
    return {called[f.name]: (_type(f, hints), _usual(f)) for f in taken}, called


def _values(said: BaseModel, called: Mapping[str, str]) -> dict[str, Any]:
    """What a body says, under the order's names and in its units."""
    found = {name: getattr(said, outer) for name, outer in called.items()}
    return {
        name: value / 100
        if name.endswith("_m") and called[name].endswith("_cm") and value
        else value
        for name, value in found.items()
    }


def _type(one: Field[Any], hints: Mapping[str, Any]) -> Any:
    """As the order has it; a weight is one that a fish may have."""
    hint = hints[one.name]
    return (Mass | None if one.default is None else Mass) if one.name == "kg" else hint


def _usual(one: Field[Any]) -> Any:
    return ... if one.default is MISSING else one.default

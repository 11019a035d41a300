"""An order read from a page's form, as its own fields say.

An order is described once, where it is carried out: a frozen dataclass. The names of its fields
carry their units: `kg` and `…_kg` are masses, `…_m` lengths, `…_c` temperatures, and `…_id` names a
row. A form posts a field under its name or the name without the unit ("weight" for `kg`, "party"
for `party_id`, "part" for `parts`), in the crew's units. What an address holds is taken from there,
and what an order has BESIDE what it asks for (units, waiting time) from the request.
"""

from collections.abc import Callable, Mapping
from dataclasses import MISSING, Field, fields
from datetime import date, datetime
from inspect import Parameter, Signature
from string import Formatter
from types import MappingProxyType, UnionType
from typing import Annotated, Any, TypeVar, Union, get_args, get_origin, get_type_hints
from zoneinfo import ZoneInfo

from annotated_types import Ge, Le, MaxLen
from fastapi import APIRouter, Request
from fastapi.responses import Response

from lepidos.stations.base.context import AppContext, Receipt
from lepidos.web.shell.forms import MAX_LENGTH, Form, FormData
from lepidos.web.shell.render import after, context_of, shows_again

Order = TypeVar("Order")
UseCase = Callable[[AppContext, str, Any], Receipt]
Known = Callable[[Request, FormData], object]
MAX_WHOLE = 999_999_999
_UNITS = ("_kg", "_m", "_c", "_id")


def by_form(
    router: APIRouter,
    path: str,
    use_case: UseCase,
    shows: Callable[..., Response],
    back: str,
    **known: str | Known,
) -> None:
    """A page's form that asks for a use case.

    Refused, it is shown again on the page of `shows`; done, it goes `back`, an address with the
    names of `path` in it. `known` is how the form calls a field otherwise, or reads one that it
    says in a way of its own.
    """
    kind = order_of(use_case)
    names = {f.name for f in fields(kind)}
    posted = {name: one for name, one in known.items() if isinstance(one, str)}
    own = {name: one for name, one in known.items() if not isinstance(one, str)}

    def write(request: Request, form: Form, **in_path: str) -> Response:
        said: dict[str, Any] = {name: value for name, value in in_path.items() if name in names}
        said |= {name: read(request, form) for name, read in own.items()}
        order = read_order(form, kind, None, posted, **said)
        key = form.text("key")
        use_case(context_of(request), key, order)
        return after(key, back.format(**in_path))

    # FastAPI reads what an endpoint takes from its signature
    taken = [Parameter(name, Parameter.KEYWORD_ONLY, annotation=str) for name in path_names(path)]
    first = [
        Parameter("request", Parameter.POSITIONAL_OR_KEYWORD, annotation=Request),
        Parameter("form", Parameter.POSITIONAL_OR_KEYWORD, annotation=Form),
    ]
    write.__signature__ = Signature([*first, *taken])  # type: ignore[attr-defined]
    write.__name__ = use_case.__name__
    router.post(path)(shows_again(shows)(write))


def read_order(
    form: FormData,
    kind: type[Order],
    zone: ZoneInfo | None = None,
    posted: Mapping[str, str] = MappingProxyType({}),
    /,
    **known: object,
) -> Order:
    """An order from a form, see `read_part`.

    Raises Refused with a sentence for each field of the form that could not be read.
    """
    order = read_part(form, kind, zone, posted, **known)
    form.done()
    return order


def read_part(
    form: FormData,
    kind: type[Order],
    zone: ZoneInfo | None = None,
    posted: Mapping[str, str] = MappingProxyType({}),
    /,
    **known: object,
) -> Order:
    """An order, or a part of one; what cannot be read is noted with the form.

    `known`: the fields that something else says. `zone`: of its moments; `posted`: under which name
    the form has a field otherwise.
    """
    hints = get_type_hints(kind, include_extras=True)
    said = dict(known)
    for f in fields(kind):  # type: ignore[arg-type]
        if f.name not in said:
            name = posted.get(f.name) or _posted(form, f.name)
            said[f.name] = _read(form, f, hints[f.name], zone, name)
    return kind(**said)


def order_of(use_case: UseCase) -> type[Any]:
    """What a use case takes as its order."""
    kind: type[Any] = get_type_hints(use_case)["order"]
    return kind


def path_names(path: str) -> tuple[str, ...]:
    """The names in a path.

    >>> path_names("/trips/{trip_id}/fish")
    ('trip_id',)
    """
    return tuple(name for _, name, _, _ in Formatter().parse(path) if name)


def _read(form: FormData, one: Field[Any], hint: Any, zone: ZoneInfo | None, name: str) -> Any:
    """A field of the form as its type and the unit in its name say."""
    if one.name == "system":
        return form.system
    if one.name == "waited_s":
        return form.waited_s()
    kinds, bounds = _taken_apart(hint)
    otherwise = None if one.default is MISSING else one.default
    if tuple in kinds:
        return form.all(name)
    if bool in kinds:
        return form.flag(name)
    if int in kinds:
        low, high = bounds.get("ge", 0), bounds.get("le", MAX_WHOLE)
        return form.whole(name, low if otherwise is None else otherwise, low, high)
    if float in kinds:
        found = _measure(form, one.name, name, needed=one.default is MISSING)
        return otherwise if found is None else found
    if datetime in kinds:
        return form.moment(name, zone or ZoneInfo("UTC"))
    if date in kinds:
        return form.day(name)
    return form.text(name, bounds.get("longest", MAX_LENGTH)) or otherwise or ""


def _measure(form: FormData, field: str, name: str, needed: bool) -> float | None:
    if field == "kg" or field.endswith("_kg"):
        return form.mass_kg(name)
    if field.endswith("_m"):
        return form.length_m(name, needed) if needed or form.text(name) else None
    if field.endswith("_c") or field == "celsius":
        return form.temperature_c(name)
    return form.number(name)


def posted_name(name: str) -> str:
    """What a form calls a field of one value.

    >>> posted_name("kg"), posted_name("length_m"), posted_name("party_id")
    ('weight', 'length', 'party')
    """
    ending = next((end for end in _UNITS if name.endswith(end)), "")
    return "weight" if name == "kg" else name.removesuffix(ending)


def _posted(form: FormData, name: str) -> str:
    """Under which name a form posts a field: its own, the short one, or that of one of several."""
    short = posted_name(name)
    if name != "kg" and name in form.values:
        return name
    one = name.removesuffix("s")
    return one if one in form.values else short


def _taken_apart(hint: Any) -> tuple[set[Any], dict[str, Any]]:
    """The kinds of value that a field takes, and its bounds."""
    bounds: dict[str, Any] = {}
    if get_origin(hint) is Annotated:
        hint, *more = get_args(hint)
        for rule in more:
            if isinstance(rule, Ge):
                bounds["ge"] = rule.ge
            elif isinstance(rule, Le):
                bounds["le"] = rule.le
            elif isinstance(rule, MaxLen):
                bounds["longest"] = rule.max_length
    if get_origin(hint) in (Union, UnionType):
        kinds: set[Any] = set()
        for one in get_args(hint):
            inner, found = _taken_apart(one)
            kinds |= inner
            bounds |= found
        return kinds, bounds
    return {get_origin(hint) or hint}, bounds

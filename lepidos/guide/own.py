"""What a crew adds to the guide or changes in it: its own species and body plans, from TOML."""

from collections.abc import Mapping
from pathlib import Path
from typing import TypeVar

from pydantic import BaseModel

from lepidos.core.errors import Unknown
from lepidos.core.fish.anatomy import Body
from lepidos.core.fish.bodyplan import BodyPlan
from lepidos.core.fish.likeness import Likeness, reshape
from lepidos.core.fish.species import Species
from lepidos.guide.library import FOLDER, Guide, load_guide
from lepidos.guide.nearest import as_nearest
from lepidos.guide.problems import made
from lepidos.guide.reading import check_plan, filled_in, parse, read, sources_in, with_spines

T = TypeVar("T")


def is_ours(kind: str, key: str) -> bool:
    """Whether the guide that ships with the app has a species or a plan of this key."""
    ours = load_guide()
    return key in (ours.plans if kind == "plan" else ours.species)


def text_of(kind: str, key: str) -> str:
    """The TOML of a species or a plan of ours. Raises Unknown."""
    if not is_ours(kind, key):
        raise Unknown(kind, key)
    return (FOLDER / ("bodyplans" if kind == "plan" else "species") / f"{key}.toml").read_text(
        "utf-8"
    )


def put_species(guide: Guide, key: str, toml: str) -> str:
    """Take in a species from its TOML; its name. Raises ValueError with what does not hold."""
    raw = parse(key, toml)
    if raw.get("nearest"):
        raw = as_nearest(raw, guide.species)
    own = raw.get("shape", {})
    if isinstance(own, dict) and "like" in own:
        likeness = made(key, Likeness, own)
        if likeness.like not in guide.species:
            raise ValueError(f"{key}: no fish “{likeness.like}” to draw after")
        raw["shape"] = reshape(guide.species[likeness.like].shape, likeness)
    one = with_spines(made(key, Species, raw, key=key))
    if one.body_plan not in guide.plans:
        raise ValueError(f"{key}: no body plan “{one.body_plan}”")
    if unknown := set(one.cautions) - set(guide.cautions):
        raise ValueError(f"{key}: unknown cautions {sorted(unknown)}")
    for other in guide.species.values():
        if other.code == one.code and other.key != key:
            raise ValueError(f"{key}: the code {one.code} is that of {other.name}; take another")
    _check_sources(guide, key, one)
    body = Body.of(one.shape)
    guide.renew(species=guide.species | {key: one}, bodies=guide.bodies | {key: body})
    return one.name


def put_plan(guide: Guide, key: str, toml: str) -> str:
    """Take in a body plan from its TOML; its name. Raises ValueError."""
    raw = parse(key, toml)
    others = {name: plan.model_dump() for name, plan in guide.plans.items()}
    path = Path(f"{key}.toml")
    whole = filled_in(path, raw, others, read(FOLDER / "steps.toml"))
    plan = made(path.name, BodyPlan, whole, key=key)
    check_plan(path, plan, guide.pieces, guide.cautions)
    known = {f"{s.key}:{o}" for s in guide.methods.methods for o in s.options}
    if unknown := set(plan.ways) - known:
        raise ValueError(f"{key}: no way {sorted(unknown)} among the methods")
    _check_sources(guide, key, plan)
    guide.renew(plans=guide.plans | {key: plan})
    return plan.name


def forget(guide: Guide, kind: str, key: str) -> None:
    """Take one out again; ours of that key comes back."""
    ours = load_guide()
    if kind == "plan":
        guide.renew(plans=_back_to(ours.plans, guide.plans, key))
        return
    guide.renew(
        species=_back_to(ours.species, guide.species, key),
        bodies=_back_to(ours.bodies, guide.bodies, key),
    )


def _check_sources(guide: Guide, key: str, thing: BaseModel) -> None:
    if missing := set(sources_in(thing)) - set(guide.sources):
        raise ValueError(f"{key}: no source {sorted(missing)}; “memory” is an honest one")


def _back_to(ours: Mapping[str, T], now: Mapping[str, T], key: str) -> dict[str, T]:
    """`now` with ours under a key, or without it where there is none of ours."""
    rest = {k: v for k, v in now.items() if k != key}
    return rest | ({key: ours[key]} if key in ours else {})

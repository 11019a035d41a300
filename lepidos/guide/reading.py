"""From the guide's TOML to the core's values: shared steps filled in, every name checked."""

import tomllib
from collections.abc import Iterable, Iterator, Mapping
from pathlib import Path
from typing import Any

from pydantic import BaseModel

from lepidos.core.cutting.hazards import Caution, FirstAid
from lepidos.core.fish.bodyplan import BodyPlan, Piece
from lepidos.core.fish.identification import LookAlike
from lepidos.core.fish.likeness import Likeness, reshape
from lepidos.core.fish.species import Fin, Shape, Sourced, Species
from lepidos.core.pack.findings import ByproductUses, FindingKinds
from lepidos.guide.problems import GuideProblem, made, made_each


def check_session(
    findings: FindingKinds,
    uses: ByproductUses,
    pieces: dict[str, Piece],
    cautions: dict[str, Caution],
) -> None:
    """Check that the pieces and cautions named by findings and by-product uses exist."""
    named = {s.gives for s in findings.kinds if s.gives} | {p for f in uses.uses for p in f.pieces}
    if unknown := named - set(pieces):
        raise ValueError(f"findings.toml or byproduct_uses.toml: no piece {sorted(unknown)}")
    care = {s.caution for s in findings.kinds if s.caution}
    care |= {c for f in uses.uses for c in (f.caution, *f.cautions.values())}
    if unknown := care - set(cautions):
        raise ValueError(
            f"findings.toml or byproduct_uses.toml: unknown cautions {sorted(unknown)}"
        )


def filled_in(
    path: Path, own: dict[str, Any], others: dict[str, dict[str, Any]], shared: dict[str, Any]
) -> dict[str, Any]:
    """A body plan put together: what it takes from another, its own, and the shared steps."""
    raw = dict(own)
    if like := raw.pop("like", ""):
        base = others.get(like)
        if base is None or "like" in base:
            raise ValueError(f"{path.name}: no body plan of its own to follow in “{like}”")
        without = raw.pop("without_zones", [])
        for name in ("zones", "cuts"):
            merged = {one["key"]: one for one in [*base[name], *raw.get(name, [])]}
            raw[name] = [one for key, one in merged.items() if name == "cuts" or key not in without]
        raw = {k: v for k, v in base.items() if k != "key"} | raw
    drawn = {
        "zone": {zone["key"] for zone in raw["zones"]},
        "cut": {cut["key"] for cut in raw["cuts"]},
    }
    steps = []
    for step in raw["steps"]:
        # a shared step's zone or cut counts only where the plan has one of that name
        usual = {
            name: value
            for name, value in shared.get(step["key"], {}).items()
            if name not in drawn or value in drawn[name]
        }
        steps.append(usual | step)
    raw["steps"] = _with_what_every_plan_has(steps, shared)
    return raw


def _with_what_every_plan_has(
    steps: list[dict[str, Any]], shared: dict[str, Any]
) -> list[dict[str, Any]]:
    """Steps that no plan may forget, where it does not have them itself."""
    have, every = {step["key"] for step in steps}, shared["every_plan"]
    called = [key for by, key in every["after"].items() if by in have]
    first = [key for key in every["first"] if key not in have]
    last = [key for key in (*called, *every["last"]) if key not in have]
    found = [
        *({"key": key, **shared[key]} for key in first),
        *steps[:-1],
        *({"key": key, **shared[key]} for key in last),
        steps[-1],
    ]
    return [
        twin
        for one in found
        for step in _and_toxic(one, shared["toxic_gut"], have)
        for twin in _and_headed(step, shared["rest_headed"], have)
    ]


def _and_toxic(
    step: dict[str, Any], toxic: dict[str, Any], have: set[str]
) -> Iterator[dict[str, Any]]:
    """A step that removes the gut, and its version for fish with poisonous roe."""
    twin = f"{step['key']}_toxic"
    if "gut" not in step.get("gives", ()) or step.get("trait") or twin in have:
        yield step
        return
    yield step | {"unless_trait": toxic["trait"]}
    yield step | toxic | {"key": twin}


def _and_headed(
    step: dict[str, Any], headed: dict[str, Any], have: set[str]
) -> Iterator[dict[str, Any]]:
    """A step that weighs the head, and its version for fish that came without one."""
    gives = step.get("gives", ())
    twin = f"{step['key']}_headed"
    if step["key"].endswith("_headed"):
        yield step | {"only_fact": "headed"}
        return
    if "head" not in gives or step.get("only_fact"):
        yield step
        return
    yield step | {"unless_fact": "headed"}
    if twin not in have and (rest := [piece for piece in gives if piece != "head"]):
        words = {"title": headed["title"], "why": headed["why"]}
        yield step | words | {"key": twin, "only_fact": "headed", "gives": rest}


def shape(path: Path, raw: dict[str, Any], raws: dict[str, dict[str, Any]]) -> None:
    """A shape that is drawn after another's becomes a shape of its own, in place."""
    own = raw.get("shape", {})
    if "like" not in own or isinstance(own, Shape):
        return
    other = raws.get(own["like"])
    if other is None or "like" in (other["shape"] if isinstance(other["shape"], dict) else ()):
        raise ValueError(f"{path.name}: no shape of its own to draw after in “{own['like']}”")
    try:
        likeness = made(path.name, Likeness, own)
        raw["shape"] = reshape(Shape.model_validate(other["shape"]), likeness)
    except GuideProblem:
        raise
    except ValueError as error:
        raise ValueError(f"{path.name}: {error}") from error


def cautions_in(folder: Path, first_aid: FirstAid) -> dict[str, Caution]:
    """Every caution by its key; those of venom with what to do when it stung."""
    raws = read(folder / "cautions.toml")
    for raw in raws.values():
        if isinstance(raw, dict) and (own := raw.pop("stung", "")):
            raw["text"] = f"{raw.get('text', '')} {first_aid.when_stung(own)}"
    cautions = made_each("cautions.toml", Caution, raws)
    for key, caution in cautions.items():
        general = caution.stands_for
        if general and not (general in cautions and key.startswith(f"{general}_")):
            raise ValueError(f"cautions.toml: {key} stands for {general}: call it {general}_…")
    return cautions


def species_in(
    folder: Path, plans: Mapping[str, BodyPlan], cautions: Mapping[str, Caution]
) -> dict[str, Species]:
    """Every fish by its key, its shape its own and its spines counted."""
    found: dict[str, Species] = {}
    raws = {path: read(path) for path in sorted((folder / "species").glob("*.toml"))}
    for path, raw in raws.items():
        shape(path, raw, {p.stem: r for p, r in raws.items()})
        one = with_spines(made(path.name, Species, raw, key=path.stem))
        found[path.stem] = one
        if one.body_plan not in plans:
            raise ValueError(f"{path.name}: no body plan “{one.body_plan}”")
        if unknown := set(one.cautions) - set(cautions):
            raise ValueError(f"{path.name}: unknown cautions {sorted(unknown)}")
    return found


def check_codes(species: Mapping[str, Species]) -> None:
    """Fish codes begin with a kind's letters: two kinds cannot share them."""
    first: dict[str, str] = {}
    for key, one in species.items():
        if (other := first.setdefault(one.code, key)) != key:
            raise ValueError(
                f"{key}.toml: its code {one.code} is that of {other}.toml: give one of them another"
            )


def with_spines(one: Species) -> Species:
    """A species whose fins have as many spines as are counted on it.

    Raises ValueError when a fin is named that it has not.
    """
    spines = one.counted.spines if one.counted else {}
    if unknown := set(spines) - {fin.name for fin in one.shape.fins}:
        raise ValueError(f"{one.key}.toml: counted.spines: it has no fin {sorted(unknown)}")
    fins = []
    for fin in one.shape.fins:
        number, behind = spines.get(fin.name, 0), _fins_behind(fin, one.shape.fins)
        # a fin with another behind it is the spiny one of the two
        spiny = behind if number else fin.spiny
        fins.append(fin.model_copy(update={"spines": number, "spiny": spiny}))
    return one.model_copy(update={"shape": one.shape.model_copy(update={"fins": tuple(fins)})})


def _fins_behind(fin: Fin, fins: Iterable[Fin]) -> bool:
    return any(
        f.on == fin.on and f.base[0] >= fin.base[1] - 0.05 and f.name != "finlet"
        for f in fins
        if f is not fin
    )


def lookalikes_in(folder: Path, species: dict[str, Species]) -> dict[str, LookAlike]:
    bases = read(folder / "sketches.toml")["bases"]
    found: dict[str, LookAlike] = {}
    for path in sorted((folder / "lookalikes").glob("*.toml")):
        raw = read(path)
        for answer in (a for q in raw["questions"] for a in q["answers"]):
            # an answer's drawing is an outline that many share, and what is asked about on it
            answer["sketch"] = [*bases[answer.pop("base")], *answer.get("sketch", ())]
        one = found[path.stem] = made(path.name, LookAlike, raw, key=path.stem)
        if missing := {c.species for c in one.candidates if c.species} - set(species):
            raise ValueError(f"{path.name}: no species {sorted(missing)}")
    return found


def read(path: Path) -> dict[str, Any]:
    try:
        return tomllib.loads(path.read_text("utf-8"))
    except tomllib.TOMLDecodeError as error:
        raise ValueError(f"{path.name}: {error}") from error


def parse(key: str, toml: str) -> dict[str, Any]:
    try:
        raw = tomllib.loads(toml)
    except tomllib.TOMLDecodeError as error:
        raise ValueError(f"{key}: {error}") from error
    raw.pop("key", None)
    # written before 0.2: "school" is what is called a method now
    for part in (*raw.get("steps", ()), *raw.get("pieces", ())):
        if isinstance(part, dict) and "school" in part:
            part["method"] = part.pop("school")
    return raw


def check_plan(
    path: Path, plan: BodyPlan, pieces: dict[str, Piece], cautions: dict[str, Caution]
) -> None:
    zones, cuts = {z.key for z in plan.zones}, {c.key for c in plan.cuts}
    for step in plan.steps:
        for kind, key, known in (("zone", step.zone, zones), ("cut", step.cut, cuts)):
            if key and key not in known:
                raise ValueError(f"{path.name}, step {step.key}: no {kind} “{key}”")
        if step.caution and step.caution not in cautions:
            raise ValueError(f"{path.name}, step {step.key}: no caution “{step.caution}”")
        if missing := set(step.gives) - set(pieces):
            raise ValueError(f"{path.name}, step {step.key}: unknown pieces {sorted(missing)}")
    named = [z.piece for z in plan.zones] + [p.piece for p in plan.pieces]
    if missing := set(named) - set(pieces):
        raise ValueError(f"{path.name}: unknown pieces {sorted(missing)}")


def sources_in(model: BaseModel) -> Iterator[str]:
    if isinstance(model, Sourced):
        yield model.source
    if isinstance(model, Species):
        yield model.longest_source
    for value in model.__dict__.values():
        yield from _sources_below(value)


def _sources_below(value: object) -> Iterator[str]:
    # a model before anything that can be gone through: a model can be, too, but yields its fields
    if isinstance(value, BaseModel):
        yield from sources_in(value)
    elif isinstance(value, dict):
        for part in value.values():
            yield from _sources_below(part)
    elif isinstance(value, (tuple, list)):
        for part in value:
            yield from _sources_below(part)

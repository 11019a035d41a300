"""Reads the guide's TOML into the core's values, once, and checks that every source exists."""

import difflib
import tomllib
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field, replace
from functools import cache
from pathlib import Path
from typing import Any, TypeVar

from pydantic import BaseModel
from rapidfuzz import fuzz

from lepidos.core.catch.handling import STATES
from lepidos.core.cold.conduction import Medium
from lepidos.core.cold.freshness import Mark
from lepidos.core.cutting.checker import Checks
from lepidos.core.cutting.hazards import Caution, never_used
from lepidos.core.cutting.methods import Methods
from lepidos.core.errors import Unknown
from lepidos.core.fish.anatomy import Body
from lepidos.core.fish.bodyplan import BodyPlan, Piece
from lepidos.core.fish.identification import LookAlike
from lepidos.core.fish.likeness import Likeness, reshape
from lepidos.core.fish.species import Known, Shape, Sourced, Species
from lepidos.core.pack.findings import Fates, Sights
from lepidos.core.schedule.cutting_time import BenchGuide

T = TypeVar("T")
ALIKE = 78.0  # of 100: names that resemble less are not what was meant (tried on common slips)
FOLDER = Path(__file__).parent


class Source(Known):
    """Where a value comes from: "data" and "paper" were opened, "memory" was not."""

    title: str
    kind: str


class Tool(Known):
    """A tool, what it is for, its care; what does instead, and what to do without."""

    key: str
    name: str
    kind: str
    use: str
    care: str
    instead: tuple[str, ...] = ()
    without: str


@dataclass(frozen=True)
class Guide:
    """All that the guide knows. Look-ups are exact; a miss raises with near names."""

    species: dict[str, Species]
    plans: dict[str, BodyPlan]
    pieces: dict[str, Piece]
    cautions: dict[str, Caution]
    methods: Methods
    tools: dict[str, Tool]
    sources: dict[str, Source]
    bench: BenchGuide
    marks: dict[str, Mark]
    lookalikes: dict[str, LookAlike]
    bodies: dict[str, Body] = field(repr=False)
    sights: Sights
    fates: Fates
    media: dict[str, Medium]
    checks: Checks
    edition: int = 0

    def copy(self) -> "Guide":
        """One that may be added to: what is put into it stays out of this one."""
        return replace(self)

    def _now(self, **dicts: Mapping[str, object]) -> None:
        """Put new dicts in the place of old ones: whoever goes through an old one is undisturbed.

        `edition` rises, so that what was worked out with the old ones is known to be old.
        """
        for name, value in dicts.items():
            object.__setattr__(self, name, value)
        object.__setattr__(self, "edition", self.edition + 1)

    def take_from(self, other: "Guide") -> None:
        """Become what a copy of this one was made into."""
        self._now(species=other.species, bodies=other.bodies, plans=other.plans)

    def known_or_named(self, key: str) -> Species:
        """A species by its key; one that the guide lost keeps its name, and no figure of its own.

        For lists and labels of bags and for names, where a name must always be shown.
        """
        if key in self.species:
            return self.species[key]
        name = key.replace("_", " ")
        plain = next(iter(self.species.values()))
        return plain.model_copy(
            update={
                "key": key, "name": name, "plural": name, "scientific": "", "other_names": (),
                "body_plan": "round", "traits": (), "cautions": ("raw",), "summary": "",
            }
        )  # fmt: skip

    def is_ours(self, kind: str, key: str) -> bool:
        """Whether the guide that ships with the app has a species or a plan of this key."""
        return self._file(kind, key).exists()

    def text_of(self, kind: str, key: str) -> str:
        """The TOML of a species or a plan of ours. Raises Unknown."""
        path = self._file(kind, key)
        if not path.exists():
            raise Unknown(kind, key)
        return path.read_text("utf-8")

    def never_used(self, species: Species) -> frozenset[str]:
        """Pieces of a fish that must not be eaten, and go nowhere but into the bin."""
        return never_used(species, self.cautions)

    def put_species(self, key: str, toml: str) -> str:
        """Take in a species from its TOML; its name. Raises ValueError with what does not hold."""
        raw = _parse(key, toml)
        own = raw.get("shape", {})
        if isinstance(own, dict) and "like" in own:
            likeness = Likeness(**own)
            if likeness.like not in self.species:
                raise ValueError(f"{key}: no fish “{likeness.like}” to draw after")
            raw["shape"] = reshape(self.species[likeness.like].shape, likeness)
        one = Species(key=key, **raw)
        if one.body_plan not in self.plans:
            raise ValueError(f"{key}: no body plan “{one.body_plan}”")
        if unknown := set(one.cautions) - set(self.cautions):
            raise ValueError(f"{key}: unknown cautions {sorted(unknown)}")
        for other in self.species.values():
            if other.code == one.code and other.key != key:
                raise ValueError(
                    f"{key}: the code {one.code} is that of {other.name}; take another"
                )
        self._check_sources(key, one)
        body = Body.of(one.shape)
        self._now(species=self.species | {key: one}, bodies=self.bodies | {key: body})
        return one.name

    def put_plan(self, key: str, toml: str) -> str:
        """Take in a body plan from its TOML; its name. Raises ValueError."""
        raw = _parse(key, toml)
        others = {name: plan.model_dump() for name, plan in self.plans.items()}
        path = Path(f"{key}.toml")
        plan = BodyPlan(**(_draft(path, raw, others, _read(FOLDER / "steps.toml")) | {"key": key}))
        _check_plan(path, plan, self.pieces, self.cautions)
        known = {f"{s.key}:{o}" for s in self.methods.methods for o in s.options}
        if unknown := set(plan.ways) - known:
            raise ValueError(f"{key}: no way {sorted(unknown)} among the methods")
        self._check_sources(key, plan)
        self._now(plans=self.plans | {key: plan})
        return plan.name

    def forget(self, kind: str, key: str) -> None:
        """Take one out again; ours of that key comes back."""
        ours = load_guide()
        if kind == "plan":
            self._now(plans=_back_to(ours.plans, self.plans, key))
            return
        self._now(
            species=_back_to(ours.species, self.species, key),
            bodies=_back_to(ours.bodies, self.bodies, key),
        )

    def _check_sources(self, key: str, thing: BaseModel) -> None:
        if missing := set(_sources_in(thing)) - set(self.sources):
            raise ValueError(f"{key}: no source {sorted(missing)}; “memory” is an honest one")

    @staticmethod
    def _file(kind: str, key: str) -> Path:
        ours = load_guide()
        if key not in (ours.plans if kind == "plan" else ours.species):
            return FOLDER / "no-such-file"
        return FOLDER / ("bodyplans" if kind == "plan" else "species") / f"{key}.toml"

    def one(self, key: str) -> Species:
        """A species by its key. Raises Unknown with suggestions."""
        if key in self.species:
            return self.species[key]
        raise Unknown("species", key, self._near(key))

    def find(self, name: str) -> Species:
        """A species by key, common name, other name or scientific name, in any case.

        Its own name goes before what another fish is called somewhere: ling is ling, though cobia
        is called so too.
        """
        wanted = " ".join(name.replace("_", " ").lower().split())
        known = self.species.values()
        fitting = [one for one in known if wanted in _own_names(one)]
        fitting = fitting or [one for one in known if wanted in self._names(one)]
        if len(fitting) == 1:
            return fitting[0]
        # a name that two fish bear somewhere is no answer: it is given back with both
        near = tuple(one.name for one in fitting) or self._near(wanted)
        raise Unknown("species", name, near)

    def search(self, text: str, most: int = 30) -> list[Species]:
        """Fish by any name in any region, typos forgiven; best first.

        A name that holds the text comes before one that only resembles it.
        """
        wanted = " ".join(text.lower().split())[:60]
        if not wanted:
            return []
        scored: dict[str, float] = {}
        for one in self.species.values():
            best = max(_likeness(wanted, name) for name in self._names(one))
            if best >= ALIKE:
                scored[one.key] = best
        ranked = sorted(scored, key=lambda key: (-scored[key], self.species[key].name.lower()))
        return [self.species[key] for key in ranked[:most]]

    def plan_of(self, species: Species) -> BodyPlan:
        """The body plan that a species is cut by."""
        return self.plans[species.body_plan]

    def step_makes(self, species: str, step: str) -> str:
        """What a step of a species' plan makes true of the fish; "" when nothing."""
        plan = self.plan_of(self.known_or_named(species))
        return next((s.makes for s in plan.steps if s.key == step), "")

    def step_title(self, species: str, step: str) -> str:
        """What a step of a species' plan is called; its key with spaces when the plan lost it."""
        plan = self.plan_of(self.known_or_named(species))
        return next((s.title for s in plan.steps if s.key == step), step.replace("_", " "))

    def body_of(self, species: Species) -> Body:
        """The continuous shape of a species."""
        return self.bodies[species.key]

    def piece(self, key: str) -> Piece:
        """A row of the piece catalogue. Raises Unknown."""
        if key not in self.pieces:
            raise Unknown("piece", key, tuple(difflib.get_close_matches(key, self.pieces, 3)))
        return self.pieces[key]

    def lookalike(self, key: str) -> LookAlike:
        """A key for fish that look alike. Raises Unknown."""
        if key not in self.lookalikes:
            raise Unknown("key", key, tuple(difflib.get_close_matches(key, self.lookalikes, 3)))
        return self.lookalikes[key]

    def source_title(self, key: str) -> str:
        """What a source key stands for, in words."""
        return self.sources[key].title

    @staticmethod
    def _names(one: Species) -> set[str]:
        return {*_own_names(one), *(name.lower() for name in one.other_names)}

    def _near(self, name: str) -> tuple[str, ...]:
        names = {n: one.name for one in self.species.values() for n in self._names(one)}
        near = difflib.get_close_matches(name.lower()[:60], names, 3, 0.6)
        return tuple(dict.fromkeys(names[n] for n in near))


@cache
def load_guide(folder: Path = FOLDER) -> Guide:
    """The guide in `folder`. Raises ValueError naming the file when anything does not hold."""
    sources = {k: Source(**v) for k, v in _read(folder / "sources.toml").items()}
    cautions = {k: Caution(**v) for k, v in _read(folder / "cautions.toml").items()}
    pieces = {k: Piece(key=k, **v) for k, v in _read(folder / "pieces.toml").items()}
    plans: dict[str, BodyPlan] = {}
    drafts = {path.stem: _read(path) for path in sorted((folder / "bodyplans").glob("*.toml"))}
    shared = _read(folder / "steps.toml")
    for name, draft in drafts.items():
        path = folder / "bodyplans" / f"{name}.toml"
        plan = plans[name] = BodyPlan(**_draft(path, draft, drafts, shared))
        _check_plan(path, plan, pieces, cautions)
    species: dict[str, Species] = {}
    raws = {path: _read(path) for path in sorted((folder / "species").glob("*.toml"))}
    for path, raw in raws.items():
        _shape(path, raw, {p.stem: r for p, r in raws.items()})
        one = species[path.stem] = Species(key=path.stem, **raw)
        if one.body_plan not in plans:
            raise ValueError(f"{path.name}: no body plan “{one.body_plan}”")
        if unknown := set(one.cautions) - set(cautions):
            raise ValueError(f"{path.name}: unknown cautions {sorted(unknown)}")
    methods = Methods(**_read(folder / "methods.toml"))
    known = {f"{s.key}:{o}" for s in methods.methods for o in s.options}
    for name, plan in plans.items():
        if unknown := set(plan.ways) - known:
            raise ValueError(f"{name}.toml: no way {sorted(unknown)} in methods.toml")
    tools = {k: Tool(key=k, **v) for k, v in _read(folder / "tools.toml").items()}
    if missing := {other for tool in tools.values() for other in tool.instead} - set(tools):
        raise ValueError(f"tools.toml: no tool {sorted(missing)}")
    bench = BenchGuide(**_read(folder / "bench.toml"))
    if missing := set(plans) - set(bench.plans):
        raise ValueError(f"bench.toml: no time for {sorted(missing)}")
    media = {k: Medium(key=k, **v) for k, v in _read(folder / "cold.toml")["media"].items()}
    if missing := {state.medium for state in STATES.values() if state.medium} - set(media):
        raise ValueError(f"cold.toml: no medium {sorted(missing)}")
    looks = _read(folder / "inspection.toml")
    marks = {one["key"]: Mark(**one) for one in looks["marks"]}
    lookalikes = _lookalikes(folder, species)
    sights, fates = Sights(**_read(folder / "seen.toml")), Fates(**_read(folder / "fates.toml"))
    _check_session(sights, fates, pieces, cautions)
    guided: list[tuple[str, BaseModel]] = [
        ("bench.toml", bench),
        *(("cold.toml", medium) for medium in media.values()),
        ("methods.toml", methods),
        ("seen.toml", sights),
        ("fates.toml", fates),
        *((f"{key}.toml", one) for key, one in (plans | species | lookalikes).items()),
    ]
    named = [(where, source) for where, thing in guided for source in _sources_in(thing)]
    for where, source in [*named, ("inspection.toml", looks["source"])]:
        if source not in sources:
            raise ValueError(f"{where}: no source “{source}” in sources.toml")
    codes = [one.code for one in species.values()]
    if len(set(codes)) != len(codes):
        raise ValueError("two species share a code")
    bodies = {key: Body.of(one.shape) for key, one in species.items()}
    return Guide(
        species, plans, pieces, cautions, methods, tools, sources, bench, marks, lookalikes, bodies,
        sights, fates, media, Checks(**_read(folder / "checks.toml")),
    )  # fmt: skip


def _check_session(
    sights: Sights, fates: Fates, pieces: dict[str, Piece], cautions: dict[str, Caution]
) -> None:
    """Pieces and cautions that sights and fates name must exist."""
    named = {s.gives for s in sights.sights if s.gives} | {p for f in fates.fates for p in f.pieces}
    if unknown := named - set(pieces):
        raise ValueError(f"seen.toml or fates.toml: no piece {sorted(unknown)}")
    care = {s.caution for s in sights.sights if s.caution}
    care |= {c for f in fates.fates for c in (f.caution, *f.cautions.values())}
    if unknown := care - set(cautions):
        raise ValueError(f"seen.toml or fates.toml: unknown cautions {sorted(unknown)}")


def _back_to(ours: Mapping[str, T], now: Mapping[str, T], key: str) -> dict[str, T]:
    """`now` with ours under a key, or without it where there is none of ours."""
    rest = {k: v for k, v in now.items() if k != key}
    return rest | ({key: ours[key]} if key in ours else {})


def _own_names(one: Species) -> set[str]:
    names = {one.key.replace("_", " "), one.name, one.plural, one.scientific}
    return {name.lower() for name in names}


def _likeness(wanted: str, name: str) -> float:
    """0 to 300: the name itself, a name that begins so or holds it, a name that resembles it."""
    if wanted == name:
        return 300.0
    if name.startswith(wanted):
        return 200.0
    if f" {wanted}" in name:
        return 180.0
    if wanted in name:
        return 150.0
    return max(fuzz.ratio(wanted, part) for part in (name, *name.split()))


def _draft(
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
    toxic = shared["toxic_gut"]
    both = []
    for step in found:
        twin = f"{step['key']}_toxic"
        if "gut" not in step.get("gives", ()) or step.get("trait") or twin in have:
            both.append(step)
            continue
        both += [step | {"unless_trait": toxic["trait"]}, step | toxic | {"key": twin}]
    return both


def _shape(path: Path, raw: dict[str, Any], raws: dict[str, dict[str, Any]]) -> None:
    """A shape that is drawn after another's becomes a shape of its own, in place."""
    own = raw.get("shape", {})
    if "like" not in own or isinstance(own, Shape):
        return
    other = raws.get(own["like"])
    if other is None or "like" in (other["shape"] if isinstance(other["shape"], dict) else ()):
        raise ValueError(f"{path.name}: no shape of its own to draw after in “{own['like']}”")
    try:
        raw["shape"] = reshape(Shape.model_validate(other["shape"]), Likeness(**own))
    except ValueError as error:
        raise ValueError(f"{path.name}: {error}") from error


def _lookalikes(folder: Path, species: dict[str, Species]) -> dict[str, LookAlike]:
    bases = _read(folder / "sketches.toml")["bases"]
    found: dict[str, LookAlike] = {}
    for path in sorted((folder / "lookalikes").glob("*.toml")):
        raw = _read(path)
        for answer in (a for q in raw["questions"] for a in q["answers"]):
            # an answer's drawing is an outline that many share, and what is asked about on it
            answer["sketch"] = [*bases[answer.pop("base")], *answer.get("sketch", ())]
        one = found[path.stem] = LookAlike(key=path.stem, **raw)
        if missing := {c.species for c in one.candidates if c.species} - set(species):
            raise ValueError(f"{path.name}: no species {sorted(missing)}")
    return found


def _read(path: Path) -> dict[str, Any]:
    try:
        return tomllib.loads(path.read_text("utf-8"))
    except tomllib.TOMLDecodeError as error:
        raise ValueError(f"{path.name}: {error}") from error


def _parse(key: str, toml: str) -> dict[str, Any]:
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


def _check_plan(
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


def _sources_in(model: BaseModel) -> Iterator[str]:
    if isinstance(model, Sourced):
        yield model.source
    if isinstance(model, Species):
        yield model.longest_source
    for value in model.__dict__.values():
        yield from _sources_below(value)


def _sources_below(value: object) -> Iterator[str]:
    # a model before anything that can be gone through: a model can be, too, but yields its fields
    if isinstance(value, BaseModel):
        yield from _sources_in(value)
    elif isinstance(value, dict):
        for part in value.values():
            yield from _sources_below(part)
    elif isinstance(value, (tuple, list)):
        for part in value:
            yield from _sources_below(part)

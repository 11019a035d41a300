"""Reads the guide's TOML into the core's values, once, and checks that every source exists."""

import difflib
from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from functools import cache
from pathlib import Path

from pydantic import BaseModel

from lepidos.core.catch.handling import STATES
from lepidos.core.cold.conduction import Medium
from lepidos.core.cold.freshness import DemeritMark
from lepidos.core.cutting.deeds import Checks
from lepidos.core.cutting.hazards import Aid, Caution, FirstAid, never_used, own_caution
from lepidos.core.cutting.methods import Methods
from lepidos.core.cutting.stand_ins import Tool
from lepidos.core.errors import Unknown
from lepidos.core.fish.anatomy import Body
from lepidos.core.fish.bodyplan import BodyPlan, Piece
from lepidos.core.fish.identification import LookAlike
from lepidos.core.fish.species import Known, Species
from lepidos.core.pack.findings import ByproductUses, FindingKinds
from lepidos.core.schedule.cutting_time import BenchGuide
from lepidos.guide import names
from lepidos.guide.do_not_eat import do_not_eat
from lepidos.guide.problems import made, made_each
from lepidos.guide.reading import (
    cautions_in,
    check_codes,
    check_plan,
    check_session,
    filled_in,
    lookalikes_in,
    read,
    sources_in,
    species_in,
)
from lepidos.guide.waters import Waters, waters_in

FOLDER = Path(__file__).parent


class Source(Known):
    """Where a value comes from: "data" and "paper" were opened, "memory" was not."""

    title: str
    kind: str


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
    marks: dict[str, DemeritMark]
    lookalikes: dict[str, LookAlike]
    bodies: dict[str, Body] = field(repr=False)
    findings: FindingKinds
    byproduct_uses: ByproductUses
    media: dict[str, Medium]
    checks: Checks
    first_aid: FirstAid
    waters: dict[str, Waters]
    edition: int = 0

    def copy(self) -> "Guide":
        """One that may be added to: what is put into it stays out of this one."""
        return replace(self)

    def renew(self, **dicts: Mapping[str, object]) -> None:
        """Put new dicts in the place of old ones: whoever goes through an old one is undisturbed.

        `edition` rises, so that what was calculated with the old ones is known to be old.
        """
        for name, value in dicts.items():
            object.__setattr__(self, name, value)
        object.__setattr__(self, "edition", self.edition + 1)

    def take_from(self, other: "Guide") -> None:
        """Become what a copy of this one was made into."""
        self.renew(species=other.species, bodies=other.bodies, plans=other.plans)

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

    def aid_first(self, species: Species | None) -> tuple[Aid, ...]:
        """First aid, what this fish can do before the rest."""
        own = set(species.cautions) if species else set()
        return tuple(sorted(self.first_aid.aids, key=lambda aid: not own & set(aid.cautions)))

    def hurting(
        self, aid: Aid, first: Species | None
    ) -> tuple[tuple[Caution, tuple[Species, ...]], ...]:
        """The cautions that an aid is for, each with the fish whose own it is; `first` first."""
        found = [
            (caution, tuple(self._bearers(key, first)))
            for key, caution in self.cautions.items()
            if key in aid.cautions and caution.stands_for
        ]
        return tuple(sorted(found, key=lambda pair: first not in pair[1]))

    def _bearers(self, caution: str, first: Species | None) -> list[Species]:
        bearers = [one for one in self.species.values() if caution in one.cautions]
        return sorted(bearers, key=lambda one: (one != first, one.name))

    def own_caution(self, key: str, species: Species) -> str:
        """The species' own caution in the place of a general one, or the general one."""
        return own_caution(key, species, self.cautions)

    def never_used(self, species: Species) -> frozenset[str]:
        """Pieces of a fish that must not be eaten, and go nowhere but into the bin."""
        return never_used(species, self.cautions)

    def one(self, key: str) -> Species:
        """A species by its key. Raises Unknown with suggestions."""
        if key in self.species:
            return self.species[key]
        raise Unknown("species", key, names.near(self.species.values(), key))

    def find(self, name: str) -> Species:
        """A species by any of its names, its own first.

        Raises Unknown: with near names, or with what to know of a fish that must not be eaten.
        """
        try:
            return names.find(self.species.values(), name)
        except Unknown as error:
            warning = do_not_eat().warning(name, names.nearest(self.species.values(), name))
            raise Unknown(error.kind, error.key, error.suggestions, warning) from error

    def called(self, text: str) -> tuple[Species, ...]:
        """The fish that bear exactly this name anywhere, that whose own name it is first."""
        return names.called(self.species.values(), text)

    def search(self, text: str, most: int = 30) -> list[Species]:
        """Fish by any name in any region, typos forgiven; best first."""
        return names.search(self.species.values(), text, most)

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


@cache
def load_guide(folder: Path = FOLDER) -> Guide:
    """The guide in `folder`. Raises ValueError naming the file when anything does not hold."""
    sources = made_each("sources.toml", Source, read(folder / "sources.toml"))
    first_aid = made("firstaid.toml", FirstAid, read(folder / "firstaid.toml"))
    cautions = cautions_in(folder, first_aid)
    pieces = made_each("pieces.toml", Piece, read(folder / "pieces.toml"), keyed=True)
    plans: dict[str, BodyPlan] = {}
    drafts = {path.stem: read(path) for path in sorted((folder / "bodyplans").glob("*.toml"))}
    shared = read(folder / "steps.toml")
    for name, draft in drafts.items():
        path = folder / "bodyplans" / f"{name}.toml"
        plan = plans[name] = made(path.name, BodyPlan, filled_in(path, draft, drafts, shared))
        check_plan(path, plan, pieces, cautions)
    species = species_in(folder, plans, cautions)
    methods = made("methods.toml", Methods, read(folder / "methods.toml"))
    if unknown := {p.caution for p in methods.purposes.values()} - {"", *cautions}:
        raise ValueError(f"methods.toml: unknown cautions {sorted(unknown)}")
    known = {f"{s.key}:{o}" for s in methods.methods for o in s.options}
    for name, plan in plans.items():
        if unknown := set(plan.ways) - known:
            raise ValueError(f"{name}.toml: no way {sorted(unknown)} in methods.toml")
    tools = made_each("tools.toml", Tool, read(folder / "tools.toml"), keyed=True)
    if missing := {other for tool in tools.values() for other in tool.instead} - set(tools):
        raise ValueError(f"tools.toml: no tool {sorted(missing)}")
    bench = made("bench.toml", BenchGuide, read(folder / "bench.toml"))
    media = made_each("cold.toml", Medium, read(folder / "cold.toml")["media"], keyed=True)
    if missing := {state.medium for state in STATES.values() if state.medium} - set(media):
        raise ValueError(f"cold.toml: no medium {sorted(missing)}")
    looks = read(folder / "inspection.toml")
    marks = {one["key"]: made("inspection.toml", DemeritMark, one) for one in looks["marks"]}
    lookalikes = lookalikes_in(folder, species)
    findings = made("findings.toml", FindingKinds, read(folder / "findings.toml"))
    uses = made("byproduct_uses.toml", ByproductUses, read(folder / "byproduct_uses.toml"))
    check_session(findings, uses, pieces, cautions)
    if unknown := {c for aid in first_aid.aids for c in aid.cautions} - set(cautions):
        raise ValueError(f"firstaid.toml: unknown cautions {sorted(unknown)}")
    waters = waters_in(folder, species)
    guided: list[tuple[str, BaseModel]] = [
        ("bench.toml", bench),
        *(("cold.toml", medium) for medium in media.values()),
        ("methods.toml", methods),
        ("findings.toml", findings),
        ("byproduct_uses.toml", uses),
        ("firstaid.toml", first_aid),
        *((f"{key}.toml", one) for key, one in (plans | species | lookalikes).items()),
    ]
    named = [(where, source) for where, thing in guided for source in sources_in(thing)]
    for where, source in [*named, ("inspection.toml", looks["source"])]:
        if source not in sources:
            raise ValueError(f"{where}: no source “{source}” in sources.toml")
    check_codes(species)
    bodies = {key: Body.of(one.shape) for key, one in species.items()}
    return Guide(
        species, plans, pieces, cautions, methods, tools, sources, bench, marks, lookalikes, bodies,
        findings, uses, media, made("checks.toml", Checks, read(folder / "checks.toml")), first_aid,
        waters,
    )  # fmt: skip

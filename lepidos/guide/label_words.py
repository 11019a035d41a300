"""What a label says in other languages: one file in `labels/` for each, named by its code."""

from functools import cache
from pathlib import Path

from lepidos.core.fish.species import Sourced
from lepidos.core.pack.labels import LabelWords
from lepidos.guide.library import FOLDER, Guide, load_guide
from lepidos.guide.packing import usual_packing
from lepidos.guide.problems import GuideProblem, made
from lepidos.guide.reading import read

ENGLISH = "en"
UNSAID = "freezer"  # the purpose of what nobody said more of: no label names it


class LabelLanguage(Sourced):
    """All that the guide puts on a label, in one language; pieces and so on by their keys."""

    name: str
    months: tuple[str, ...]
    skin_on: str
    skin_off: str
    portion: str
    portions: str
    part: str
    about: str
    caught: str
    packed: str
    best_by: str
    contains: str
    not_for: str
    raw_from: str
    tail: str
    allergens: dict[str, str]
    cautions: dict[str, str]
    purposes: dict[str, str]
    pieces: dict[str, str]

    @property
    def words(self) -> LabelWords:
        """As the core takes them."""
        return LabelWords(
            months=self.months,
            skin={"on": self.skin_on, "off": self.skin_off},
            portion=self.portion,
            portions=self.portions,
            part=self.part,
            about=self.about,
            caught=self.caught,
            packed=self.packed,
            best_by=self.best_by,
        )


@cache
def label_languages(folder: Path = FOLDER) -> dict[str, LabelLanguage]:
    """By code, without English, which the guide itself is in.

    Raises GuideProblem, with file, table and key, for a word that a language lacks or has too many.
    """
    paths = sorted((folder / "labels").glob("*.toml"))
    found = {path.stem: made(f"labels/{path.name}", LabelLanguage, read(path)) for path in paths}
    wanted = _wanted(load_guide(folder))
    for code, one in found.items():
        said = [
            line
            for table, keys in wanted.items()
            for line in _odd(table, keys, getattr(one, table))
        ]
        if said:
            raise GuideProblem(f"labels/{code}.toml", said)
    return found


def _wanted(guide: Guide) -> dict[str, set[str]]:
    """By table of a language's file: the keys that the guide puts on labels."""
    return {
        "pieces": set(guide.pieces),
        "purposes": set(guide.methods.purposes) - {UNSAID},
        "cautions": {key for key, one in guide.cautions.items() if one.label},
        "allergens": {"fish", *usual_packing().allergens.values()},
    }


def _odd(table: str, wanted: set[str], there: dict[str, str]) -> list[str]:
    lacking = [f'[{table}] lacks a word: write {key} = "…"' for key in sorted(wanted - set(there))]
    return lacking + [
        f"[{table}] has {key}, which the guide does not: take it out"
        for key in sorted(set(there) - wanted)
    ]

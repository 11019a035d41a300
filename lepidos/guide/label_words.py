"""What a label says in other languages: one file in `labels/` for each, named by its code."""

from functools import cache
from pathlib import Path

from lepidos.core.fish.species import Sourced
from lepidos.core.pack.labels import LabelWords
from lepidos.guide.reading import read

ENGLISH = "en"


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
def label_languages() -> dict[str, LabelLanguage]:
    """By code, without English, which the guide itself is in. Raises ValueError for a bad file."""
    folder = Path(__file__).with_name("labels")
    return {path.stem: LabelLanguage(**read(path)) for path in sorted(folder.glob("*.toml"))}

"""What stands on a bag's label, and the short code that finds it again."""

import unicodedata
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import date
from random import Random
from typing import Literal

from lepidos.core.errors import BadInput
from lepidos.core.pack.portions import ENOUGH
from lepidos.core.units import HOUR_S

# 29 characters, a prime: with the weights below every single wrong one and every swap of two
# neighbours changes the check character. No vowels, so no words; no 0, 1, I or O to misread.
ALPHABET = "23456789BCDFGHJKLMNPQRSTVWXYZ"
_BODY = 5  # random characters of a code: 20 million codes
MAX_OWNER_LENGTH = 80  # a name, and what it wishes
MAX_TITLE_LENGTH = 34

DateOrder = Literal["dmy", "mdy", "ymd"]


def check_character(body: str) -> str:
    """The character that makes Σ (position + 2) · value divisible by 29; it weighs 1 itself.

    >>> check_character("22222")
    '2'
    """
    total = sum((place + 2) * ALPHABET.index(one) for place, one in enumerate(body))
    return ALPHABET[-total % len(ALPHABET)]


def make_code(rng: Random) -> str:
    """A new bag code such as "K7M2QD": five random characters and a check character."""
    body = "".join(rng.choice(ALPHABET) for _ in range(_BODY))
    return body + check_character(body)


def show_code(code: str) -> str:
    """As it stands on the label: "K7M-2QD"."""
    return f"{code[:3]}-{code[3:]}"


def read_code(text: str) -> str:
    """A code as a person or a scanner gives it: typed, spaced, or at the end of a link.

    Raises: BadInput, which says whether it is no code at all or has a slip in it.
    """
    tail = text.strip().rstrip("/").rsplit("/", 1)[-1]
    characters = "".join(c for c in tail.upper() if c not in " -–—\t")
    if len(characters) != _BODY + 1 or any(c not in ALPHABET for c in characters):
        raise BadInput("A bag code has six characters, such as K7M-2QD")
    if check_character(characters[:-1]) != characters[-1]:
        raise BadInput("One character of that code is wrong; look at the label again")
    return characters


@dataclass(frozen=True)
class LabelWords:
    """The words between what a label says, in one language; months as they are shortened."""

    months: tuple[str, ...]
    skin: Mapping[str, str]
    portion: str
    portions: str
    part: str
    about: str
    caught: str
    packed: str
    best_by: str

    def date(self, day: date, order: DateOrder = "dmy") -> str:
        """A date that no reader takes for another: the month in letters, or the year first.

        >>> ENGLISH.date(date(2026, 7, 14)), ENGLISH.date(date(2026, 7, 14), "mdy")
        ('14 Jul 2026', 'Jul 14, 2026')
        """
        month = self.months[day.month - 1]
        if order == "ymd":
            return day.isoformat()
        return (
            f"{month} {day.day}, {day.year}" if order == "mdy" else f"{day.day} {month} {day.year}"
        )

    def servings(self, number: float) -> str:
        """How many people a bag feeds; one that feeds nobody alone is a part of a serving.

        >>> ENGLISH.servings(2.0), ENGLISH.servings(1.0), ENGLISH.servings(0.3)
        ('2 servings', '1 serving', 'part of a serving')
        """
        return count(round(number), self.portion, self.portions) if number >= ENOUGH else self.part


ENGLISH = LabelWords(
    months=("Jan", "Feb", "Mar", "Apr", "May", "Jun", "Jul", "Aug", "Sep", "Oct", "Nov", "Dec"),
    skin={"on": "skin on", "off": "skin off"},
    portion="serving",
    portions="servings",
    part="part of a serving",
    about="about",
    caught="Caught",
    packed="packed",
    best_by="Best by",
)


@dataclass(frozen=True)
class LabelContent:
    """All that is printed on one label, as plain text."""

    title: str
    details: str
    dates: str
    best_by: str
    owner: str
    cautions: tuple[str, ...]
    code: str
    link: str


def label_content(
    *,
    species: str,
    cut: str,
    skin: str,
    servings: float,
    weight: str,
    caught: date,
    packed: date,
    best: date,
    owner: str,
    code: str,
    cautions: Sequence[str],
    measured: bool = True,
    purpose: str = "",
    scientific: str = "",
    link_base: str = "",
    words: LabelWords = ENGLISH,
    order: DateOrder = "dmy",
) -> LabelContent:
    """Compose a label. Text from people is stripped of control characters and cut to its line.

    `purpose` is what it is for, where that is more than the freezer; `skin` "" for what has none;
    `measured` whether its weight was taken. `scientific` is the fish's name for those who read
    another language.
    """
    return LabelContent(
        title=one_line(f"{species} {cut}", MAX_TITLE_LENGTH),
        details=" · ".join(
            filter(
                None,
                (
                    scientific,
                    words.skin[skin] if skin else "",
                    words.servings(servings),
                    weight if measured else f"{words.about} {weight}",
                    purpose,
                ),
            )
        ),
        dates=(
            f"{words.caught} {words.date(caught, order)} · "
            f"{words.packed} {words.date(packed, order)}"
        ),
        best_by=f"{words.best_by} {words.date(best, order)}",
        owner=one_line(owner, MAX_OWNER_LENGTH) if owner else "",
        cautions=tuple(one_line(c, 80) for c in cautions),
        code=show_code(code),
        link=f"{link_base.rstrip('/')}/b/{code}" if link_base else code,
    )


def short_date(day: date) -> str:
    """A date as pages write it: "14 Jul 2026"."""
    return ENGLISH.date(day)


def sentence(text: str) -> str:
    """Text with a capital first letter and the rest as it is: names keep theirs.

    >>> sentence("no species; did you mean Atlantic salmon?")
    'No species; did you mean Atlantic salmon?'
    """
    return text[:1].upper() + text[1:]


def hours(seconds: float) -> str:
    """A span in the words of a sentence.

    >>> hours(3600.0), hours(5400.0)
    ('1 hour', '1.5 hours')
    """
    value = seconds / HOUR_S
    return f"{value:g} hour{'' if value == 1 else 's'}"


def count(number: int, noun: str, plural: str = "") -> str:
    """ "1 serving", "2 servings"."""
    return f"{number} {noun if number == 1 else plural or noun + 's'}"


def one_line(text: str, longest: int) -> str:
    """Printable text on one line, with an ellipsis when it is too long."""
    clean = "".join(c if unicodedata.category(c)[0] != "C" else " " for c in text)
    clean = " ".join(clean.split())
    return clean if len(clean) <= longest else clean[: longest - 1].rstrip() + "…"

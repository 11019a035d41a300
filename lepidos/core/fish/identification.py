"""Keys for fish that look alike: one question after another, each answer narrowing the list."""

from collections.abc import Sequence
from dataclasses import dataclass

from pydantic import Field, model_validator

from lepidos.core.errors import BadInput
from lepidos.core.fish.sketch import Stroke
from lepidos.core.fish.species import Sourced


class Answer(Sourced):
    """An answer: what one sees, and which fish it leaves. `source` says how we know the tell."""

    key: str
    text: str
    leaves: tuple[str, ...] = Field(min_length=1)
    sketch: tuple[Stroke, ...] = ()


class TellQuestion(Sourced):
    """One thing to look at; answered or not, the key goes on. `dead`: what death changes of it."""

    key: str
    text: str
    dead: str = ""
    answers: tuple[Answer, ...] = Field(min_length=2)


class Candidate(Sourced):
    """A fish that the key can end in. `species` names its page where the guide has one."""

    key: str
    name: str
    tells: str
    species: str = ""
    careful: bool = False


class LookAlike(Sourced):
    """A key: its candidates, and its questions in the order they are best asked.

    `after_death` says which of its tells fade and which stay.
    """

    key: str
    name: str
    summary: str
    after_death: str
    candidates: tuple[Candidate, ...] = Field(min_length=2)
    questions: tuple[TellQuestion, ...] = Field(min_length=1)

    @model_validator(mode="after")
    def _hangs_together(self) -> "LookAlike":
        known = {c.key for c in self.candidates}
        for question in self.questions:
            for answer in question.answers:
                if extra := set(answer.leaves) - known:
                    raise ValueError(f"{self.key}.{question.key}: unknown fish {sorted(extra)}")
        for one in self.candidates:
            if not any(one.key in a.leaves for q in self.questions for a in q.answers):
                raise ValueError(f"{self.key}: no answer leads to {one.key}")
        return self


@dataclass(frozen=True)
class Standing:
    """Where one stands in a key: what is left, what was answered, what to ask next.

    `next` is None when nothing more would narrow the list. `clash` says that the answers fit no
    fish of the key together.
    """

    left: tuple[Candidate, ...]
    answered: tuple[tuple[TellQuestion, Answer], ...]
    next: TellQuestion | None
    clash: bool


def stand(key: LookAlike, answers: Sequence[str]) -> Standing:
    """Follow answers given as "question.answer"; a later answer to a question replaces an earlier.

    Raises: BadInput for an answer the key does not have.
    """
    given: dict[str, tuple[TellQuestion, Answer]] = {}
    for text in answers:
        question_key, _, answer_key = text.partition(".")
        question = next((q for q in key.questions if q.key == question_key), None)
        answer = (
            next((a for a in question.answers if a.key == answer_key), None) if question else None
        )
        if question is None or answer is None:
            raise BadInput(f"This key has no answer “{text[:40]}”")
        given[question_key] = (question, answer)
    left = {c.key for c in key.candidates}
    for _, answer in given.values():
        left &= set(answer.leaves)
    return Standing(
        tuple(c for c in key.candidates if c.key in left),
        tuple(given.values()),
        next((q for q in key.questions if q.key not in given and _splits(q, left)), None),
        not left,
    )


def _splits(question: TellQuestion, left: set[str]) -> bool:
    """Whether some answer would leave fewer, but not none."""
    return any(0 < len(left & set(a.leaves)) < len(left) for a in question.answers)

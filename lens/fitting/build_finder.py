"""How a display is built in, found by a few questions: each time the one that tells most, until one build is left."""

import math
from collections.abc import Mapping, Sequence
from functools import cache
from pathlib import Path

from pydantic import Field

from lens.errors import BadInput
from lens.fitting.procedures import builds_for, procedures
from lens.records.base import Record
from lens.tables import not_known, shipped

DATA = Path(__file__).with_suffix(".yaml")
CANNOT_TELL = "unknown"
MOST_QUESTIONS = 6


class Question(Record):
    """``builds``: the answers that each build may give."""

    title: str
    how: str = ""
    answers: dict[str, str] = Field(min_length=2)
    builds: dict[str, tuple[str, ...]]


class _Questions(Record):
    questions: dict[str, Question]


class Finding(Record):
    """``question`` is the id of the next one, None where none tells more; ``builds`` are those that are left, all of them where the answers
    contradict each other (``contradiction``)."""

    question: str | None
    builds: tuple[str, ...]
    contradiction: bool = False


@cache
def questions() -> Mapping[str, Question]:
    """The shipped ones, checked: every build is one, every answer is offered."""
    told = shipped(_Questions, DATA).questions
    for question in told.values():
        for build, answers in question.builds.items():
            if build not in procedures():
                raise not_known("build", build, procedures(), "build_finder")
            for answer in answers:
                if answer not in question.answers:
                    raise not_known("answer", answer, question.answers, "build_finder")
    return told


def find_build(device: str, answers: Mapping[str, str]) -> Finding:
    """What is left after the answers, and what to ask next.

    Parameters
    ----------
    device : kind of device
    answers : by question; 'unknown' where nobody can tell
    """
    for name, answer in answers.items():
        if name not in questions():
            raise not_known("question", name, questions(), "unknown_question")
        if answer != CANNOT_TELL and answer not in questions()[name].answers:
            raise not_known("answer", answer, questions()[name].answers, "unknown_answer")
    every = tuple(one.id for one in builds_for(device))
    if not every:
        raise BadInput("No build is known for this kind of device. Work by the maker's documents.", "no_build")
    left = tuple(build for build in every if all(_may(name, build, answer) for name, answer in answers.items()))
    if not left:
        return Finding(question=None, builds=every, contradiction=True)
    open_ones = [name for name in questions() if name not in answers] if len(answers) < MOST_QUESTIONS else []
    best = min(open_ones, key=lambda name: _expected_left(name, left), default=None)
    tells = best is not None and _expected_left(best, left) < math.log2(len(left)) - 1e-9
    return Finding(question=best if tells else None, builds=left)


def _may(name: str, build: str, answer: str) -> bool:
    allowed = questions()[name].builds.get(build)
    return answer == CANNOT_TELL or allowed is None or answer in allowed


def _expected_left(name: str, builds: Sequence[str]) -> float:
    """Bits that are still open after the answer, each build and each of its answers alike."""
    question = questions()[name]
    weights: dict[str, list[float]] = {answer: [] for answer in question.answers}
    for build in builds:
        allowed = question.builds.get(build) or tuple(question.answers)
        for answer in allowed:
            weights[answer].append(1 / len(allowed) / len(builds))
    return sum(sum(part) * _entropy(part) for part in weights.values() if part)


def _entropy(weights: Sequence[float]) -> float:
    total = sum(weights)
    return -sum(w / total * math.log2(w / total) for w in weights)

"""The stories of the bench (``stories.yaml``): each a moment of a job, held to what a technician would think and do next."""

from collections.abc import Sequence
from pathlib import Path

from lens.diagnosis import Diagnosis, EvidenceItem, diagnose
from lens.diagnosis.load import Device, Source
from lens.records.base import Record
from lens.tables import parse

FILE = Path(__file__).parent / "stories.yaml"
SECOND = Path(__file__).parent / "stories_second.yaml"


class Story(Record):
    """What is known and what may follow; see the file's head. ``stop`` is empty where the story is not finished."""

    device: Device
    known: tuple[tuple[str, ...], ...]
    cause: tuple[str, ...] = ()
    first: tuple[str, ...] = ()
    stop: tuple[str, ...] = ()
    never: tuple[str, ...] = ()
    odd: bool | None = None

    @property
    def items(self) -> list[EvidenceItem]:
        """The evidence of the story."""
        seen: Source = "seen"
        return [
            EvidenceItem.model_validate(dict(zip(("check", "outcome", "source"), (*one, seen)[:3], strict=True)))
            for one in self.known
        ]


class Outcome(Record):
    """What the advice came to: None where the story does not ask."""

    name: str
    first_step: str
    cause_right: bool | None
    step_right: bool
    finished: bool | None
    harmful: bool
    contradiction_right: bool | None
    agrees: bool
    told: str


def load_stories(file: Path = FILE) -> dict[str, Story]:
    """All stories of a file by name."""
    told = parse(file.read_text(encoding="utf-8"), file.name, plain_words=True)
    return {name: Story.model_validate(story) for name, story in told["stories"].items()}


def judge(name: str, story: Story) -> Outcome:
    """The advice of the model, held to the story."""
    told = diagnose(story.device, story.items)
    step = told.next[0]
    return Outcome(
        name=name,
        first_step=step.id,
        cause_right=told.causes[0].id in story.cause if story.cause else None,
        step_right=step.id in (*story.first, *story.stop),
        finished=told.stop.advised and told.stop.repair in story.stop if story.stop else None,
        harmful=step.id in story.never,
        contradiction_right=bool(told.contradictions) is story.odd if story.odd is not None else None,
        agrees=_agrees(told),
        told=f"{told.causes[0].id} {told.causes[0].p:.2f}, {told.causes[1].id} {told.causes[1].p:.2f}; first {step.id}"
        f"{', stop ' + str(told.stop.repair) if told.stop.advised else ''}",
    )


def _agrees(told: Diagnosis) -> bool:
    """One advice: the first step is the repair of the stop, or else the first one of the plan."""
    first = told.next[0]
    return (
        (first.kind, first.id) == ("repair", told.stop.repair)
        if told.stop.advised
        else not told.plan or (first.kind, first.id) == (told.plan[0].kind, told.plan[0].id)
    )


def _share(told: Sequence[bool | None]) -> str:
    own = [one for one in told if one is not None]
    return f"{sum(own)} of {len(own)}"


ROUNDS = {
    "stories of the bench (common practice, written before the model was mended)": FILE,
    "second round (written later, held to no likelihood before its first figures: 47 of 48 causes, 38 of 50 steps)": SECOND,
}


def print_stories() -> None:
    """The rows of the stories, and each one that is not as a technician would have it."""
    for words, file in ROUNDS.items():
        _print_round(words, [judge(name, story) for name, story in load_stories(file).items()])


def _print_round(words: str, outcomes: Sequence[Outcome]) -> None:
    print(
        f"\n{words}: first cause accepted in "
        f"{_share([one.cause_right for one in outcomes])}, first step in {_share([one.step_right for one in outcomes])}, "
        f"finished ones end with their repair in {_share([one.finished for one in outcomes])}, "
        f"contradictions shown and not shown rightly in {_share([one.contradiction_right for one in outcomes])}, "
        f"harmful first steps {sum(one.harmful for one in outcomes)}, "
        f"stop and first step agree in {_share([one.agrees for one in outcomes])}"
    )
    for one in outcomes:
        if not one.step_right or one.harmful or False in (one.cause_right, one.finished, one.contradiction_right):
            print(f"  {one.name}: {one.told}")

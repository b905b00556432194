"""Functions of a device that a display repair may cost: which are to be tested, by what was really touched, and what their answers come to."""

from collections.abc import Iterable, Mapping, Sequence
from functools import cache
from pathlib import Path
from typing import Literal, get_args

from pydantic import Field

from lens.errors import BadInput
from lens.fitting import parts, procedures
from lens.progress import Missing, Told, VerdictPart
from lens.records.base import Record
from lens.tables import not_known, shipped

DATA = Path(__file__).with_name("functions.yaml")
FunctionOutcome = Literal["good", "faulty", "lost", "was_so", "not_there", "not_tested"]
OUTCOMES: tuple[FunctionOutcome, ...] = get_args(FunctionOutcome)
# parts.yaml names the light of touch keys by the part that makes it
CARRIED_AS = {"key_light": "touch_keys"}


class FunctionFacts(Record):
    """See functions.yaml."""

    title: str = Field(min_length=1, max_length=60)
    how: str = Field(min_length=1, max_length=200)
    builds: tuple[str, ...] = ()
    lost_with: dict[str, str] = {}
    paired: bool = False


class AskedFunction(Record):
    """A function that is to be tested, and why. ``expected``: what is to be expected of it with this part, empty where nothing."""

    id: str
    title: str
    how: str
    because: str
    expected: str = ""


class FunctionAnswer(Record):
    """How a function was found. ``grade``: measured by the device page, seen by a technician, or told by the owner."""

    function: str
    outcome: FunctionOutcome
    grade: Literal["measured", "seen", "told"] = "seen"
    note: str = Field(default="", max_length=300)


class _Functions(Record):
    functions: dict[str, FunctionFacts]


@cache
def functions() -> Mapping[str, FunctionFacts]:
    """All by id, in the order in which they are tested."""
    told = shipped(_Functions, DATA).functions
    for name, one in told.items():
        for build in one.builds:
            if build not in procedures():
                raise not_known(f"procedure for the function '{name}'", build, procedures(), "unknown_build")
    return told


def check_function(name: str, outcome: str) -> str:
    """The function's id; raises BadInput for one that is none, or an outcome that is none."""
    if name not in functions():
        raise not_known("function", name, functions(), "unknown_function")
    if outcome not in OUTCOMES:
        raise BadInput(f"A function is {', '.join(OUTCOMES)}, not '{outcome}'.", "unknown_outcome")
    return name


def functions_asked(build: str, fates: Mapping[str, str], grade: str | None = None) -> tuple[AskedFunction, ...]:
    """What to test on a device that was opened in some way.

    Parameters
    ----------
    build : the procedure that was followed; of a shop's own one the shipped one that it was made of
    fates : by part of the old display what became of it (see ``lens.fitting.PartFate``); parts that are not there carry nothing
    grade : of the new display, where it is known
    """
    carried: dict[str, list[str]] = {}
    damaged: set[str] = set()
    for part, fate in fates.items():
        if fate == "not_there" or part not in parts():
            continue
        for told in parts()[part].functions:
            name = CARRIED_AS.get(told, told)
            carried.setdefault(name, []).append(_fate_words(part, fate))
            if fate == "damaged":
                damaged.add(name)
    asked = []
    for name, facts in functions().items():
        if name not in carried and build not in facts.builds:
            continue
        because = " ".join(carried.get(name, ())) or "The way in runs past it."
        expected = facts.lost_with.get(grade or "", "")
        if name in damaged and facts.paired:
            expected = "Its paired part was damaged; no other brings it back."
        asked.append(AskedFunction(id=name, title=facts.title, how=facts.how, because=because, expected=expected))
    return tuple(asked)


def _fate_words(part: str, fate: str) -> str:
    title = parts()[part].title
    return {
        "moved": f"{title}: moved over.",
        "came_with_it": f"{title}: came with the new display.",
        "damaged": f"{title}: damaged.",
    }.get(fate, f"{title}: touched.")


def expected_losses(build: str, grade: str | None) -> tuple[str, ...]:
    """What the owner is told before the order: functions that such a display is likely to cost."""
    return tuple(
        f"{facts.title}: {facts.lost_with[grade][0].lower()}{facts.lost_with[grade][1:]}"
        for facts in functions().values()
        if grade in facts.lost_with and build in facts.builds
    )


def functions_told(asked: Sequence[AskedFunction], answers: Iterable[FunctionAnswer], stage: str) -> Told:
    """What the functions add to the job's verdict; the last answer to each counts, also of one that nobody asked for."""
    last = {one.function: one for one in answers}
    titles = {one.id: one.title for one in asked} | {
        name: functions()[name].title for name in last if name in functions()
    }
    wanted = [
        *(one.id for one in asked),
        *(name for name in last if name in titles and all(name != a.id for a in asked)),
    ]
    if not wanted:
        return Told()
    faulty = [titles[name] for name in wanted if name in last and last[name].outcome == "faulty"]
    untested = [titles[name] for name in wanted if name not in last or last[name].outcome == "not_tested"]
    conditions = [
        *(f"{titles[n]} is lost, as was to be expected." for n in wanted if n in last and last[n].outcome == "lost"),
        *(f"{titles[n]} did not work before either." for n in wanted if n in last and last[n].outcome == "was_so"),
    ]
    answered = len(wanted) - len(untested)
    if answered == 0:
        return Told(missing=[Missing(f"{_count(len(wanted))} not tested.", "Test the functions that were touched.")])
    if faulty:
        result, text = "fail", f"Not working: {_listed(faulty)}."
    elif untested:
        result, text = "not_proven", f"Functions: {answered} of {len(wanted)} tested, not yet {_listed(untested)}."
    else:
        result, text = "pass", f"{_count(len(wanted))} tested."
    grades = {last[name].grade for name in wanted if name in last}
    grade = next(one for one in ("told", "seen", "measured") if one in grades)
    part = VerdictPart(part="functions", stage=stage, result=result, text=text, grade=grade)  # type: ignore[arg-type]
    missing = [Missing(text, f"Test: {_listed(untested)}.")] if untested and not faulty else []
    return Told(parts=[part], missing=missing if untested else [], conditions=conditions)


def _count(n: int) -> str:
    return "1 function" if n == 1 else f"{n} functions"


def _listed(titles: Sequence[str], most: int = 4) -> str:
    shown = ", ".join(f"{one[0].lower()}{one[1:]}" for one in titles[:most])
    return shown if len(titles) <= most else f"{shown} and {len(titles) - most} more"

"""What one version of a procedure changes against another, in words."""

from lens.fitting.procedures import Procedure
from lens.records.base import Record

# fields of a step by what people call them; an id is what makes two steps the same one
STEP_WORDS = {
    "title": "title",
    "how": "how it is done",
    "why": "why",
    "needs": "what comes before it",
    "when": "when it applies",
    "minutes": "minutes",
    "wait_minutes": "waiting",
    "hazards": "hazards",
    "tools": "tools",
    "counts": "what comes out or goes back",
    "evidence": "what must be shown",
    "choices": "choices",
    "stop_sign": "stop sign",
    "proof": "what shows that it sits",
    "clocks": "clocks",
    "liners": "liners",
    "requires": "states it asks for",
    "sets": "states it brings about",
    "ends": "states it ends",
}
WHOLE_WORDS = {
    "title": "its title",
    "devices": "its kinds of device",
    "fasteners": "its groups of screws",
    "carries": "the parts it carries",
    "keep_outs": "its keep-outs",
    "liners": "its liners",
    "opens": "how it opens",
}


def procedure_changes(before: Procedure, after: Procedure) -> tuple[str, ...]:
    """Sentences, a line each: steps that are new, gone or changed, in the order of ``after``; empty where both say the same."""
    old, new = before.graph.by_id, after.graph.by_id
    told = [
        f"Changed: {words}." for name, words in WHOLE_WORDS.items() if getattr(before, name) != getattr(after, name)
    ]
    told += [f"New step: {step.title}." for step in after.steps if step.id not in old]
    told += [f"Step gone: {step.title}." for step in before.steps if step.id not in new]
    for step in after.steps:
        if step.id in old and (names := _changed(old[step.id], step)):
            told.append(f"{step.title}: {', '.join(names)}.")
    return tuple(told)


def _changed(before: Record, after: Record) -> list[str]:
    names = [name for name in type(after).model_fields if getattr(before, name) != getattr(after, name)]
    return list(dict.fromkeys(STEP_WORDS.get(name, "other details") for name in names))

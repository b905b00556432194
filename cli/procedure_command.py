"""./clear-lens procedure list | show BUILD | check FILE.yaml | next BUILD --done STATE.json: how a display is replaced, and what may come next."""

import argparse
import json
from pathlib import Path
from typing import Any

from pydantic import Field

from cli.files import read, read_json, write
from lens.errors import BadInput
from lens.fitting import FitStep, Procedure, get_procedure, hazards, procedures, read_procedure, standing
from lens.records.base import Record
from lens.steps import Done, order
from lens.tables import validated

SHOWN = (
    "id",
    "title",
    "needs",
    "tools",
    "minutes",
    "wait_minutes",
    "counts",
    "parts_out",
    "parts_in",
    "evidence",
    "school",
)
MORE = ("how", "why", "stop_sign", "proof", "choices", "when", "requires", "sets", "ends", "needs_part")


class State(Record):
    """Where somebody stands: what was done in order, whether the device is on, how many loose things nobody can find."""

    done: tuple[Done, ...] = ()
    powered: bool = False
    unaccounted: int = Field(default=0, ge=0, le=10_000)


def add_options(parser: argparse.ArgumentParser) -> None:
    what = parser.add_subparsers(dest="what", required=True)
    what.add_parser("list", help="the builds that have a procedure")
    show = what.add_parser("show", help="the steps of a build in one legal order")
    show.add_argument("build", help="a build, see list, or a YAML file")
    check = what.add_parser("check", help="is an own procedure sound?")
    check.add_argument("file", help="YAML")
    after = what.add_parser("next", help="what is open, what is blocked and why, the way back")
    after.add_argument("build", help="a build, or a YAML file")
    after.add_argument("--done", required=True, help="JSON: one state, or a list of them")
    for one in (show, after):
        one.add_argument("--out", help="file for the result; standard output without it")


def run(options: argparse.Namespace) -> int:
    if options.what == "list":
        for name, told in procedures().items():
            print(f"{name:18} {', '.join(told.devices):18} {told.title}")
    elif options.what == "show":
        procedure = _procedure(options.build)
        write(json.dumps(_shown(procedure), indent=1, ensure_ascii=False), options.out)
    elif options.what == "check":
        procedure = read_procedure(read(options.file), Path(options.file).stem)
        print(f"{procedure.title}: {len(procedure.steps)} steps, sound.")
    else:
        _next(_procedure(options.build), options.done, options.out)
    return 0


def _procedure(name: str) -> Procedure:
    if name.endswith((".yaml", ".yml")):
        return read_procedure(read(name), Path(name).stem)
    return get_procedure(name)


def _shown(procedure: Procedure) -> dict[str, Any]:
    known = {step.id: step for step in procedure.steps}
    listed = [known[name] for name in dict.fromkeys(one.step for one in order(procedure.graph))]
    rest = [step for step in procedure.steps if step not in listed]  # those of another choice
    about = procedure.model_dump(mode="json", exclude={"steps"})
    return {**about, "steps": [_step(step) for step in (*listed, *rest)]}


def _step(step: FitStep) -> dict[str, Any]:
    told = step.model_dump(mode="json")
    told["school"] = step.schools[0] if step.schools else None
    cautions = {"hazards": [hazards()[name] for name in step.hazards]}
    return {name: told[name] for name in SHOWN} | cautions | {name: told[name] for name in MORE}


def _next(procedure: Procedure, path: str, out: str | None) -> None:
    told = read_json(path)
    states = told if isinstance(told, list) else [told]
    answers = []
    for number, state in enumerate(states):
        if not isinstance(state, dict):
            raise BadInput(f"'{path}': state {number + 1} is no object with 'done'.", "procedure_state")
        checked = validated(State, state, f"'{path}', state {number + 1}", "procedure_state")
        where = standing(procedure, checked.done, checked.powered, checked.unaccounted)
        answers.append(
            {
                "open": list(where.open),
                "blocked": [{"step": step, "why": why} for step, why in where.blocked],
                "undo": list(where.undo),
            }
        )
    write(json.dumps(answers if isinstance(told, list) else answers[0], indent=1, ensure_ascii=False), out)

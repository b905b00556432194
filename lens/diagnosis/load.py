"""Causes, checks and likelihoods as data, checked in full when loaded."""

import difflib
from functools import cache
from pathlib import Path
from typing import Literal

import yaml

from lens.errors import ModelInconsistent
from lens.records.base import Record

DATA = Path(__file__).with_name("model.yaml")
DEVICES = ("clamshell", "handset", "tablet", "all_in_one")
Device = Literal["clamshell", "handset", "tablet", "all_in_one"]
TOLERANCE = 1e-9


class Repair(Record):
    title: str
    minutes: float
    cost: float


class Cause(Record):
    title: str
    prior: dict[str, float]
    repair: Repair


class Check(Record):
    """A check with its outcomes; ``likelihood[outcome][cause]``, 'other' standing for the causes not named."""

    title: str
    minutes: float
    how: str
    outcomes: dict[str, str]
    likelihood: dict[str, dict[str, float]]

    def p(self, outcome: str, cause: str) -> float:
        row = self.likelihood[outcome]
        return row.get(cause, row.get("other", 0.0))


class Model(Record):
    causes: dict[str, Cause]
    checks: dict[str, Check]


def check_model(model: Model) -> None:
    """Raises ModelInconsistent with every fault of the data at once."""
    faults: dict[str, str] = {}
    for device in DEVICES:
        total = sum(cause.prior.get(device, 0.0) for cause in model.causes.values())
        if abs(total - 1) > TOLERANCE:
            faults[f"prior of {device}"] = f"sums to {total:.6g}, not 1"
    for check_id, check in model.checks.items():
        if set(check.outcomes) != set(check.likelihood):
            faults[f"{check_id}.outcomes"] = "outcomes and likelihoods name different things"
            continue
        for row in check.likelihood.values():
            for name in set(row) - set(model.causes) - {"other"}:
                near = difflib.get_close_matches(name, model.causes, n=1)
                faults[f"{check_id}.{name}"] = "unknown cause" + (f"; did you mean '{near[0]}'?" if near else "")
        for cause in model.causes:
            total = sum(check.p(outcome, cause) for outcome in check.outcomes)
            if abs(total - 1) > TOLERANCE:
                faults[f"{check_id}.{cause}"] = f"P(. | {cause}) sums to {total:.6g}, not 1"
    if faults:
        raise ModelInconsistent(faults)


@cache
def load_model() -> Model:
    """The shipped model, checked."""
    # YAML reads bare yes and no as booleans, so plain strings are taken
    model = Model.model_validate(yaml.load(DATA.read_text(encoding="utf-8"), Loader=yaml.BaseLoader))
    check_model(model)
    return model

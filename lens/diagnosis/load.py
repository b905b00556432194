"""Causes, repairs, checks and likelihoods as data, checked in full when loaded."""

from collections.abc import Iterable
from functools import cache
from pathlib import Path
from typing import Any, Literal

from pydantic import ValidationError

from lens.errors import BadInput, ModelInconsistent
from lens.records.base import Record
from lens.tables import faults_of, parse, unknown

FOLDER = Path(__file__).parent
Device = Literal["clamshell", "handset", "tablet", "all_in_one"]
DEVICES: tuple[Device, ...] = ("clamshell", "handset", "tablet", "all_in_one")
NOT_POSSIBLE = "not_possible"  # an answer that every check takes and that says nothing of any cause
SOUND, OTHER = (
    "none",
    "other",
)  # rows of a check: for a device without a fault, and for the causes that it does not name
TOLERANCE = 1e-6


class Repair(Record):
    """``inside``: the device is opened for it. ``risk``: money that is at stake when it was the wrong one. ``unless``: answers (by check) after which
    it is no repair here; ``asks``: the check that has to be answered before it is advised; ``power``: 'on' where it is done under power."""

    title: str
    minutes: float
    cost: float
    risk: float = 0.0
    inside: bool = False
    power: Literal["on"] | None = None
    asks: str | None = None
    unless: dict[str, tuple[str, ...]] = {}
    cautions: tuple[str, ...] = ()


class Cause(Record):
    """``prior`` are jobs in a thousand; ``repaired_by`` names every repair that ends it."""

    title: str
    prior: dict[str, float]
    repaired_by: tuple[str, ...]


Source = Literal["measured", "seen", "told"]


class State(Record):
    """What checks may want: answers (by check) that say it is ``lacking``, and answers by which it is ``there`` whatever else was said.
    ``assumed``: whether it is there as long as nothing was said."""

    lacking: dict[str, tuple[str, ...]] = {}
    there: dict[str, tuple[str, ...]] = {}
    assumed: bool = True


class Check(Record):
    """A check. ``outcomes`` go from the least to the most abnormal; ``likelihood[cause]`` is P(outcome | that cause alone) in their order.

    A check with ``features`` shows any number of its outcomes at a time, the first one meaning none of them: ``features[cause][outcome]`` is the
    chance that the cause alone shows it; of the first outcome, where it is named, the chance that the cause alone shows none (a broken cell always
    shows something, lines, ink or both).

    ``rules_out[check][outcome]``: outcomes for which that answer of another check leaves no room; ``brings[check][outcome]``: features that it says
    already. ``at``: whether it is asked at intake only. ``offered``: share of devices or benches where it can be done at all. ``power``: whether
    anything need be switched on for it.
    """

    title: str
    outcomes: dict[str, str]
    minutes: float
    how: tuple[str, ...]
    needs: str = "nothing"
    wants: tuple[str, ...] = ()
    power: Literal["on", "off"] = "on"
    offered: float = 1.0
    at: Literal["any", "intake"] = "any"
    rules_out: dict[str, dict[str, tuple[str, ...]]] = {}
    brings: dict[str, dict[str, tuple[str, ...]]] = {}
    cautions: tuple[str, ...] = ()
    cost: float = 0.0
    risk: float = 0.0
    devices: tuple[Device, ...] = DEVICES
    inside: bool = False
    likelihood: dict[str, tuple[float, ...]] = {}
    features: dict[str, dict[str, float]] = {}


class Model(Record):
    version: int
    groups: dict[str, tuple[str, ...]] = {}
    repairs: dict[str, Repair]
    causes: dict[str, Cause]
    together: tuple[tuple[str, str, float], ...] = ()
    states: dict[str, State] = {}
    sources: dict[Source, float] = {}
    checks: dict[str, Check]

    def row(self, check_id: str, cause: str) -> tuple[float, ...]:
        """P(outcome | this cause alone) of a check without features: the cause's own row, its group's, or the one for others."""
        rows = self.checks[check_id].likelihood
        return rows[next(name for name in (cause, *self.groups_of(cause), OTHER) if name in rows)]

    def feature(self, check_id: str, cause: str, outcome: str) -> float:
        """P(the feature shows | this cause alone), never less than on a sound device."""
        rows = self.checks[check_id].features
        base = rows[SOUND].get(outcome, 0.0)
        own = next((rows[name] for name in (cause, *self.groups_of(cause)) if name in rows), rows[SOUND])
        return max(own.get(outcome, base), base)

    def prepares(self, repair: str) -> bool:
        """Whether a repair ends no cause: it comes before the work."""
        return not any(repair in cause.repaired_by for cause in self.causes.values())

    def groups_of(self, cause: str) -> tuple[str, ...]:
        """Names of the groups that a cause is in."""
        return tuple(name for name, members in self.groups.items() if cause in members)


def _faults_of_check(model: Model, check_id: str, check: Check) -> dict[str, str]:
    faults: dict[str, str] = {}
    names = {*model.causes, *model.groups, SOUND, OTHER}
    rows = check.features or check.likelihood
    for name in set(rows) - names:
        faults[f"{check_id}.{name}"] = unknown(name, names)
    if len(check.outcomes) < 2 or NOT_POSSIBLE in check.outcomes:
        faults[f"{check_id}.outcomes"] = f"at least two, and none called '{NOT_POSSIBLE}'"
    if SOUND not in rows:
        faults[f"{check_id}.{SOUND}"] = "is missing: what a sound device shows"
    lacking = [cause for cause in model.causes if not {cause, OTHER, *model.groups_of(cause)} & set(rows)]
    if check.likelihood and lacking:
        faults[f"{check_id}.{OTHER}"] = f"is missing, and nothing else speaks of {', '.join(lacking)}"
    for name, row in check.likelihood.items():
        if len(row) != len(check.outcomes):
            faults[f"{check_id}.{name}"] = f"has {len(row)} numbers for {len(check.outcomes)} outcomes"
        elif min(row) <= 0 or abs(sum(row) - 1) > TOLERANCE:
            faults[f"{check_id}.{name}"] = (
                f"sums to {sum(row):.6g}, not 1" if min(row) > 0 else "holds a number that is not above 0"
            )
    for name, told in check.features.items():
        for outcome, chance in told.items():
            if outcome not in check.outcomes:
                faults[f"{check_id}.{name}.{outcome}"] = unknown(outcome, check.outcomes)
            elif not 0 < chance < 1:
                faults[f"{check_id}.{name}.{outcome}"] = f"is {chance:g}, not between 0 and 1"
    return faults


def _faults_of_states(model: Model) -> dict[str, str]:
    faults: dict[str, str] = {}
    for check_id, check in model.checks.items():
        for wanted in check.wants:
            if wanted not in model.states:
                faults[f"{check_id}.wants"] = unknown(wanted, model.states)
    return faults


def _faults_of_answers(model: Model) -> dict[str, str]:
    """Answers of other checks that checks and repairs name."""
    faults: dict[str, str] = {}

    def hold(place: str, check_id: str, outcomes: Iterable[str]) -> None:
        if check_id not in model.checks:
            faults[place] = unknown(check_id, model.checks)
            return
        for outcome in outcomes:
            if outcome not in model.checks[check_id].outcomes:
                faults[f"{place}.{check_id}"] = unknown(outcome, model.checks[check_id].outcomes)

    for check_id, check in model.checks.items():
        if not 0 < check.offered <= 1:
            faults[f"{check_id}.offered"] = f"is {check.offered:g}, not above 0 and at most 1"
        for other, by in check.rules_out.items():
            hold(f"{check_id}.rules_out", other, by)
            for outcome, gone in by.items():
                hold(f"{check_id}.rules_out.{other}.{outcome}", check_id, gone)
                if set(gone) >= set(check.outcomes):
                    faults[f"{check_id}.rules_out.{other}.{outcome}"] = "leaves no outcome"
        for other, by in check.brings.items():
            hold(f"{check_id}.brings", other, by)
            for outcome, features in by.items():
                hold(f"{check_id}.brings.{other}.{outcome}", check_id, features)
    for name, repair in model.repairs.items():
        for check_id, outcomes in repair.unless.items():
            hold(f"{name}.unless", check_id, outcomes)
        if repair.asks is not None:
            hold(f"{name}.asks", repair.asks, ())
    for name, state in model.states.items():
        for check_id, outcomes in (*state.lacking.items(), *state.there.items()):
            hold(f"states.{name}", check_id, outcomes)
    return faults


def check_model(model: Model) -> None:
    """Raises ModelInconsistent with every fault of the data at once."""
    faults: dict[str, str] = {}
    for cause_id, cause in model.causes.items():
        for device in DEVICES:
            if not cause.prior.get(device, 0.0) > 0:
                faults[f"{cause_id}.prior"] = f"needs a number above 0 for {device}"
        for repair in cause.repaired_by:
            if repair not in model.repairs:
                faults[f"{cause_id}.repaired_by"] = unknown(repair, model.repairs)
        if not cause.repaired_by:
            faults[f"{cause_id}.repaired_by"] = "names no repair"
    for group, members in model.groups.items():
        for name in set(members) - set(model.causes):
            faults[f"groups.{group}"] = unknown(name, model.causes)
    for one, other, times in model.together:
        for name in {one, other} - set(model.causes):
            faults[f"together.{one}.{other}"] = unknown(name, model.causes)
        if times <= 0:
            faults[f"together.{one}.{other}"] = f"is {times:g}, not above 0"
    for check_id, check in model.checks.items():
        faults |= _faults_of_check(model, check_id, check)
    faults |= _faults_of_states(model) | _faults_of_answers(model)
    for source, share in model.sources.items():
        if not 0 < share <= 1:
            faults[f"sources.{source}"] = f"is {share:g}, not above 0 and at most 1"
    if faults:
        raise ModelInconsistent(faults)


def read_model(causes: str, checks: str) -> Model:
    """A model from the text of its two YAML files, checked; raises ModelInconsistent."""
    told: dict[str, Any] = {}
    for name, text in (("causes", causes), ("checks", checks)):
        try:
            part = parse(text, name, plain_words=True)
        except BadInput as error:
            raise ModelInconsistent({name: error.message}) from None
        if not isinstance(part, dict):
            raise ModelInconsistent({name: "holds no names"})
        told |= part
    try:
        model = Model.model_validate(told)
    except ValidationError as error:
        raise ModelInconsistent(faults_of(error, Model)) from None
    check_model(model)
    return model


@cache
def load_model() -> Model:
    """The shipped model, checked."""
    return read_model(*((FOLDER / name).read_text(encoding="utf-8") for name in ("causes.yaml", "checks.yaml")))

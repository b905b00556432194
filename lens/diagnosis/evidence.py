"""What was seen, as the network takes it: one entry a check, measured before told, and repairs that were tried."""

from collections.abc import Mapping, Sequence
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from lens.diagnosis.load import NOT_POSSIBLE, Check, Model, Source
from lens.diagnosis.network import Network, Numbers
from lens.errors import BadInput
from lens.records.base import Record
from lens.tables import near

REPAIR = "repair:"  # before a repair's id: it was tried, and this came of it
PUT_ASIDE = "not possible, or not now"
TRIED = {"same": "and nothing changed", "mended": "and it is mended"}
SAID_ALREADY = 0.9  # chance of a feature that another answer said already, whatever the cause
REPAIR_WORKS, MENDS_BY_CHANCE = (
    0.96,
    0.02,
)  # common practice: most work is done right, and some faults go by being handled


class EvidenceItem(Record):
    """One answer. ``check`` is a check's id, or 'repair:' and a repair's; several items of a check with features stand together."""

    check: str
    outcome: str
    source: Source = "seen"


class Seen(NamedTuple):
    """The outcomes of one check that count; ``complete`` says that a check with features would have shown any other. ``belief`` is the share of such
    answers that are right: of a wrong one nothing follows. ``gone`` are outcomes that other answers left no room for, ``again``
    features that they said already."""

    check: str
    outcomes: tuple[str, ...]
    complete: bool
    belief: float = 1.0
    gone: tuple[str, ...] = ()
    again: tuple[str, ...] = ()


def check_items(model: Model, items: Sequence[EvidenceItem]) -> None:
    """Raises BadInput for a check or an outcome that the model does not know."""
    for item in items:
        repair = item.check.removeprefix(REPAIR) if item.check.startswith(REPAIR) else None
        if repair is not None and repair not in model.repairs:
            raise BadInput(
                f"There is no repair '{repair}'.{near(repair, model.repairs)} Known: {', '.join(model.repairs)}.",
                "unknown_check",
            )
        if repair is None and item.check not in model.checks:
            raise BadInput(
                f"There is no check '{item.check}'.{near(item.check, model.checks)} Known: {', '.join(model.checks)}.",
                "unknown_check",
            )
        outcomes = [*(TRIED if repair is not None else model.checks[item.check].outcomes), NOT_POSSIBLE]
        if item.outcome not in outcomes:
            raise BadInput(
                f"'{item.outcome}' is no outcome of '{item.check}': choose {', '.join(outcomes)}.", "unknown_outcome"
            )


def seen_of(model: Model, items: Sequence[EvidenceItem]) -> list[Seen]:
    """What counts of the items: of a check the last measured answer, or else the last one that was seen and the last one that was told, each as far
    as its source is believed; answers that say nothing are left out."""
    by_check: dict[str, list[EvidenceItem]] = {}
    for item in items:
        by_check.setdefault(item.check, []).append(item)
    out = []
    for check_id, own in by_check.items():
        own = [item for item in own if item.source == "measured"] or own
        check = model.checks.get(check_id)
        if check is None or not check.features:
            last = {item.source: item.outcome for item in own}
            out += [
                Seen(check_id, (outcome,), True, model.sources.get(source, 1.0)) for source, outcome in last.items()
            ]
            continue
        none = next(iter(check.outcomes))
        told = tuple(dict.fromkeys(item.outcome for item in own if item.outcome not in (none, NOT_POSSIBLE)))
        complete = any(item.outcome == none for item in own)
        if told or complete:
            out.append(Seen(check_id, told, complete))
    out = [one for one in out if one.outcomes != (NOT_POSSIBLE,)]
    return [
        one._replace(gone=ruled_out(model, out, one.check), again=said_already(model, out, one.check)) for one in out
    ]


def ruled_out(model: Model, evidence: Sequence[Seen], check_id: str) -> tuple[str, ...]:
    """Outcomes of a check for which answers of others, that are not merely told, leave no room."""
    check = model.checks.get(check_id)
    return _by_others(model, evidence, check, check.rules_out) if check else ()


def said_already(model: Model, evidence: Sequence[Seen], check_id: str) -> tuple[str, ...]:
    """Features of a check that answers of others, that are not merely told, say already."""
    check = model.checks.get(check_id)
    return _by_others(model, evidence, check, check.brings) if check else ()


def _by_others(
    model: Model, evidence: Sequence[Seen], check: Check, by: Mapping[str, Mapping[str, tuple[str, ...]]]
) -> tuple[str, ...]:
    if not by:
        return ()
    gone = {
        outcome
        for seen in evidence
        if seen.belief == 1.0
        for shown in (seen.outcomes or (next(iter(model.checks[seen.check].outcomes)),))
        for outcome in by.get(seen.check, {}).get(shown, ())
    }
    return tuple(outcome for outcome in check.outcomes if outcome in gone)


def likelihood(model: Model, network: Network, seen: Seen) -> Numbers:
    """(hypotheses,) P(what was seen | h); ones for a check that this device type does not have."""
    if seen.check.startswith(REPAIR):
        return _tried(network, seen)
    if seen.check not in network.shows:
        return np.ones(len(network.prior))
    shows, check = network.shows[seen.check], model.checks[seen.check]
    names = list(check.outcomes)
    if not check.features:
        told = np.asarray(shows[names.index(seen.outcomes[0])], float)
        if (
            seen.gone and seen.outcomes[0] not in seen.gone
        ):  # given the other answers; one that is against them stands by itself
            told = told / shows[[name not in seen.gone for name in names]].sum(axis=0)
        # who is mistaken names any of the outcomes
        return seen.belief * told + (1 - seen.belief) / len(names)
    there = np.array([name in seen.outcomes for name in names[1:]])
    again = there & np.array([name in seen.again for name in names[1:]])
    shows = np.concatenate([shows[:1], np.where(again[:, None], SAID_ALREADY, shows[1:])])
    if seen.gone and seen.complete:  # that what is known not to be there is not on the photos says nothing more
        expected = there | ~np.array([name in seen.gone for name in names[1:]])
        return np.asarray(shown_of(shows[1:][expected], there[expected]), float)
    shown = shows[1:][there].prod(axis=0)
    if not seen.complete:
        return np.asarray(shown, float)
    if not there.any():
        return np.asarray(shows[0], float)
    some = (1 - shows[0]) / np.maximum(1 - (1 - shows[1:]).prod(axis=0), 1e-9)
    return np.asarray(shown * (1 - shows[1:][~there]).prod(axis=0) * some, float)


def shown_of(shows: Numbers, there: NDArray[np.bool_]) -> Numbers:
    """(hypotheses,) P(these features show and the others do not) of (features, hypotheses)."""
    return np.asarray(np.where(there[:, None], shows, 1 - shows).prod(axis=0), float)


def _tried(network: Network, seen: Seen) -> Numbers:
    covered = network.covers[network.repairs.index(seen.check.removeprefix(REPAIR))]
    ended = (network.members.sum(axis=1) > 0) & ~(network.members & ~covered).any(axis=1)
    mends = np.where(ended, REPAIR_WORKS, MENDS_BY_CHANCE)
    return np.asarray(mends if seen.outcomes[0] == "mended" else 1 - mends, float)


def posterior(model: Model, network: Network, evidence: Sequence[Seen]) -> Numbers:
    """(hypotheses,) P(h | evidence), exactly; in logarithms, so that forty items do not underflow."""
    log = np.log(network.prior)
    for seen in evidence:
        log = log + np.log(likelihood(model, network, seen))
    weight = np.exp(log - log.max())
    return np.asarray(weight / weight.sum(), float)


def marginals(network: Network, p: Numbers) -> dict[str, float]:
    """P(cause) of each cause, alone or with another."""
    told = p @ network.members
    return {cause: float(value) for cause, value in zip(network.causes, told, strict=True)}


def words(model: Model, seen: Seen) -> str:
    """What was seen, in a sentence's half."""
    if seen.check.startswith(REPAIR):
        repair = seen.check.removeprefix(REPAIR)
        came_of_it = "done" if model.prepares(repair) else f"tried, {TRIED[seen.outcomes[0]]}"
        return f"{model.repairs[repair].title}: {came_of_it}"
    check = model.checks[seen.check]
    told = {**check.outcomes, NOT_POSSIBLE: PUT_ASIDE}
    names = [told[outcome] for outcome in seen.outcomes] or [next(iter(told.values()))]
    title = check.title if check.title.endswith("?") else f"{check.title}:"
    return f"{title} {', '.join(names)}"

"""Why: what speaks for and against each cause, what does not fit together, and what would change the order."""

import itertools
from collections.abc import Sequence

import numpy as np

from lens.diagnosis.evidence import EvidenceItem, Seen, likelihood, words
from lens.diagnosis.load import NOT_POSSIBLE, Model
from lens.diagnosis.network import Network, Numbers
from lens.diagnosis.worth import Ruled, check_cost, outcome_weights

NAMED_RATIO = 2.0  # from which evidence is named for or against a cause
CONFLICT, EXPLAINED = 1.9, 0.25
LIKELY_ENOUGH, MOST_CHANGERS = 0.05, 3
MOST_ODDS = 100
TELLS_APART = 0.3  # of two beliefs by a check: less settles nothing (total variation distance)


def against_and_for(
    model: Model, network: Network, evidence: Sequence[Seen]
) -> dict[str, tuple[tuple[str, ...], tuple[str, ...]]]:
    """For each cause what speaks for it and against it, strongest first, with how many times likelier it makes the evidence: P(seen |
    cause, all else seen) over P(seen | not the cause, all else seen)."""
    told: dict[str, list[tuple[float, str]]] = {cause: [] for cause in network.causes}
    own = [likelihood(model, network, seen) for seen in evidence]
    logs = [np.log(one) for one in own]
    total = np.log(network.prior) + (np.sum(logs, axis=0) if logs else 0.0)
    has = network.members.astype(float)
    for seen, chance, log in zip(evidence, own, logs, strict=True):
        rest = np.exp(total - log - (total - log).max())
        with_cause, without = ((chance * rest) @ part / np.maximum(rest @ part, 1e-300) for part in (has, 1 - has))
        for cause, ratio in zip(network.causes, with_cause / without, strict=True):
            told[cause].append((float(ratio), words(model, seen)))
    return {cause: (_listed(items, 1), _listed(items, -1)) for cause, items in told.items()}


def _listed(items: Sequence[tuple[float, str]], sign: int) -> tuple[str, ...]:
    named = [(ratio**sign, text) for ratio, text in items if ratio**sign >= NAMED_RATIO]
    return tuple(f"{text} ({_odds(ratio)})" for ratio, text in sorted(named, key=lambda one: -one[0]))


def _odds(ratio: float) -> str:
    """How strongly it speaks, to one figure: a likelihood of the shop is never known better."""
    if ratio > MOST_ODDS:
        return f"more than {MOST_ODDS} to 1"
    return f"about {ratio:.0f} to 1" if ratio < 10 else f"about {round(ratio, -1):.0f} to 1"


def outvoted(model: Model, items: Sequence[EvidenceItem]) -> tuple[str, ...]:
    """Answers that a measurement of the same check speaks against; the measurement counts."""
    out = []
    for item in items:
        measured = [one.outcome for one in items if one.check == item.check and one.source == "measured"]
        if measured and item.source != "measured" and item.outcome not in (*measured, NOT_POSSIBLE):
            told, seen = (
                words(model, Seen(item.check, outcomes, True))
                for outcomes in ((item.outcome,), tuple(dict.fromkeys(measured)))
            )
            out.append(
                f"{item.source.capitalize()}: '{told}'. Measured: '{seen}'. The measurement counts; look once more."
            )
    return tuple(out)


def contradictions(
    model: Model, network: Network, evidence: Sequence[Seen], checks: Sequence[str] = ()
) -> tuple[str, ...]:
    """Pairs of evidence that hardly go together, and what would settle it: P(a) P(b) / P(a, b) is large (conflict measure: Jensen 2001), and no two
    causes explain both about as well as each is explained by itself."""
    own = [likelihood(model, network, seen) for seen in evidence]
    out = []
    for (first, a), (second, b) in itertools.combinations(zip(evidence, own, strict=True), 2):
        together = float((a * b) @ network.prior)
        explained = float((a * b).max()) / float(a.max() * b.max())
        if float(a @ network.prior) * float(b @ network.prior) > CONFLICT * together and explained < EXPLAINED:
            settles = _settling(model, network, a * network.prior, b * network.prior, checks)
            how = f"'{model.checks[settles].title}' would settle it." if settles else "Look at both once more."
            out.append(f"'{words(model, first)}' and '{words(model, second)}' hardly go together. {how}")
    return tuple(out)


def _settling(model: Model, network: Network, one: Numbers, other: Numbers, checks: Sequence[str]) -> str | None:
    """The open check that best tells apart what each of two answers says by itself, for its cost; None where none does."""
    best, most = None, 0.0
    for check_id in checks:
        rows = outcome_weights(model, network, check_id)
        apart = 0.5 * float(np.abs(rows @ (one / one.sum()) - rows @ (other / other.sum())).sum())
        if apart >= TELLS_APART and apart / check_cost(model, check_id) > most:
            best, most = check_id, apart / check_cost(model, check_id)
    return best


def mind_changers(
    model: Model, network: Network, p: Numbers, checks: Sequence[str], ruled: Ruled | None = None
) -> tuple[str, ...]:
    """Outcomes of open checks, likely enough to be seen, after which another cause would stand first."""
    members = network.members.astype(float)
    now = network.causes[int(np.argmax(p @ members))]
    found = []
    for check_id in checks:
        check = model.checks[check_id]
        for name, row in zip(
            check.outcomes, outcome_weights(model, network, check_id, (ruled or {}).get(check_id, ())), strict=True
        ):
            share = float(row @ p)
            if share < LIKELY_ENOUGH:
                continue
            then = network.causes[int(np.argmax((row * p) @ members))]
            if then != now:
                title = check.title if check.title.endswith("?") else f"{check.title}:"
                found.append(
                    (
                        share,
                        f"{title} {check.outcomes[name]} ({100 * share:.0f} % likely): then '{model.causes[then].title}' comes first.",
                    )
                )
    return tuple(text for _, text in sorted(found, key=lambda one: -one[0])[:MOST_CHANGERS])

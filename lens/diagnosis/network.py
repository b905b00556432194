"""The network for one device type as arrays: hypotheses of no, one or two causes, and what each check shows under each of them.

Causes are independent but for the pairs that the data names; more than two at once are left out. A check's outcome under two causes is the
worse of what each of them, and chance, would show (noisy-max: Diez 1993), features show by noisy-or (Pearl 1988).
"""

from collections.abc import Mapping
from dataclasses import dataclass
from functools import cached_property, lru_cache

import numpy as np
from numpy.typing import NDArray

from lens.diagnosis.load import SOUND, Check, Model, load_model

Numbers = NDArray[np.float64]
NOTHING_WRONG, TWO_CAUSES = 0.01, 0.08  # shares of jobs (common practice); what is as built is a cause of its own


@dataclass(frozen=True, eq=False)
class Network:
    """``members`` (hypotheses, causes) bool; ``prior`` (hypotheses,) sums to 1; ``shows[check]`` (outcomes, hypotheses) P(outcome | h), for a check
    with features P(feature | h), the first row being that none shows, which the others do not imply; ``covers`` (repairs, causes) bool, what ends
    what."""

    causes: tuple[str, ...]
    repairs: tuple[str, ...]
    members: NDArray[np.bool_]
    prior: Numbers
    shows: dict[str, Numbers]
    covers: NDArray[np.bool_]

    def of(self, keep: NDArray[np.bool_]) -> "Network":
        """The same with (hypotheses,) fewer hypotheses; the shares of the prior stay as they are."""
        shows = {check: rows[:, keep] for check, rows in self.shows.items()}
        return Network(self.causes, self.repairs, self.members[keep], self.prior[keep], shows, self.covers)

    @cached_property
    def touches(self) -> Numbers:
        """(hypotheses, repairs) 1 where a repair ends one of the causes at least."""
        return np.asarray((self.members.astype(float) @ self.covers.T.astype(float) > 0).astype(float), float)

    @cached_property
    def ends(self) -> Numbers:
        """(hypotheses, repairs) 1 where a repair ends all that is there."""
        members = self.members.astype(float)
        left = members @ (~self.covers).T.astype(float)
        return np.asarray((members.sum(axis=1, keepdims=True) > 0) & (left < 0.5), np.float64)

    @cached_property
    def singles(self) -> NDArray[np.intp]:
        """(causes,) index of the hypothesis of each cause alone."""
        alone = np.flatnonzero(self.members.sum(axis=1) == 1)
        out = np.zeros(len(self.causes), np.intp)
        out[self.members[alone].argmax(axis=1)] = alone
        return out


def _pair_members(count: int) -> NDArray[np.bool_]:
    first, second = np.triu_indices(count, 1)
    members = np.zeros((1 + count + len(first), count), bool)
    members[1 : 1 + count] = np.eye(count, dtype=bool)
    pairs = np.arange(len(first)) + 1 + count
    members[pairs, first] = members[pairs, second] = True
    return members


def _prior(model: Model, device: str, members: NDArray[np.bool_], learned: Mapping[str, float] | None) -> Numbers:
    causes = list(model.causes)
    share = np.array([(learned or {}).get(cause, model.causes[cause].prior[device]) for cause in causes])
    share = share / share.sum()
    weight = np.where(members, share, 1.0).prod(axis=1)
    for one, other, times in model.together:
        weight[members[:, causes.index(one)] & members[:, causes.index(other)]] *= times
    size = members.sum(axis=1)
    for count, part in ((0, NOTHING_WRONG), (1, 1 - NOTHING_WRONG - TWO_CAUSES), (2, TWO_CAUSES)):
        weight[size == count] *= part / weight[size == count].sum()
    return np.asarray(weight / weight.sum(), float)


def _outcomes(model: Model, check_id: str, check: Check, members: NDArray[np.bool_]) -> Numbers:
    """(outcomes, hypotheses) by noisy-max."""
    sound = np.cumsum(check.likelihood[SOUND])
    ratios = np.array([np.cumsum(model.row(check_id, cause)) for cause in model.causes]) / sound  # (causes, outcomes)
    # a cause that makes an outcome rarer than on a sound device would make the others' worse ones rarer too: at most as good as sound
    log = members.astype(float) @ np.log(np.maximum(ratios, 1e-9))
    alone = members.sum(axis=1) == 1
    cumulated = np.where(alone[:, None], np.exp(log), np.minimum(np.exp(log), 1.0)) * sound
    cumulated[:, -1] = 1.0
    shares = np.maximum(np.diff(cumulated, axis=1, prepend=0.0), 1e-6)
    return np.asarray((shares / shares.sum(axis=1, keepdims=True)).T, float)


def _features(model: Model, check_id: str, check: Check, members: NDArray[np.bool_]) -> Numbers:
    """(outcomes, hypotheses): P(feature | h) by noisy-or; the first row is P(none of them | h)."""
    names = list(check.outcomes)[1:]
    base = np.array([check.features[SOUND].get(name, 0.0) for name in names])
    own = np.array([[model.feature(check_id, cause, name) for name in names] for cause in model.causes])
    silent = np.log(np.maximum(1 - own, 1e-9) / np.maximum(1 - base, 1e-9))
    quiet = np.exp(members.astype(float) @ silent) * (1 - base)
    shown = np.clip(1 - quiet, 1e-6, 1 - 1e-6)
    # that a cause shows nothing at all may be rarer than chance by chance: its own share of silence, against the product of its features'
    alone = np.array([_silence(model, check_id, cause) for cause in model.causes]) / np.clip(1 - own, 1e-6, 1).prod(
        axis=1
    )
    none = (1 - shown).prod(axis=1) * np.exp(members.astype(float) @ np.log(np.where(np.isnan(alone), 1.0, alone)))
    return np.asarray(np.concatenate([np.clip(none, 1e-6, 1 - 1e-6)[None], shown.T]), float)


def _silence(model: Model, check_id: str, cause: str) -> float:
    """P(no feature | this cause alone) where the data names it, else nan."""
    check = model.checks[check_id]
    row = next((check.features[name] for name in (cause, *model.groups_of(cause)) if name in check.features), {})
    return row.get(next(iter(check.outcomes)), np.nan)


def build_network(model: Model, device: str, learned: Mapping[str, float] | None = None) -> Network:
    """The network of a device type; ``learned`` are shares of jobs by cause that replace the data's."""
    members = _pair_members(len(model.causes))
    shows = {
        check_id: (_features if check.features else _outcomes)(model, check_id, check, members)
        for check_id, check in model.checks.items()
        if device in check.devices
    }
    covers = np.array([[repair in cause.repaired_by for cause in model.causes.values()] for repair in model.repairs])
    return Network(
        tuple(model.causes), tuple(model.repairs), members, _prior(model, device, members, learned), shows, covers
    )


@lru_cache(maxsize=16)
def _shipped(device: str, learned: tuple[tuple[str, float], ...]) -> Network:
    return build_network(load_model(), device, dict(learned))


def network_for(model: Model, device: str, learned: Mapping[str, float] | None = None) -> Network:
    """The network; kept for the shipped data, since it is asked for again and again."""
    if model is not load_model():
        return build_network(model, device, learned)
    return _shipped(device, tuple(sorted((learned or {}).items())))

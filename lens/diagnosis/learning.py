"""The shop's own base rates: what its closed jobs turned out to be, added to the shipped ones (Dirichlet counts: Gelman, Bayesian Data
Analysis, 3rd ed., 3.4)."""

from collections.abc import Mapping

from lens.diagnosis.load import Device, Model
from lens.records.base import Record

SHIPPED_WEIGHT = 60.0  # as many jobs as the shipped shares count for


class BaseRate(Record):
    """Shares of jobs of one device type: as shipped, and with the shop's closed jobs counted in."""

    cause: str
    title: str
    shipped: float
    counted: int
    now: float


def base_rates(
    model: Model, device: Device, counts: Mapping[str, int], weight: float = SHIPPED_WEIGHT
) -> tuple[BaseRate, ...]:
    """Every cause's share, the most frequent first; names that the model does not know are left out."""
    total = sum(cause.prior[device] for cause in model.causes.values())
    own = {name: counts.get(name, 0) for name in model.causes}
    whole = weight + sum(own.values())
    rates = (
        BaseRate(
            cause=name,
            title=cause.title,
            shipped=cause.prior[device] / total,
            counted=own[name],
            now=(weight * cause.prior[device] / total + own[name]) / whole,
        )
        for name, cause in model.causes.items()
    )
    return tuple(sorted(rates, key=lambda rate: -rate.now))

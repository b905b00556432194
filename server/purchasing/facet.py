"""Buying: what the offers cost, when the device is ready, what was ordered, quoted and promised."""

from server.jobs.facets import Facet
from server.purchasing.state import BuyingState, buying_state
from server.verdicts.look import JobLook


def _view(look: JobLook) -> dict[str, object]:
    return buying_state(look).model_dump()


FACET = Facet("buying", BuyingState, _view)

"""Panels, offers and how they fit."""

from decimal import Decimal

from django.http import HttpRequest
from ninja import Router, Schema

from lens.matching import Match, PanelSpec
from server.jobs.models import Job
from server.parts import actions
from server.parts.models import Offer, PanelModel

router = Router(tags=["parts"])


class PanelOut(Schema):
    id: int
    name: str
    maker: str
    spec: PanelSpec


class OfferOut(Schema):
    id: int
    panel: PanelOut
    supplier: str
    price: Decimal
    shipping: Decimal
    delivery_days: int
    warranty_months: int
    doa_days: int


class OfferMatch(Schema):
    offer: OfferOut
    match: Match


class NamePanel(Schema):
    panel_id: int


class ChooseOffer(Schema):
    offer_id: int
    consequences_told: bool = False


class MatchState(Schema):
    wanted: PanelOut | None
    chosen_offer_id: int | None
    offers: list[OfferMatch]


ORDER = {"fits": 0, "fits_with_consequences": 1, "stop": 2}


def match_state(job: Job) -> MatchState:
    offers = []
    if job.wanted_panel is not None:
        for offer in Offer.objects.select_related("panel"):
            offers.append(OfferMatch(offer=OfferOut.from_orm(offer), match=actions.match_offer(job, offer)))
        offers.sort(key=lambda m: (ORDER[m.match.result], m.offer.price))
    wanted = PanelOut.from_orm(job.wanted_panel) if job.wanted_panel else None
    return MatchState(wanted=wanted, chosen_offer_id=job.chosen_offer_id, offers=offers)


@router.get("/panels", response=list[PanelOut], operation_id="listPanels")
def list_panels(request: HttpRequest) -> list[PanelModel]:
    return list(PanelModel.objects.all())


@router.post("/jobs/{job_id}/match/panel", response=MatchState, operation_id="namePanel")
def name_panel(request: HttpRequest, job_id: int, body: NamePanel) -> MatchState:
    return match_state(actions.name_panel(request.user, job_id, body.panel_id))


@router.post("/jobs/{job_id}/match/offer", response=MatchState, operation_id="chooseOffer")
def choose_offer(request: HttpRequest, job_id: int, body: ChooseOffer) -> MatchState:
    return match_state(actions.choose_offer(request.user, job_id, body.offer_id, body.consequences_told))

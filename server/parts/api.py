"""Panels, offers and how they fit."""

from decimal import Decimal

from django.db.models import Q
from django.http import HttpRequest, HttpResponse
from ninja import Field, Router, Schema, Status

from lens.matching import DataSheetLine, Match, PanelSpec, School, Source, ValueSource, read_data_sheet
from lens.matching.panel_csv import write_panels
from server.accounts.policy import require
from server.jobs.models import Job
from server.parts import actions, codes, identity, importing, register
from server.parts.models import Offer, PanelModel

router = Router(tags=["parts"])


class PanelOut(Schema):
    id: int
    name: str
    maker: str
    spec: PanelSpec
    sources: dict[str, ValueSource]
    version: int
    retired: bool


class PanelIn(Schema):
    """``version`` is the one that was read; a new panel has none. ``filled_from`` names where values came from that were not typed."""

    name: str = Field(max_length=80)
    maker: str = Field(default="", max_length=80)
    spec: PanelSpec = PanelSpec()
    filled_from: dict[str, Source] = {}
    version: int = 0


class OfferIn(Schema):
    """``on_shelf``: so many lie in the shop; None is a supplier's offer. ``breaks``: quantity from which on, price."""

    supplier: str = Field(max_length=80)
    grade: str = Field(default="", max_length=20)
    currency: str = Field(default="EUR", pattern="^[A-Z]{3}$")
    price: Decimal = Field(ge=0, lt=1_000_000, decimal_places=2)
    breaks: list[tuple[int, Decimal]] = Field(default=[], max_length=6)
    duty_percent: Decimal = Field(default=Decimal(0), ge=0, le=100, decimal_places=2)
    comes_with: list[str] = Field(default=[], max_length=8)
    on_shelf: int | None = Field(default=None, ge=0, le=9999)
    shipping: Decimal = Field(default=Decimal(0), ge=0, lt=1_000_000, decimal_places=2)
    delivery_days: int = Field(default=0, ge=0, le=365)
    warranty_months: int = Field(default=0, ge=0, le=120)
    doa_days: int = Field(default=0, ge=0, le=365)


class OfferOut(Schema):
    id: int
    panel: PanelOut
    supplier: str
    supplier_id: int
    grade: str
    currency: str
    price: Decimal
    breaks: list[tuple[int, Decimal]]
    duty_percent: Decimal
    comes_with: list[str]
    on_shelf: int | None
    withdrawn: bool
    shipping: Decimal
    delivery_days: int
    warranty_months: int
    doa_days: int


def offer_out(offer: Offer) -> OfferOut:
    """An offer with its supplier's name."""
    plain = {name: getattr(offer, name) for name in OfferOut.model_fields if name not in ("panel", "supplier")}
    return OfferOut(panel=PanelOut.from_orm(offer.panel), supplier=offer.supplier.name, **plain)


class OfferMatch(Schema):
    offer: OfferOut
    match: Match


class NamePanel(Schema):
    panel_id: int


class LineIn(Schema):
    text: str = Field(max_length=4000)


class MergePanels(Schema):
    other_id: int


class RetirePanel(Schema):
    retired: bool


class UndoOut(Schema):
    back: int
    kept: int


class ChooseOffer(Schema):
    offer_id: int
    consequences_told: bool = False


class LikelyPanel(Schema):
    """A panel that something speaks for; ``enough`` by the house rule: closed jobs of the device agree so far that it is ordered before the label is
    seen."""

    panel: PanelOut
    p: float
    reasons: list[str]
    enough: bool


class CodeTold(Schema):
    """What the shop knows of panels whose number begins so."""

    code: str
    maker: str
    controller: str
    trouble: str


class MatchState(Schema):
    """``school`` is the house rule that the job was begun with; ``edid_tells``: what the EDID that was read says of the panel and the register does
    not, by field."""

    school: School
    device_id: int | None
    device: str
    likely: list[LikelyPanel]
    wanted: PanelOut | None
    edid_tells: dict[str, str]
    code: CodeTold | None
    chosen_offer_id: int | None
    offers: list[OfferMatch]


ORDER = {"fits": 0, "fits_with_consequences": 1, "ask": 2, "stop": 3}


def match_state(job: Job) -> MatchState:
    standing = Offer.objects.filter(Q(withdrawn=False) | Q(pk=job.chosen_offer_id or 0)).select_related(
        "panel", "supplier"
    )
    offers = [
        OfferMatch(offer=offer_out(offer), match=_told(told)) for offer, told in actions.match_offers(job, standing)
    ]
    offers.sort(key=lambda m: (ORDER[m.match.result], m.offer.price))
    wanted = PanelOut.from_orm(job.wanted_panel) if job.wanted_panel else None
    device = job.device
    likely = [
        LikelyPanel(panel=PanelOut.from_orm(panel), p=told.p, reasons=list(told.reasons), enough=enough)
        for panel, told, enough in identity.likely_panels(job)
    ]
    code = codes.code_of(job.wanted_panel.name) if job.wanted_panel else None
    return MatchState(
        school=actions.school_of(job),
        device_id=device.pk if device else None,
        device=device.title if device else "",
        likely=likely,
        wanted=wanted,
        edid_tells=identity.edid_tells(job),
        code=CodeTold.from_orm(code) if code else None,
        chosen_offer_id=job.chosen_offer_id,
        offers=offers,
    )


def _told(match: Match) -> Match:
    """What a screen needs of a comparison: of one that does not fit, what stops it."""
    return match.model_copy(update={"items": match.items[:1]}) if match.result == "stop" else match


@router.get("/panels", response=list[PanelOut], operation_id="listPanels")
def list_panels(
    request: HttpRequest, q: str = "", limit: int = register.MOST_FOUND, start: int = 0
) -> list[PanelModel]:
    """Panels of the register by name or maker; ``start``: so many of them were listed already."""
    return register.find_panels(q[:100], max(1, min(limit, 500)), max(0, start))


@router.post("/panels", response={201: PanelOut}, operation_id="addPanel")
def add_panel(request: HttpRequest, body: PanelIn) -> Status[PanelModel]:
    spec = body.spec.model_dump(mode="json")
    return Status(201, register.save_panel(request.user, None, body.name, body.maker, spec, named=body.filled_from))


@router.post("/panels/read-line", response=DataSheetLine, operation_id="readDataSheet")
def read_line(request: HttpRequest, body: LineIn) -> DataSheetLine:
    """What a pasted line of a data sheet or an offer says; nothing is stored."""
    require(request.user, "job.view")
    return read_data_sheet(body.text)


@router.get("/panels.csv", operation_id="exportPanels")
def export_panels(request: HttpRequest) -> HttpResponse:
    """The whole register as CSV; the same columns are read back."""
    panels = PanelModel.objects.filter(retired=False)
    text = write_panels((panel.name, panel.maker, PanelSpec.model_validate(panel.spec)) for panel in panels)
    headers = {"Content-Disposition": 'attachment; filename="panels.csv"'}
    return HttpResponse(text, content_type="text/csv; charset=utf-8", headers=headers)


@router.post("/imports/{run_id}/undo", response=UndoOut, operation_id="undoImport")
def undo_import(request: HttpRequest, run_id: int) -> UndoOut:
    """Take an import back; rows that somebody changed since stay."""
    back, kept = importing.undo_import(request.user, run_id)
    return UndoOut(back=back, kept=kept)


@router.patch("/panels/{panel_id}", response=PanelOut, operation_id="changePanel")
def change_panel(request: HttpRequest, panel_id: int, body: PanelIn) -> PanelModel:
    spec = body.spec.model_dump(mode="json")
    return register.save_panel(request.user, panel_id, body.name, body.maker, spec, body.version, body.filled_from)


@router.post("/panels/{panel_id}/merge", response=PanelOut, operation_id="mergePanels")
def merge_panels(request: HttpRequest, panel_id: int, body: MergePanels) -> PanelModel:
    """The other one is the same panel: its numbers, offers and jobs come here."""
    return register.merge_panels(request.user, panel_id, body.other_id)


@router.post("/panels/{panel_id}/retired", response=PanelOut, operation_id="retirePanel")
def retire_panel(request: HttpRequest, panel_id: int, body: RetirePanel) -> PanelModel:
    """Take it out of the register, or back into it."""
    return register.set_retired(request.user, panel_id, body.retired)


@router.get("/panels/{panel_id}/offers", response=list[OfferOut], operation_id="listOffers")
def list_offers(request: HttpRequest, panel_id: int) -> list[OfferOut]:
    found = Offer.objects.filter(panel_id=panel_id, withdrawn=False).select_related("panel", "supplier")
    return [offer_out(offer) for offer in found]


@router.post("/panels/{panel_id}/offers", response={201: OfferOut}, operation_id="addOffer")
def add_offer(request: HttpRequest, panel_id: int, body: OfferIn) -> Status[OfferOut]:
    return Status(201, offer_out(register.add_offer(request.user, panel_id, body.model_dump())))


@router.delete("/offers/{offer_id}", response={204: None}, operation_id="withdrawOffer")
def withdraw_offer(request: HttpRequest, offer_id: int) -> Status[None]:
    register.withdraw_offer(request.user, offer_id)
    return Status(204, None)


@router.post("/jobs/{job_id}/match/new-panel", response=MatchState, operation_id="addPanelToJob")
def add_panel_to_job(request: HttpRequest, job_id: int, body: PanelIn) -> MatchState:
    """The panel that was found in the device, into the register and onto the job in one step."""
    spec = body.spec.model_dump(mode="json")
    return match_state(register.add_to_job(request.user, job_id, body.name, body.maker, spec, body.filled_from))


@router.post("/jobs/{job_id}/match/panel", response=MatchState, operation_id="namePanel")
def name_panel(request: HttpRequest, job_id: int, body: NamePanel) -> MatchState:
    return match_state(actions.name_panel(request.user, job_id, body.panel_id))


@router.post("/jobs/{job_id}/match/learn-edid", response=MatchState, operation_id="learnEdid")
def learn_edid(request: HttpRequest, job_id: int) -> MatchState:
    """What the EDID that was read says of the panel in the device, into the register."""
    return match_state(identity.learn_edid(request.user, job_id))


@router.post("/jobs/{job_id}/match/offer", response=MatchState, operation_id="chooseOffer")
def choose_offer(request: HttpRequest, job_id: int, body: ChooseOffer) -> MatchState:
    return match_state(actions.choose_offer(request.user, job_id, body.offer_id, body.consequences_told))

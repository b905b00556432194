"""Panels, offers and how they fit."""

from decimal import Decimal

from django.db.models import Q
from django.http import HttpRequest, HttpResponse
from ninja import Field, File, Form, Router, Schema, Status
from ninja.files import UploadedFile

from lens.errors import BadInput
from lens.matching import Match, PanelSpec, School
from lens.matching.panel_csv import write_panels
from server.jobs.models import Job
from server.parts import actions, importing, register
from server.parts.devices import found_in
from server.parts.models import Offer, PanelModel

router = Router(tags=["parts"])
MOST_CSV_BYTES = 40 * 1024 * 1024


class PanelOut(Schema):
    id: int
    name: str
    maker: str
    spec: PanelSpec
    version: int


class PanelIn(Schema):
    """``version`` is the one that was read; a new panel has none."""

    name: str = Field(max_length=80)
    maker: str = Field(default="", max_length=80)
    spec: PanelSpec = PanelSpec()
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


class FaultOut(Schema):
    line: int
    text: str


class ImportOut(Schema):
    """``faults`` are the lines that were left out, ``run`` the number by which it is taken back."""

    rows: int
    new: int
    changed: int
    same: int
    faults: list[FaultOut]
    delimiter: str
    encoding: str
    applied: bool
    run: int | None


class UndoOut(Schema):
    back: int
    kept: int


class ChooseOffer(Schema):
    offer_id: int
    consequences_told: bool = False


class FromHistory(Schema):
    """What closed jobs of the same device had: the panel in ``jobs`` of ``of``; ``enough`` by the house rule to order before the label is seen."""

    panel: PanelOut
    jobs: int
    of: int
    enough: bool


class MatchState(Schema):
    """``school`` is the house rule that the job was begun with."""

    school: School
    device_id: int | None
    device: str
    history: list[FromHistory]
    wanted: PanelOut | None
    chosen_offer_id: int | None
    offers: list[OfferMatch]


ORDER = {"fits": 0, "fits_with_consequences": 1, "ask": 2, "stop": 3}


def match_state(job: Job) -> MatchState:
    standing = Offer.objects.filter(Q(withdrawn=False) | Q(pk=job.chosen_offer_id or 0)).select_related(
        "panel", "supplier"
    )
    offers = [OfferMatch(offer=offer_out(offer), match=told) for offer, told in actions.match_offers(job, standing)]
    offers.sort(key=lambda m: (ORDER[m.match.result], m.offer.price))
    wanted = PanelOut.from_orm(job.wanted_panel) if job.wanted_panel else None
    device = job.device
    history = [
        FromHistory(panel=PanelOut.from_orm(panel), jobs=jobs, of=of, enough=actions.history_is_enough(job, jobs, of))
        for panel, jobs, of in (found_in(device) if device else [])
    ]
    return MatchState(
        school=actions.school_of(job),
        device_id=device.pk if device else None,
        device=device.title if device else "",
        history=history,
        wanted=wanted,
        chosen_offer_id=job.chosen_offer_id,
        offers=offers,
    )


@router.get("/panels", response=list[PanelOut], operation_id="listPanels")
def list_panels(request: HttpRequest, q: str = "", limit: int = register.MOST_FOUND) -> list[PanelModel]:
    """Panels of the register by name or maker."""
    return register.find_panels(q[:100], max(1, min(limit, 500)))


@router.post("/panels", response={201: PanelOut}, operation_id="addPanel")
def add_panel(request: HttpRequest, body: PanelIn) -> Status[PanelModel]:
    return Status(
        201, register.save_panel(request.user, None, body.name, body.maker, body.spec.model_dump(mode="json"))
    )


@router.get("/panels.csv", operation_id="exportPanels")
def export_panels(request: HttpRequest) -> HttpResponse:
    """The whole register as CSV; the same columns are read back."""
    panels = PanelModel.objects.filter(retired=False)
    text = write_panels((panel.name, panel.maker, PanelSpec.model_validate(panel.spec)) for panel in panels)
    headers = {"Content-Disposition": 'attachment; filename="panels.csv"'}
    return HttpResponse(text, content_type="text/csv; charset=utf-8", headers=headers)


def _csv(file: UploadedFile) -> bytes:
    if (file.size or 0) > MOST_CSV_BYTES:
        raise BadInput("The file is too large. Send it in parts of at most 100,000 rows.", "csv")
    return bytes(file.read())


def _imported(told: importing.Imported) -> ImportOut:
    faults = [FaultOut(line=fault.line, text=fault.text) for fault in told.faults]
    return ImportOut(**{**told._asdict(), "faults": faults}, applied=told.run is not None)


@router.post("/panels/import", response=ImportOut, operation_id="importPanels")
def import_panels(request: HttpRequest, file: File[UploadedFile], dry: Form[bool] = True) -> ImportOut:
    """What a CSV file would add and change; without ``dry`` it does."""
    return _imported(importing.import_panels(request.user, _csv(file), dry))


@router.post("/offers/import", response=ImportOut, operation_id="importOffers")
def import_offers(request: HttpRequest, file: File[UploadedFile], dry: Form[bool] = True) -> ImportOut:
    """The same for offers of panels that the register has."""
    return _imported(importing.import_offers(request.user, _csv(file), dry))


@router.post("/imports/{run_id}/undo", response=UndoOut, operation_id="undoImport")
def undo_import(request: HttpRequest, run_id: int) -> UndoOut:
    """Take an import back; rows that somebody changed since stay."""
    back, kept = importing.undo_import(request.user, run_id)
    return UndoOut(back=back, kept=kept)


@router.patch("/panels/{panel_id}", response=PanelOut, operation_id="changePanel")
def change_panel(request: HttpRequest, panel_id: int, body: PanelIn) -> PanelModel:
    spec = body.spec.model_dump(mode="json")
    return register.save_panel(request.user, panel_id, body.name, body.maker, spec, body.version)


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
    return match_state(register.add_to_job(request.user, job_id, body.name, body.maker, spec))


@router.post("/jobs/{job_id}/match/panel", response=MatchState, operation_id="namePanel")
def name_panel(request: HttpRequest, job_id: int, body: NamePanel) -> MatchState:
    return match_state(actions.name_panel(request.user, job_id, body.panel_id))


@router.post("/jobs/{job_id}/match/offer", response=MatchState, operation_id="chooseOffer")
def choose_offer(request: HttpRequest, job_id: int, body: ChooseOffer) -> MatchState:
    return match_state(actions.choose_offer(request.user, job_id, body.offer_id, body.consequences_told))

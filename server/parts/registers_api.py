"""The registers of devices and suppliers."""

import datetime as dt
from decimal import Decimal
from typing import Literal

from django.http import HttpRequest
from django.shortcuts import get_object_or_404
from ninja import Field, Router, Schema, Status

from server.accounts.policy import require
from server.parts import codes, devices, suppliers
from server.parts.api import MatchState, PanelOut, match_state
from server.parts.models import Device, LabelCode, PanelModel, Supplier
from server.profiles.history import PastVersion, history_of

router = Router(tags=["registers"])
Kind = Literal["panel", "device", "supplier", "code"]
MOST_LISTED = 50
MOST_MAKERS = 500


class DeviceIn(Schema):
    """``names``: every designation on its labels; ``version`` is the one that was read, 0 for a new one."""

    kind: str
    maker: str = Field(default="", max_length=80)
    names: list[str] = Field(max_length=20)
    generation: str = Field(default="", max_length=40)
    diagonal_in: float | None = Field(default=None, gt=0, le=200)
    panel_width: int | None = Field(default=None, gt=0, le=16_384)
    panel_height: int | None = Field(default=None, gt=0, le=16_384)
    build: str = Field(default="", max_length=40)
    version: int = 0


class DeviceOut(DeviceIn):
    id: int
    title: str


class AlikeOut(Schema):
    device: DeviceOut
    why: str


class FoundIn(Schema):
    """A panel that closed jobs found in the device: in ``jobs`` of ``of``."""

    panel: PanelOut
    jobs: int
    of: int


class DeviceLook(Schema):
    device: DeviceOut
    alike: list[AlikeOut]
    found: list[FoundIn]


class SupplierIn(Schema):
    name: str = Field(max_length=80)
    cut_off: dt.time | None = None
    free_freight_from: Decimal | None = Field(default=None, gt=0, lt=1_000_000, decimal_places=2)
    return_cost: Decimal = Field(default=Decimal(0), ge=0, lt=1_000_000, decimal_places=2)
    terms: str = Field(default="", max_length=1000)
    version: int = 0


class SupplierOut(SupplierIn):
    id: int


class NameDevice(Schema):
    device_id: int


class Merge(Schema):
    other_id: int


@router.get("/makers", response=list[str], operation_id="listMakers")
def list_makers(request: HttpRequest) -> list[str]:
    """Makers as the shop writes them, of panels and devices, to be offered while one is typed."""
    require(request.user, "job.view")
    panels = PanelModel.objects.exclude(maker="").order_by().values_list("maker", flat=True).distinct()[:MOST_MAKERS]
    kinds = Device.objects.exclude(maker="").order_by().values_list("maker", flat=True).distinct()[:MOST_MAKERS]
    return sorted({*panels, *kinds}, key=str.lower)


@router.get("/devices", response=list[DeviceOut], operation_id="listDevices")
def list_devices(request: HttpRequest, q: str = "", limit: int = MOST_LISTED) -> list[Device]:
    """Devices of the register by any of their names."""
    return list(devices.find_devices(q[:100])[: max(1, min(limit, 500))])


@router.post("/devices", response={201: DeviceOut}, operation_id="addDevice")
def add_device(request: HttpRequest, body: DeviceIn) -> Status[Device]:
    return Status(201, devices.save_device(request.user, None, body.model_dump(exclude={"version"})))


@router.get("/devices/{device_id}", response=DeviceLook, operation_id="getDevice")
def get_device(request: HttpRequest, device_id: int) -> DeviceLook:
    """A device with those that are easily taken for it, and the panels that were found in it."""
    device = get_object_or_404(Device, pk=device_id)
    return DeviceLook(
        device=DeviceOut.from_orm(device),
        alike=[AlikeOut(device=DeviceOut.from_orm(one), why=told.why) for one, told in devices.alike_devices(device)],
        found=[
            FoundIn(panel=PanelOut.from_orm(panel), jobs=jobs, of=of) for panel, jobs, of in devices.found_in(device)
        ],
    )


@router.patch("/devices/{device_id}", response=DeviceOut, operation_id="changeDevice")
def change_device(request: HttpRequest, device_id: int, body: DeviceIn) -> Device:
    return devices.save_device(request.user, device_id, body.model_dump(exclude={"version"}), body.version)


@router.post("/devices/{device_id}/merge", response=DeviceOut, operation_id="mergeDevices")
def merge_devices(request: HttpRequest, device_id: int, body: Merge) -> Device:
    return devices.merge_devices(request.user, device_id, body.other_id)


@router.delete("/devices/{device_id}", response={204: None}, operation_id="retireDevice")
def retire_device(request: HttpRequest, device_id: int) -> Status[None]:
    devices.retire_device(request.user, device_id)
    return Status(204, None)


@router.post("/jobs/{job_id}/device", response=MatchState, operation_id="nameDevice")
def name_device(request: HttpRequest, job_id: int, body: NameDevice) -> MatchState:
    return match_state(devices.name_device(request.user, job_id, body.device_id))


class LabelCodeIn(Schema):
    """``version`` is the one that was read, 0 for a new one."""

    code: str = Field(max_length=20)
    maker: str = Field(default="", max_length=80)
    controller: str = Field(default="", max_length=80)
    trouble: str = Field(default="", max_length=300)
    version: int = 0


class LabelCodeOut(LabelCodeIn):
    id: int


class ChangeOut(Schema):
    """One field as it was and as it became, in words."""

    field: str
    before: str
    after: str


@router.get("/label-codes", response=list[LabelCodeOut], operation_id="listCodes")
def list_codes(request: HttpRequest) -> list[LabelCode]:
    """What beginnings of part numbers tell, by the shop's own table."""
    return list(LabelCode.objects.all())


@router.post("/label-codes", response={201: LabelCodeOut}, operation_id="addCode")
def add_code(request: HttpRequest, body: LabelCodeIn) -> Status[LabelCode]:
    return Status(201, codes.save_code(request.user, None, body.model_dump(exclude={"version"})))


@router.patch("/label-codes/{code_id}", response=LabelCodeOut, operation_id="changeCode")
def change_code(request: HttpRequest, code_id: int, body: LabelCodeIn) -> LabelCode:
    return codes.save_code(request.user, code_id, body.model_dump(exclude={"version"}), body.version)


@router.delete("/label-codes/{code_id}", response={204: None}, operation_id="deleteCode")
def delete_code(request: HttpRequest, code_id: int) -> Status[None]:
    codes.delete_code(request.user, code_id)
    return Status(204, None)


@router.get("/history/{kind}/{row_id}", response=list[PastVersion], operation_id="getHistory")
def get_history(request: HttpRequest, kind: Kind, row_id: int) -> list[PastVersion]:
    """What was changed of an entry of the registers, by whom and when; the latest first."""
    return history_of(f"{kind}:{row_id}")


@router.get("/suppliers", response=list[SupplierOut], operation_id="listSuppliers")
def list_suppliers(request: HttpRequest) -> list[Supplier]:
    return list(Supplier.objects.filter(retired=False))


@router.post("/suppliers", response={201: SupplierOut}, operation_id="addSupplier")
def add_supplier(request: HttpRequest, body: SupplierIn) -> Status[Supplier]:
    return Status(201, suppliers.save_supplier(request.user, None, body.model_dump(exclude={"version"})))


@router.patch("/suppliers/{supplier_id}", response=SupplierOut, operation_id="changeSupplier")
def change_supplier(request: HttpRequest, supplier_id: int, body: SupplierIn) -> Supplier:
    return suppliers.save_supplier(request.user, supplier_id, body.model_dump(exclude={"version"}), body.version)


@router.delete("/suppliers/{supplier_id}", response={204: None}, operation_id="retireSupplier")
def retire_supplier(request: HttpRequest, supplier_id: int) -> Status[None]:
    """Nothing is bought there any more; orders keep it."""
    suppliers.retire_supplier(request.user, supplier_id)
    return Status(204, None)

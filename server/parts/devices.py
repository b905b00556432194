"""The register of devices: what the shop meets, under all the names that stand on its labels, and which panels were found in it."""

from typing import Any

from django.contrib.postgres.search import TrigramWordSimilarity
from django.db import transaction
from django.db.models import Count, Q, QuerySet
from django.shortcuts import get_object_or_404

from lens.diagnosis import DEVICES
from lens.errors import BadInput
from lens.matching import LookAlike, Named, look_alikes, normal_number
from lens.tables import not_known
from server.accounts.policy import require
from server.common.edits import row_to_change
from server.jobs.actions import Person, lock_open_job
from server.jobs.models import Job
from server.jobs.record import write
from server.parts.models import Device, PanelModel
from server.profiles.actions import keep_version

MOST_NAMES, SHORTEST, MOST_COMPARED = 12, 3, 5000
FIELDS = ("kind", "maker", "names", "generation", "diagonal_in", "panel_width", "panel_height", "build")
TAKEN_OVER = ("device_type", "panel_width", "panel_height", "diagonal_in", "build")


def find_devices(q: str) -> QuerySet[Device]:
    """Devices with a name that holds every word, whatever dashes and capitals; where there is none, those that come nearest."""
    devices = Device.objects.filter(retired=False)
    found = devices
    for word in q.split()[:6]:
        found = found.filter(Q(normals__contains=normal_number(word)) | Q(maker__icontains=word))
    number = normal_number(q)
    if len(number) < SHORTEST or found.exists():
        return found
    near = devices.filter(normals__trigram_word_similar=number)
    return near.annotate(alike=TrigramWordSimilarity(number, "normals")).order_by("-alike", "normals")


def alike_devices(device: Device) -> list[tuple[Device, LookAlike]]:
    """Devices of the register that are easily taken for this one, and what tells them apart."""
    others = {one.pk: one for one in Device.objects.filter(retired=False).exclude(pk=device.pk)[:MOST_COMPARED]}
    told = look_alikes(_named(device), [_named(one) for one in others.values()])
    return [(others[one.id], one) for one in told]


def _named(device: Device) -> Named:
    return Named(device.pk or 0, device.names, device.generation, device.diagonal_in)


@transaction.atomic
def save_device(user: Person, device_id: int | None, values: dict[str, Any], version: int = 0) -> Device:
    """Add a device, or change one that was read at ``version``. Raises Conflict when it changed since, BadInput for one without a name or of no
    known kind."""
    person = require(user, "job.change")
    names = list(
        dict.fromkeys(" ".join(str(name).split())[:80] for name in values["names"] if normal_number(str(name)))
    )
    if not names:
        raise BadInput("Give at least one name as it stands on the device's label.", "device_name")
    if len(names) > MOST_NAMES:
        raise BadInput(f"A device has at most {MOST_NAMES} names.", "device_name")
    if values["kind"] not in DEVICES:
        raise not_known("kind of device", values["kind"], DEVICES, "unknown_device")
    device = row_to_change(Device, device_id, version, "this device")
    for name in FIELDS:
        setattr(device, name, names if name == "names" else values[name])
    device.version += 1
    device.save()
    keep_version(f"device:{device.pk}", device.version, {name: getattr(device, name) for name in FIELDS}, person)
    return device


@transaction.atomic
def merge_devices(user: Person, kept_id: int, other_id: int) -> Device:
    """Two entries are one device: the kept one takes over names and jobs, the other is retired."""
    require(user, "job.change")
    if kept_id == other_id:
        raise BadInput("Choose two different devices.", "merge_same")
    kept, other = (get_object_or_404(Device.objects.select_for_update(), pk=pk) for pk in (kept_id, other_id))
    names = list(dict.fromkeys([*kept.names, *other.names]))
    kept = save_device(user, kept.pk, {**{n: getattr(kept, n) for n in FIELDS}, "names": names}, kept.version)
    Job.objects.filter(device=other).update(device=kept)
    other.retired = True
    other.save(update_fields=["retired"])
    return kept


@transaction.atomic
def retire_device(user: Person, device_id: int) -> None:
    """Take a device out of the search; jobs keep it."""
    require(user, "job.change")
    Device.objects.filter(pk=device_id).update(retired=True)


@transaction.atomic
def name_device(user: Person, job_id: int, device_id: int) -> Job:
    """Say which device of the register it is. What the job does not say itself yet is taken over from it."""
    person = require(user, "job.change")
    job = lock_open_job(job_id)
    device = get_object_or_404(Device, pk=device_id)
    if job.device_id != device.pk:
        job.device = device
        job.save(update_fields=["device"])
        write(job, person.username, "device", f"Device of the register: {device.title}.", device=device.pk)
    return job


def found_in(device: Device) -> list[tuple[PanelModel, int, int]]:
    """Panels that closed jobs found in a device: panel, in how many jobs, of how many that named one. The most frequent first."""
    closed = Job.objects.filter(device=device, closed_at__isnull=False, wanted_panel__isnull=False)
    counts = closed.values("wanted_panel").annotate(jobs=Count("id")).order_by("-jobs", "wanted_panel")
    total = sum(row["jobs"] for row in counts)
    panels = PanelModel.objects.in_bulk([row["wanted_panel"] for row in counts])
    return [(panels[row["wanted_panel"]], row["jobs"], total) for row in counts]

"""The shop's own register of panels, and what suppliers offer of them: entered while working, every earlier state kept."""

from typing import Any

from django.contrib.postgres.search import TrigramSimilarity
from django.db import transaction
from django.db.models import Q
from django.shortcuts import get_object_or_404

from lens.errors import BadInput
from lens.matching import PanelSpec, normal_number
from lens.purchasing import GRADES
from lens.tables import not_known, validated
from server.accounts.policy import require
from server.common.edits import row_to_change
from server.jobs.actions import Person, lock_open_job
from server.jobs.models import Job
from server.jobs.record import write
from server.parts.models import Offer, PanelModel
from server.parts.suppliers import supplier_called
from server.profiles.actions import keep_version

MOST_FOUND, SHORTEST = 50, 4
# what may come with a panel: it changes which parts are moved over and which are ordered (common practice)
COMES_WITH = ("adhesive", "button", "brackets", "tools", "film", "frame", "battery")


def find_panels(q: str, most: int = MOST_FOUND) -> list[PanelModel]:
    """Panels whose number or maker holds every word of a question, whatever dashes and capitals; where there is none, those whose numbers come
    nearest to what was typed."""
    panels = PanelModel.objects.filter(retired=False)
    found = panels
    for word in q.split()[:6]:
        found = found.filter(Q(normal__contains=normal_number(word)) | Q(maker__icontains=word))
    number = normal_number(q)
    told = list(found[:most])
    if told or len(number) < SHORTEST:
        return told
    near = panels.filter(normal__trigram_similar=number).annotate(alike=TrigramSimilarity("normal", number))
    return list(near.order_by("-alike", "name")[:most])


@transaction.atomic
def save_panel(
    user: Person, panel_id: int | None, name: str, maker: str, spec: dict[str, Any], version: int = 0
) -> PanelModel:
    """Add a panel, or change one; ``version`` is the one it was read at. Raises Conflict when it changed since, BadInput for a name that is there
    already under other dashes or capitals."""
    person = require(user, "job.change")
    name = " ".join(name.split())
    if not normal_number(name):
        raise BadInput("Give the panel's number as its label shows it.", "panel_name")
    told = validated(PanelSpec, {**spec, "part_number": name}, "The panel", "panel_spec").model_dump(mode="json")
    same = PanelModel.objects.filter(normal=normal_number(name)).exclude(pk=panel_id or 0).first()
    if same is not None:
        raise BadInput(f"'{same.name}' is in the register already. Choose it, or change it there.", "panel_known")
    panel = row_to_change(PanelModel, panel_id, version, "this panel")
    panel.name, panel.maker, panel.spec = name, maker.strip(), told
    panel.version += 1
    panel.save()
    keep_version(f"panel:{panel.pk}", panel.version, {"name": name, "maker": panel.maker, "spec": told}, person)
    return panel


@transaction.atomic
def add_to_job(user: Person, job_id: int, name: str, maker: str, spec: dict[str, Any]) -> Job:
    """A panel that was found in a device: into the register, and named for the job, in one step."""
    person = require(user, "job.change")
    job = lock_open_job(job_id)
    known = PanelModel.objects.filter(normal=normal_number(name)).first() if normal_number(name) else None
    panel = known or save_panel(user, None, name, maker, spec)
    if job.wanted_panel_id != panel.pk:
        job.wanted_panel, job.chosen_offer = panel, None
        job.save(update_fields=["wanted_panel", "chosen_offer"])
        words = "found in the register" if known else "added to the register"
        write(job, person.username, "panel", f"Panel in the device: {panel.name}, {words}.", panel=panel.name)
    return job


@transaction.atomic
def add_offer(user: Person, panel_id: int, values: dict[str, Any]) -> Offer:
    """Add what a supplier offers of a panel, or what lies on the shop's own shelf. Raises BadInput for a price of zero, an unknown grade, or price
    breaks that are not cheaper."""
    require(user, "job.change")
    panel = get_object_or_404(PanelModel, pk=panel_id)
    if values["grade"] and values["grade"] not in GRADES:
        raise not_known("grade", values["grade"], GRADES, "unknown_grade")
    for name in values["comes_with"]:
        if name not in COMES_WITH:
            raise not_known("part that comes with it", name, COMES_WITH, "unknown_extra")
    if not values["on_shelf"] and values["price"] <= 0:
        raise BadInput("Give the price. An offer without one cannot be compared.", "no_price")
    if values["on_shelf"] == 0:
        raise BadInput("Say how many lie on the shelf.", "shelf_empty")
    last = values["price"]
    for quantity, price in values["breaks"]:
        if quantity < 2 or not 0 < price < last:
            raise BadInput(
                "Price breaks: each quantity from 2 on, each price lower than the one before.", "price_breaks"
            )
        last = price
    told = {**values, "breaks": [[quantity, str(price)] for quantity, price in values["breaks"]]}
    return Offer.objects.create(panel=panel, **{**told, "supplier": supplier_called(values["supplier"])})


@transaction.atomic
def withdraw_offer(user: Person, offer_id: int) -> None:
    """An offer holds no more; jobs that chose it keep it."""
    require(user, "job.change")
    Offer.objects.filter(pk=offer_id).update(withdrawn=True)

"""The shop's own register of panels, and what suppliers offer of them: entered while working, every earlier state kept."""

import datetime as dt
import re
from collections.abc import Mapping
from typing import Any

from django.contrib.auth.models import User
from django.contrib.postgres.search import TrigramSimilarity, TrigramWordSimilarity
from django.db import transaction
from django.shortcuts import get_object_or_404
from django.utils import timezone

from lens.errors import BadInput
from lens.matching import PanelSpec, Source, ValueSource, known, normal_number, set_by_hand, take_over
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
from server.shop.actions import zone

MOST_FOUND, SHORTEST = 50, 4
# what may come with a panel: it changes which parts are moved over and which are ordered (common practice)
COMES_WITH = ("adhesive", "button", "brackets", "tools", "film", "frame", "battery")


def find_panels(q: str, most: int = MOST_FOUND, start: int = 0) -> list[PanelModel]:
    """Panels with a number or maker that holds every word of a question, whatever dashes and capitals, '*' and '?' standing for anything and for one
    letter; where there is none, those whose numbers come nearest to what was typed. ``start``: so many were listed already."""
    panels = PanelModel.objects.filter(retired=False)
    found = panels
    for word in q.split()[:6]:
        shape = _shape_of(word)
        found = found.filter(normal__regex=shape) if shape else found.filter(found_by__contains=normal_number(word))
    number = normal_number(q)
    told = list(found[start : start + most])
    if told or start or len(number) < SHORTEST:
        return told
    near = panels.filter(normal__trigram_similar=number).annotate(alike=TrigramSimilarity("normal", number))
    told = list(near.order_by("-alike", "name")[:most])
    if told:
        return told
    inside = panels.filter(found_by__trigram_word_similar=number)
    return list(inside.annotate(alike=TrigramWordSimilarity(number, "found_by")).order_by("-alike", "name")[:most])


def _shape_of(word: str) -> str:
    """The regular expression of a word with wildcards: '*' is anything, '?' one letter or digit; empty for a word without."""
    if not any(wild in word for wild in "*?"):
        return ""
    parts = [
        re.escape(normal_number(part)) if part not in ("*", "?") else {"*": ".*", "?": "."}[part]
        for part in re.split(r"([*?])", word)
    ]
    return f"^{''.join(parts)}$"


@transaction.atomic
def save_panel(
    user: Person,
    panel_id: int | None,
    name: str,
    maker: str,
    spec: dict[str, Any],
    version: int = 0,
    named: Mapping[str, Source] | None = None,
) -> PanelModel:
    """Add a panel, or change one; ``version`` is the one it was read at, ``named`` tells of values that were not typed where they came from. Raises
    Conflict when it changed since, BadInput for a number that another panel has, under whatever dashes and capitals."""
    person = require(user, "job.change")
    name = " ".join(name.split())
    if not normal_number(name):
        raise BadInput("Give the panel's number as its label shows it.", "panel_name")
    told = validated(PanelSpec, {**spec, "part_number": name}, "The panel", "panel_spec")
    same = PanelModel.objects.filter(normal=normal_number(name)).exclude(pk=panel_id or 0).first()
    if same is not None:
        back = " It was taken out of the register: take it back first." if same.retired else ""
        raise BadInput(f"'{same.name}' is in the register already. Choose it, or change it there.{back}", "panel_known")
    panel = row_to_change(PanelModel, panel_id, version, "this panel")
    sources = set_by_hand(PanelSpec.model_validate(panel.spec or {}), panel.value_sources, told, named or {}, today())
    panel.name, panel.maker, panel.spec = name, maker.strip(), told.model_dump(mode="json")
    panel.sources = plain_sources(sources)
    return _stored(panel, person)


def _stored(panel: PanelModel, person: User) -> PanelModel:
    """The next version of a panel, kept beside those before it."""
    panel.version += 1
    panel.save()
    keep_version(f"panel:{panel.pk}", panel.version, content_of(panel), person)
    return panel


def content_of(panel: PanelModel) -> dict[str, Any]:
    """What is kept of a version."""
    told = {"name": panel.name, "maker": panel.maker, "spec": panel.spec, "sources": panel.sources}
    return told | ({"retired": True} if panel.retired else {})


def plain_sources(sources: Mapping[str, ValueSource]) -> dict[str, Any]:
    return {name: told.model_dump(mode="json") for name, told in sources.items()}


@transaction.atomic
def learn(user: Person, panel_id: int, told: PanelSpec, source: Source) -> list[str]:
    """What an EDID, a label or a photo tells of a panel, into the register; the fields that changed. A stronger value stays."""
    person = require(user, "job.change")
    panel = get_object_or_404(PanelModel.objects.select_for_update(), pk=panel_id)
    taken = take_over(panel.specification, panel.value_sources, told, source, today())
    before, after = panel.specification.model_dump(), taken.spec.model_dump()
    changed = [name for name, value in after.items() if value != before[name]]
    if changed or plain_sources(taken.sources) != panel.sources:
        panel.spec, panel.sources = taken.spec.model_dump(mode="json"), plain_sources(taken.sources)
        _stored(panel, person)
    return changed


@transaction.atomic
def merge_panels(user: Person, kept_id: int, other_id: int) -> PanelModel:
    """Two entries are one panel: the kept one takes over the other's numbers, what it did not know itself, offers and jobs; the other goes."""
    person = require(user, "job.change")
    if kept_id == other_id:
        raise BadInput("Choose two different panels.", "merge_same")
    kept, other = (get_object_or_404(PanelModel.objects.select_for_update(), pk=pk) for pk in (kept_id, other_id))
    mine, its = kept.specification, other.specification
    known_here = {name: value for name, value in its.model_dump().items() if not known(getattr(mine, name))}
    numbers = {normal_number(n): n for n in (*mine.other_numbers, other.name, *its.other_numbers)}
    numbers.pop(normal_number(kept.name), None)
    spec = mine.model_copy(
        update={**known_here, "other_numbers": tuple(numbers.values())[:12], "part_number": kept.name}
    )
    kept.sources = {**{n: s for n, s in other.sources.items() if n in known_here}, **kept.sources}
    kept.spec, kept.maker = spec.model_dump(mode="json"), kept.maker or other.maker
    _stored(kept, person)
    Offer.objects.filter(panel=other).update(panel=kept)
    Job.objects.filter(wanted_panel=other).update(wanted_panel=kept)
    other.retired = True
    _stored(other, person)
    return kept


@transaction.atomic
def set_retired(user: Person, panel_id: int, retired: bool) -> PanelModel:
    """Take a panel out of the register's search, or back into it; jobs and orders keep it."""
    person = require(user, "job.change")
    panel = get_object_or_404(PanelModel.objects.select_for_update(), pk=panel_id)
    if panel.retired != retired:
        panel.retired = retired
        _stored(panel, person)
    return panel


def today() -> dt.date:
    """The shop's day."""
    return timezone.now().astimezone(zone()).date()


@transaction.atomic
def add_to_job(
    user: Person, job_id: int, name: str, maker: str, spec: dict[str, Any], named: Mapping[str, Source] | None = None
) -> Job:
    """A panel that was found in a device: into the register, and named for the job, in one step."""
    person = require(user, "job.change")
    job = lock_open_job(job_id)
    there = PanelModel.objects.filter(normal=normal_number(name)).first() if normal_number(name) else None
    panel = there or save_panel(user, None, name, maker, spec, named=named)
    if job.wanted_panel_id != panel.pk:
        job.wanted_panel, job.chosen_offer = panel, None
        job.save(update_fields=["wanted_panel", "chosen_offer"])
        words = "found in the register" if there else "added to the register"
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

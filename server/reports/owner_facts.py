"""What the owner's page says of a job, gathered from what is on record."""

import base64
import ipaddress
from typing import Any, NamedTuple
from urllib.parse import urlsplit

from django.template.loader import render_to_string
from django.utils import timezone

from lens.fitting import StepNotes
from lens.records import STAGES, Inspection
from lens.reporting import OwnerFacts, SeenFault, owner_page, owner_texts
from lens.reporting.owner import written_date
from server.common.dates import months_later
from server.fitting.actions import clocks_of, rows_of
from server.fitting.following import procedure_of
from server.fitting.state import notes_of
from server.handchecks.actions import eye_verdict_at, function_answers
from server.inspections import storage
from server.jobs.models import Job
from server.proving.verdict import functions_of, verdict_of
from server.reports.letterhead import LOGO_STYLE, letterhead_lines
from server.reports.pane import pane_svg
from server.shop.actions import the_shop, zone
from server.shop.logo import logo_address
from server.verdicts import seen_of, touch_wanted
from server.verdicts.look import JobLook

PHOTO_PX = 640
SHOWN = ("white", "grey50")  # of a stage, the photo that an owner understands
FINAL = ("recheck", "closed")


class Picture(NamedTuple):
    """``svg`` is made here from numbers; ``photo`` a data address, empty where there is none."""

    title: str
    svg: str
    photo: str


def _faults(result: Inspection | None) -> tuple[SeenFault, ...] | None:
    if result is None:
        return None
    return tuple(
        SeenFault(kind=one.kind, x=one.x / result.panel.width, y=one.y / result.panel.height)
        for one in result.findings
        if one.counts and one.kind != "cluster"
    )


def owner_facts(look: JobLook) -> OwnerFacts:
    job, verdict = look.job, verdict_of(look)
    seen = seen_of(job)
    after = next((look.results[stage] for stage in FINAL if stage in look.results), None)
    part = {one.part: one.result for one in verdict.parts}
    procedure = procedure_of(job)
    rows = rows_of(job) if procedure else []
    known = procedure.graph.by_id if procedure else {}
    done = [row for row in rows if row.gate in known]
    clocks = clocks_of(procedure, rows, timezone.now()) if procedure else ()
    cures = [one.ends for one in clocks if one.clock.blocks == "hand_over" and one.left_s > 0]
    wanted = touch_wanted(job, seen)
    offer = job.chosen_offer
    day = timezone.localtime(job.closed_at or timezone.now(), zone()).date()
    shop = the_shop()
    answers: dict[str, str] = {one.function: one.outcome for one in function_answers(job)}
    functions = {one.id: answers.get(one.id, "not_tested") for one in functions_of(job)}
    notes = notes_of(job)
    return OwnerFacts(
        complaint=job.complaint,
        before=_faults(look.results.get("inspect")),
        touch_before=seen["inspect"].touch if "inspect" in seen else None,
        said_touch_dead=any(
            a.check_id == "first_look" and a.outcome == "touch" and not a.withdrawn for a in look.answers
        ),
        causes=tuple(job.true_causes),
        panel=offer.panel.name if offer and done else "",
        grade=offer.grade if offer else "",
        by_us=tuple(one.text for one in notes if one.text and one.was_so is False),
        found_on_way=tuple(one.text for one in notes if one.text and one.was_so),
        result=verdict.result,
        after=_faults(after),
        picture=part.get("picture"),
        picture_by_eye=eye_verdict_at(job, "closed", wanted) == "seen",
        touch=part.get("touch"),
        touch_wanted=wanted,
        functions=functions | {name: how for name, how in answers.items() if name not in functions},
        cures_until=timezone.localtime(max(cures), zone()) if cures else None,
        film_left=any(row.gate == "film" and row.choice == "left_on" for row in done),
        controller_moved=any(row.gate == "sub_set_chip" for row in done),
        opened=any("isolated" in known[row.gate].requires for row in done),
        device_type=job.device_type,
        part_until=months_later(day, offer.warranty_months) if offer and done and offer.warranty_months else None,
        work_until=months_later(day, shop.warranty_months) if done and shop.warranty_months else None,
        note=job.hand_over_note,
    )


def used_adhesive(job: Job) -> bool:
    """Whether adhesive was laid in this repair."""
    return any(StepNotes.model_validate(row.details).adhesive is not None for row in rows_of(job))


def _photo(job: Job, stage: str) -> str:
    """The photo of a stage that an owner understands, inside the page; empty where there is none in the store."""
    taken = [photo for run in job.runs.all() if run.stage == stage for photo in run.photos.all() if not photo.removed]
    named = {(photo.report or {}).get("pattern") or "": photo for photo in reversed(taken)}
    shown = next((named[name] for name in SHOWN if name in named), None)
    if shown is None:
        return ""
    try:
        data = storage.reduced(shown.sha256, PHOTO_PX)[0]
    except FileNotFoundError:
        return ""
    return f"data:image/jpeg;base64,{base64.b64encode(data).decode()}"


def owner_context(look: JobLook, language: str) -> dict[str, Any]:
    """What the page's template needs. Raises BadInput for a language that is not there."""
    job, shop = look.job, the_shop()
    page = owner_page(owner_facts(look), language)
    text = owner_texts()[language]
    day = timezone.localtime(job.closed_at, zone()).date() if job.closed_at else None
    final = next((stage for stage in FINAL if stage in look.results), None)
    pictures = [
        Picture(
            STAGES[stage].title if language == "en" else text.headings["wrong" if stage == "inspect" else "checked"],
            pane_svg(job.title, look.results[stage], job.panel_width, job.panel_height),
            _photo(job, stage),
        )
        for stage in ("inspect", final)
        if stage is not None and stage in look.results
    ]
    return {
        "page": page,
        "device": job.title,
        "number": f"#{job.pk}",
        "owner": job.owner,
        "day": written_date(day, text) if day else "",
        "letterhead": letterhead_lines(),
        "logo": logo_address(),
        "pictures": pictures,
        "style": owner_style(shop.paper, screen=True),
    }


def owner_style(paper: str, screen: bool = False) -> str:
    """``screen``: it is read on a phone too, where two columns are too many."""
    narrow = "@media (max-width: 560px) { .columns { columns: 1 } }" if screen else ""
    return render_to_string("reports/owner.css").replace("PAPER_SIZE", paper) + LOGO_STYLE + narrow


def owner_html(look: JobLook, language: str) -> str:
    """The owner's page as one file that needs nothing else."""
    return render_to_string("reports/owner.html", owner_context(look, language))


def owner_body(look: JobLook, language: str) -> str:
    """The same as the first page of a report."""
    return render_to_string("reports/owner_body.html", owner_context(look, language))


def is_local(url: str) -> bool:
    """Whether an address is only reached inside the shop: of this machine, a private network, or a name without a public ending."""
    host = urlsplit(url).hostname or ""
    try:
        return ipaddress.ip_address(host).is_private
    except ValueError:
        return "." not in host or host.endswith((".local", ".lan", ".internal", ".home.arpa"))

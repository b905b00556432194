"""A claim to a supplier: what fails on the panel that came, measured before any liner came off, in one ZIP with a signed list of its files."""

import datetime as dt
import json
from html import escape
from typing import Any

from django.conf import settings
from django.utils import timezone

from lens.errors import BadInput
from lens.fitting import StepNotes
from lens.records import STAGES
from lens.reporting import findings_csv, packed, sign_pdf
from server.fitting.actions import rows_of
from server.fitting.following import procedure_of
from server.incoming.facet import incoming_of
from server.inspections import storage
from server.inspections.conditions import words_of
from server.proving.verdict import verdict_of
from server.purchasing.models import OrderLine
from server.reports.content import sealed
from server.reports.expert_parts import PAPER, STYLE, criteria_part, touch_part
from server.reports.letterhead import LOGO_STYLE, letterhead_html
from server.reports.pane import pane_svg
from server.reports.pdf import as_pdf, report_json_bytes
from server.shop.actions import the_shop, zone
from server.verdicts import conditions_of, verdicts_by_stage
from server.verdicts.look import JobLook


def stage_of(look: JobLook) -> str:
    """Where the new panel was looked at: by itself as it came, or at the dry fit of the device that it is for."""
    return "inspect" if look.job.subject == "panel" else "dry_fit"


def claim_facts(look: JobLook) -> dict[str, Any]:
    """What the claim says. Raises BadInput where nothing was chosen, or nothing was looked at on the new panel."""
    job = look.job
    offer = job.chosen_offer
    if offer is None:
        raise BadInput("A claim needs the offer that was bought: choose it at Match.", "no_offer")
    told = verdict_of(look) if job.subject == "panel" else verdicts_by_stage(job).get(stage_of(look))
    if told is None or not told.parts:
        raise BadInput("A claim stands on what was measured: photograph the new panel first.", "nothing_measured")
    incoming = incoming_of(job)
    line = incoming.line if incoming else OrderLine.objects.filter(job=job, offer=offer).select_related("order").last()
    order = line.order if line else None
    arrived = order.arrived_on if order else None
    until = arrived + dt.timedelta(days=offer.doa_days) if arrived and offer.doa_days else None
    return {
        "supplier": offer.supplier.name,
        "panel": offer.panel.name,
        "grade": offer.grade,
        "order": order.pk if order else None,
        "arrived_on": arrived.isoformat() if arrived else None,
        "claim_until": until.isoformat() if until else None,
        "result": told.result,
        "findings": [one.text for one in told.parts],
        "liners_off": liners_off(look),
    }


def liners_off(look: JobLook) -> list[str]:
    """Liners that came off already and end the right of return, by their titles."""
    incoming = incoming_of(look.job)
    if incoming is not None:
        return [] if incoming.liners_whole else ["some before it was measured"]
    procedure = procedure_of(look.job)
    if procedure is None:
        return []
    off = {
        name
        for row in rows_of(look.job)
        for name, state in StepNotes.model_validate(row.details).liners.items()
        if state == "off"
    }
    return [liner.title for name, liner in procedure.liners.items() if name in off and liner.ends_return]


def claim_html(look: JobLook, facts: dict[str, Any]) -> str:
    """The page that goes to the supplier."""
    job, shop = look.job, the_shop()
    result = look.results.get(stage_of(look))
    rows = [
        ("Supplier", facts["supplier"]),
        ("Panel", f"{facts['panel']} {facts['grade'].replace('_', ' ')}".strip()),
        ("Our order", str(facts["order"] or "not on record")),
        ("Arrived", facts["arrived_on"] or "not on record"),
        ("Claim until", facts["claim_until"] or "see your terms"),
        ("Our job", str(job.pk)),
    ]
    told = conditions_of(job).get(stage_of(look))
    conditions = ", ".join(words_of(told)) if told else ""
    liners = facts["liners_off"]
    state = (
        f"These liners are off already: {', '.join(liners).lower()}."
        if liners
        else "Measured before any liner came off; every liner and tab is on the panel."
    )
    parts = [
        letterhead_html(),
        f"<h1>Claim: {escape(facts['panel'])}</h1>",
        "<table>" + "".join(f"<tr><th>{a}</th><td>{escape(b)}</td></tr>" for a, b in rows) + "</table>",
        f"<h2>What was found</h2><p>{escape(' '.join(facts['findings']))}</p><p>{escape(state)}</p>",
        f"<p class=small>{escape(conditions)}</p>" if conditions else "",
        f'<div class="panes"><figure>{pane_svg(STAGES[stage_of(look)].title, result, job.panel_width, job.panel_height)}</figure></div>'
        if result
        else "",
        touch_part(job, {stage: one for stage, one in look.touched.items() if stage == stage_of(look)}),
        criteria_part(stage_of(look), result) if result else "",
        f"<p class=small>Made {timezone.localtime(timezone.now(), zone()):%Y-%m-%d %H:%M}. Photos and the signed record are in the same file.</p>",
    ]
    style = f"<style>{STYLE.replace(PAPER, shop.paper)}{LOGO_STYLE}</style>"
    return f"<!doctype html><html lang=en><meta charset=utf-8><title>Claim</title>{style}<body>{''.join(parts)}</body></html>"


def claim_package(look: JobLook) -> tuple[bytes, str]:
    """The ZIP, and the hash that its record is closed with."""
    facts, seal = claim_facts(look), sealed(look)
    closing = str(seal["head"]["closing_hash"])
    report = report_json_bytes(seal)
    files = {
        "1-claim.pdf": sign_pdf(as_pdf(claim_html(look, facts), report), settings.PDF_KEY),
        "report.json": report,
        "claim.json": json.dumps(facts, indent=1, ensure_ascii=False).encode(),
    }
    stage = stage_of(look)
    if stage in look.results:
        files["findings.csv"] = findings_csv(look.results[stage].findings, {"job": str(look.job.pk)}).encode()
    for photo in seal["photos"]:
        if photo["file"] and photo["stage"] in (stage, "bench"):
            files[photo["file"]] = storage.load(photo["sha256"])
    return packed(files, closing, settings.SHOP_KEY), closing

"""Parts of the expert pages of a report, as HTML: everything escaped, everything inline."""

import base64
from html import escape
from typing import Any

import segno
from django.utils import timezone

from lens.errors import BadInput
from lens.fitting import StepNotes, inspection_of, notes_words
from lens.records import KINDS, STAGES, Finding, Inspection, StageConditions
from lens.reporting import fingerprint
from lens.touch import TouchResult
from server.fitting.following import procedure_of
from server.fitting.state import notes_of
from server.handchecks.actions import FUNCTION, OUTCOME_WORDS
from server.inspections import storage
from server.inspections.conditions import words_of
from server.jobs.models import Job
from server.proving.verdict import functions_of
from server.purchasing.models import OrderLine
from server.reports.pane import pane_svg, touch_svg
from server.shop.actions import zone
from server.verdicts.look import JobLook

WORDS = {"pass": "Pass", "fail": "Fail", "not_proven": "Not proven"}
PAPER = "PAPER_SIZE"
STYLE = """
@page { size: PAPER_SIZE; margin: 18mm 16mm 20mm; @bottom-right { content: counter(page) " / " counter(pages); font-size: 8pt; color: #555 } }
body { font: 9.5pt/1.4 "DejaVu Sans", sans-serif; color: #111; overflow-wrap: anywhere }
h1 { font-size: 17pt; margin: 0 0 2mm } h2 { font-size: 11.5pt; margin: 6mm 0 2mm; border-bottom: 0.5pt solid #999 }
.verdict { font-size: 14pt; font-weight: bold } .panes { display: flex; gap: 6mm } .panes figure { margin: 0; width: 48% }
svg { width: 100%; height: auto } figcaption { font-size: 8.5pt; color: #333 } table { width: 100%; border-collapse: collapse; font-size: 8.5pt }
td, th { text-align: left; vertical-align: top; padding: 1mm 2mm 1mm 0; border-bottom: 0.3pt solid #ccc }
.word { white-space: nowrap; width: 20mm } .small { font-size: 8.5pt; color: #333 } p > img { width: 32%; margin-right: 1% }
.findings td:nth-child(2), .findings td:nth-child(3), .findings th { white-space: nowrap } .findings td:first-child { width: 24mm }
.turn { page-break-after: always } .photos { display: flex; flex-wrap: wrap; gap: 3mm } .photos figure { margin: 0; width: 41mm }
.photos img { width: 100% } .seal { display: flex; gap: 4mm; align-items: center; break-inside: avoid } .seal svg { width: 26mm; flex: none }
"""
MAX_LISTED = 60
MAX_PHOTOS, PHOTO_PX = 6, 700
MAX_PAGE_PHOTOS, PAGE_PHOTO_PX = 24, 420


def rows_part(pairs: list[tuple[str, str]]) -> str:
    return "".join(f"<tr><th>{escape(a)}</th><td>{escape(b)}</td></tr>" for a, b in pairs if b)


def figures_part(job: Job, results: dict[str, Inspection]) -> str:
    figures = []
    for stage in ("inspect", "dry_fit", "closed"):
        result = results.get(stage)
        if stage == "dry_fit" and result is None:
            continue
        word = WORDS[result.verdict.result] if result else "no photo"
        title = f"{STAGES[stage].title}: {word}"
        figures.append(
            f"<figure>{pane_svg(title, result, job.panel_width, job.panel_height)}<figcaption>{escape(title)}</figcaption></figure>"
        )
    return f'<div class="panes">{"".join(figures)}</div>'


def received_part(job: Job) -> str:
    """The first photos of the device as it came in, inside the document."""
    shown = [
        photo for run in job.runs.all() if run.stage == "received" for photo in run.photos.all() if not photo.removed
    ][:MAX_PHOTOS]
    if not shown:
        return ""
    pictures = [
        base64.b64encode(storage.reduced(photo.sha256, PHOTO_PX)[0]).decode()
        for photo in shown
        if storage.there(photo.sha256)
    ]
    return (
        "<h2>As received</h2><p>"
        + "".join(f'<img alt="" src="data:image/jpeg;base64,{data}">' for data in pictures)
        + "</p>"
    )


def photo_page_part(job: Job) -> str:
    """What was photographed at each stage, small; one that is not in the store any more is said so."""
    shown: list[str] = []
    gone = 0
    for run in job.runs.all():
        if run.stage == "received":
            continue
        for photo in run.photos.all():
            if photo.removed or len(shown) >= MAX_PAGE_PHOTOS:
                continue
            try:
                data = base64.b64encode(storage.reduced(photo.sha256, PAGE_PHOTO_PX)[0]).decode()
            except (FileNotFoundError, BadInput):
                gone += 1
                continue
            pattern = (photo.report or {}).get("pattern") or ""
            title = escape(f"{STAGES[run.stage].title}{', ' if pattern else ''}{pattern}")
            shown.append(
                f'<figure><img alt="" src="data:image/jpeg;base64,{data}"><figcaption>{title}</figcaption></figure>'
            )
    missing = f"<p class=small>{gone} photos are not in the store any more.</p>" if gone else ""
    return f"<h2>Photos</h2><div class=photos>{''.join(shown)}</div>{missing}" if shown or gone else ""


def _decided(finding: Finding) -> str:
    """What a person decided about a finding."""
    told = finding.decision
    if told is None:
        return ""
    was = f", measured as {KINDS[told.measured_kind].title}" if told.verdict == "corrected" else ""
    return f" <b>{told.verdict.capitalize()} by {escape(told.by)}{was}{': ' + escape(told.reason) if told.reason else ''}.</b>"


def criteria_part(stage: str, result: Inspection) -> str:
    rows = "".join(
        f"<tr><td class=word>{WORDS[c.result]}</td><td>{escape(c.text)}</td></tr>" for c in result.verdict.criteria
    )
    findings = "".join(
        f"<tr><td>{escape(KINDS[f.kind].title)} {escape(f.channel or '')}</td><td>{f.x:.0f}, {f.y:.0f}</td><td>{f.confidence:.2f}</td>"
        f"<td>{escape(' '.join(f.reasons))}{_decided(f)}</td></tr>"
        for f in result.findings[:MAX_LISTED]
    )
    more = (
        f"<p class=small>and {len(result.findings) - MAX_LISTED} more, in the CSV.</p>"
        if len(result.findings) > MAX_LISTED
        else ""
    )
    greys, reference = result.greys, result.reference
    tones = (
        (
            f"<p class=small>Gamma {greys.gamma:.2f} ± {greys.uncertainty:.2f}; greys stray from white by at most {greys.max_delta_uv:.4f} ± "
            f"{greys.delta_uv_uncertainty:.4f} in u'v'.</p>"
        )
        if greys
        else ""
    )
    tones += f"<p class=small>{escape(reference.text)}</p>" if reference else ""
    tones += f"<p class=small>{escape(' '.join(result.brightness.reasons))}</p>" if result.brightness else ""
    table = (
        f"<table class=findings><tr><th>Finding</th><th>x, y (px)</th><th>Conf.</th><th>Why</th></tr>{findings}</table>{more}"
        if findings
        else ""
    )
    return (
        f"<h2>{escape(STAGES[stage].title)}: {WORDS[result.verdict.result]}</h2><table>{rows}</table>"
        f"<p class=small>{escape(result.smallest_proven)}</p>{tones}{table}"
    )


def touch_part(job: Job, touched: dict[str, TouchResult]) -> str:
    """Each stage whose touch was recorded: the panel with what does not answer, and the reasons."""
    parts = []
    for stage, result in touched.items():
        title = f"{STAGES[stage].title}: {WORDS[result.verdict]}"
        reasons = "".join(f"<li>{escape(line)}</li>" for line in result.reasons)
        parts.append(
            f"<figure>{touch_svg(title, result, job.panel_width, job.panel_height)}<figcaption>{escape(title)}<ul>{reasons}</ul>"
            "</figcaption></figure>"
        )
    return f'<h2>Touch</h2><div class="panes">{"".join(parts)}</div>' if parts else ""


def fitted_part(job: Job) -> str:
    """What was done at the device, in the order in which it was done; what was taken back is left out."""
    procedure = procedure_of(job)
    known = procedure.graph.by_id if procedure else {}
    told = []
    for row in job.gates.all():
        if row.taken_back or row.gate not in known:
            continue
        step = known[row.gate]
        words = [step.choices.get(row.choice, "done")]
        words += [f"{count} {group.replace('_', ' ')} screws" for group, count in row.counts.items()]
        words += notes_words(StepNotes.model_validate(row.details))
        if row.reason:
            words.append(f"not proven: {row.reason}" if inspection_of(step) else row.reason)
        when = f"{row.by.username}, {timezone.localtime(row.at, zone()):%Y-%m-%d %H:%M}"
        told.append(f"<tr><td>{escape(step.title)}</td><td>{escape('; '.join(words))}</td><td>{escape(when)}</td></tr>")
    for note in notes_of(job):
        if note.text:
            whose = "Found on the way" if note.was_so else "Done by us"
            when = f"{note.by}, {timezone.localtime(note.at, zone()):%Y-%m-%d %H:%M}"
            told.append(f"<tr><td>{whose}</td><td>{escape(note.text)}</td><td>{escape(when)}</td></tr>")
    return "".join(told)


def functions_part(look: JobLook) -> str:
    """How each function that was touched was found, and by whom."""
    last = {one.name: one for one in look.job.handchecks.all() if one.what == FUNCTION}
    rows = []
    for asked in functions_of(look.job):
        one = last.get(asked.id)
        words = OUTCOME_WORDS[one.outcome] if one else "not tested"
        tail = f" ({one.note})" if one and one.note else ""
        who = f"{one.by.username}, {timezone.localtime(one.at, zone()):%Y-%m-%d %H:%M}, {one.grade}" if one else ""
        rows.append(
            f"<tr><td>{escape(asked.title)}</td><td>{escape(words + tail)}</td><td>{escape(asked.because)}</td><td>{escape(who)}</td></tr>"
        )
    return f"<h2>Functions that were touched</h2><table>{''.join(rows)}</table>" if rows else ""


def conditions_part(job: Job) -> str:
    told = [
        f"{STAGES[run.stage].title}: {', '.join(words_of(StageConditions.model_validate(run.conditions)))}."
        for run in job.runs.all()
        if run.conditions
    ]
    return f"<p class=small>{escape(' '.join(told))}</p>" if told else ""


def seal_part(seal: dict[str, Any]) -> str:
    """What holds the printed page to its file: the closing hash, as text and to be scanned, and both keys."""
    closing = seal["head"]["closing_hash"]
    qr = segno.make(closing, micro=False, error="m").svg_inline(scale=2, border=2)
    earlier = f" It replaces the report with {seal['replaces']}." if seal.get("replaces") else ""
    return (
        f"<div class=seal>{qr}<p class=small>This report closes a record of {seal['head']['entries']} entries with {closing}, signed by the shop's "
        f"key {fingerprint(seal['signature']['key'])}; this PDF by {escape(seal['pdf_signer'])}. The JSON report is attached to the PDF; "
        f"both can be checked without the shop.{earlier}</p></div>"
    )


def panel_line_part(job: Job, fitted: str) -> tuple[str, str]:
    """The panel that was fitted, or was only chosen."""
    offer = job.chosen_offer
    if offer is None:
        return "Fitted", ""
    grade = offer.grade.replace("_", " ") or "grade not known"
    words = f"{offer.panel.name} from {offer.supplier.name}, {grade}, {offer.warranty_months} months warranty"
    if job.panel_serial:
        words += f", serial number {job.panel_serial}"
    line = OrderLine.objects.filter(job=job, offer=offer).select_related("order").last()
    if line is not None:
        words += f", our order {line.order_id}" + (f" of {line.order.ordered_on}" if line.order.ordered_on else "")
    return "Fitted" if fitted else "Chosen, not fitted", words

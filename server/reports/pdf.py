"""The printable report."""

import base64
from html import escape

from django.utils import timezone

from lens.fitting import StepNotes, inspection_of, notes_words
from lens.progress.stations import SUREST
from lens.records import KINDS, STAGES, START_CONSENTS, Finding, Inspection
from lens.reporting import fingerprint
from lens.touch import TouchResult
from server.fitting.following import procedure_of
from server.fitting.state import notes_of
from server.inspections import storage
from server.jobs.models import Job
from server.profiles.actions import find_profile
from server.proving.verdict import verdict_of
from server.reports.content import CAUTIONS, look_at, sealed, unproven
from server.reports.pane import pane_svg, touch_svg
from server.shop.actions import the_shop, zone

WORDS = {"pass": "Pass", "fail": "Fail", "not_proven": "Not proven"}
PAPER = "PAPER_SIZE"
STYLE = """
@page { size: PAPER_SIZE; margin: 18mm 16mm 20mm; @bottom-right { content: counter(page) " / " counter(pages); font-size: 8pt; color: #555 } }
body { font: 9.5pt/1.4 "DejaVu Sans", sans-serif; color: #111; overflow-wrap: anywhere }
h1 { font-size: 17pt; margin: 0 0 2mm } h2 { font-size: 11.5pt; margin: 6mm 0 2mm; border-bottom: 0.5pt solid #999 }
.verdict { font-size: 14pt; font-weight: bold } .panes { display: flex; gap: 6mm } .panes figure { margin: 0; width: 48% }
svg { width: 100% } figcaption { font-size: 8.5pt; color: #333 } table { width: 100%; border-collapse: collapse; font-size: 8.5pt }
td, th { text-align: left; vertical-align: top; padding: 1mm 2mm 1mm 0; border-bottom: 0.3pt solid #ccc }
.word { white-space: nowrap; width: 20mm } .small { font-size: 8.5pt; color: #333 } img { width: 32%; margin-right: 1% }
"""
MAX_LISTED = 60
MAX_PHOTOS, PHOTO_PX = 6, 700


def _rows(pairs: list[tuple[str, str]]) -> str:
    return "".join(f"<tr><th>{escape(a)}</th><td>{escape(b)}</td></tr>" for a, b in pairs if b)


def _figures(job: Job, results: dict[str, Inspection]) -> str:
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


def _received(job: Job) -> str:
    """The first photos of the device as it came in, inside the document."""
    shown = [
        photo for run in job.runs.all() if run.stage == "received" for photo in run.photos.all() if not photo.removed
    ][:MAX_PHOTOS]
    if not shown:
        return ""
    pictures = [base64.b64encode(storage.reduced(photo.sha256, PHOTO_PX)[0]).decode() for photo in shown]
    return (
        "<h2>As received</h2><p>"
        + "".join(f'<img alt="" src="data:image/jpeg;base64,{data}">' for data in pictures)
        + "</p>"
    )


def _decided(finding: Finding) -> str:
    """What a person decided about a finding."""
    told = finding.decision
    if told is None:
        return ""
    was = f", measured as {KINDS[told.measured_kind].title}" if told.verdict == "corrected" else ""
    return f" <b>{told.verdict.capitalize()} by {escape(told.by)}{was}{': ' + escape(told.reason) if told.reason else ''}.</b>"


def _criteria(stage: str, result: Inspection) -> str:
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
        f"<table><tr><th>Finding</th><th>x, y (px)</th><th>Conf.</th><th>Why</th></tr>{findings}</table>{more}"
        if findings
        else ""
    )
    return (
        f"<h2>{escape(STAGES[stage].title)}: {WORDS[result.verdict.result]}</h2><table>{rows}</table>"
        f"<p class=small>{escape(result.smallest_proven)}</p>{tones}{table}"
    )


def _touch(job: Job, touched: dict[str, TouchResult]) -> str:
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


def _fitted(job: Job) -> str:
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


def report_html(job_id: int) -> str:
    """The report as HTML for the PDF maker: everything inline, nothing fetched."""
    look = look_at(job_id)
    job, results, verdict = look.job, look.results, verdict_of(look)
    seal = sealed(look)
    change, touch_change = look.comparison, look.touch_comparison
    profile = find_profile(job.profile)
    fitted = _fitted(job)
    causes = "".join(
        f"<tr><td>{min(c.p, SUREST):.0%}</td><td>{escape(c.title)}</td><td>{escape(' '.join(c.for_))}</td></tr>"
        for c in look.diagnosis.causes[:3]
    )
    shop = the_shop()
    letterhead = [line for line in (shop.name, *shop.address.splitlines()) if line.strip()]
    body = [
        f"<p class=small>{'<br>'.join(escape(line) for line in letterhead)}</p>" if letterhead else "",
        f"<h1>Job {job.pk}: {escape(job.title)}</h1>",
        f'<p class="verdict">{WORDS[verdict.result]}</p><p>{escape(" ".join(verdict.sentences))}</p>',
        "<table>",
        _rows(
            [
                ("Owner", job.owner),
                ("Complaint", job.complaint),
                ("Visible damage", job.visible_damage),
                ("Stays with the owner", job.accessories),
                ("Starting it", START_CONSENTS[job.start_consent].title if job.start_consent in START_CONSENTS else ""),
                (
                    "Panel",
                    f"{job.panel_width} x {job.panel_height} px"
                    + (f", {job.diagonal_in:g} in" if job.diagonal_in else ""),
                ),
                ("Accepted", profile.title + (", pixel classes of ISO 9241-307" if profile.pixels else "")),
                (
                    "Fitted",
                    f"{job.chosen_offer.panel.name} from {job.chosen_offer.supplier.name}, {job.chosen_offer.warranty_months} months warranty"
                    if job.chosen_offer
                    else "",
                ),
                ("Note", job.hand_over_note),
            ]
        ),
        "</table>",
        _received(job),
        "<h2>Before and after</h2>",
        _figures(job, results),
        f"<p>{escape(change.text)}</p>" if change else "",
        _touch(job, look.touched),
        f"<p>{escape(touch_change.text)}</p>" if touch_change else "",
        "<h2>Not proven, and not looked at</h2><ul>",
        *[f"<li>{escape(line)}</li>" for line in unproven(look)],
        "</ul>",
        "<h2>Cautions</h2><ul>",
        *[f"<li>{escape(line)}</li>" for line in CAUTIONS],
        "</ul>",
        *[
            _criteria(stage, results[stage])
            for stage in ("closed", "dry_fit", "inspect", "external")
            if stage in results
        ],
        f"<h2>Likely causes</h2><table>{causes}</table>" if look.answers or results else "",
        f"<h2>Fitting</h2><table>{fitted}</table>" if fitted else "",
        f"<p class=small>This report closes a record of {seal['head']['entries']} entries with {seal['head']['closing_hash']}, signed by the shop's "
        f"key {fingerprint(seal['signature']['key'])}. The JSON report of the same state can be checked against both.</p>",
    ]
    head = f"<meta charset=utf-8><title>Job {job.pk}</title><style>{STYLE.replace(PAPER, shop.paper)}</style>"
    return f"<!doctype html><html lang=en>{head}<body>{''.join(body)}</body></html>"


def report_pdf(job_id: int) -> bytes:
    """The report as PDF."""
    return as_pdf(report_html(job_id))


def as_pdf(html: str) -> bytes:
    """A page as PDF; it fetches nothing from anywhere."""
    import weasyprint  # slow to import, needed by few processes

    inline = weasyprint.URLFetcher(allowed_protocols=("data",))
    return bytes(weasyprint.HTML(string=html, url_fetcher=inline).write_pdf())

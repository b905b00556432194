"""The printable report: the owner's page, all figures behind it, signed, with its JSON attached."""

import json
from html import escape
from typing import Any

from django.conf import settings

from lens.progress.stations import SUREST
from lens.records import START_CONSENTS
from lens.reporting import ATTACHED, sign_pdf
from server.profiles.actions import find_profile
from server.proving.verdict import verdict_of
from server.reports.content import cautions, look_at, sealed, unproven
from server.reports.expert_parts import (
    PAPER,
    STYLE,
    WORDS,
    conditions_part,
    criteria_part,
    figures_part,
    fitted_part,
    functions_part,
    panel_line_part,
    photo_page_part,
    received_part,
    rows_part,
    seal_part,
    touch_part,
)
from server.reports.letterhead import letterhead_html
from server.reports.owner_facts import owner_body, owner_style
from server.shop.actions import the_shop


def report_html(job_id: int, language: str = "", seal: dict[str, Any] | None = None) -> str:
    """The report as HTML for the PDF maker: the owner's page first, then all figures; everything inline, nothing fetched."""
    look = look_at(job_id)
    job, results, verdict = look.job, look.results, verdict_of(look)
    seal = seal or sealed(look)
    change, touch_change = look.comparison, look.touch_comparison
    profile = find_profile(job.profile)
    fitted = fitted_part(job)
    causes = "".join(
        f"<tr><td>{min(c.p, SUREST):.0%}</td><td>{escape(c.title)}</td><td>{escape(' '.join(c.for_))}</td></tr>"
        for c in look.diagnosis.causes[:3]
    )
    shop = the_shop()
    body = [
        letterhead_html(),
        f"<h1>Job {job.pk}: {escape(job.title)}</h1>",
        f'<p class="verdict">{WORDS[verdict.result]}</p><p>{escape(" ".join(verdict.sentences))}</p>',
        "<table>",
        rows_part(
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
                panel_line_part(job, fitted),
                ("Note", job.hand_over_note),
            ]
        ),
        "</table>",
        received_part(job),
        "<h2>Before and after</h2>",
        figures_part(job, results),
        f"<p>{escape(change.text)}</p>" if change else "",
        touch_part(job, look.touched),
        f"<p>{escape(touch_change.text)}</p>" if touch_change else "",
        "<h2>Not proven, and not looked at</h2><ul>",
        *[f"<li>{escape(line)}</li>" for line in unproven(look)],
        "</ul>",
        "<h2>Cautions</h2><ul>",
        *[f"<li>{escape(line)}</li>" for line in cautions(look)],
        "</ul>",
        *[
            criteria_part(stage, results[stage])
            for stage in ("closed", "dry_fit", "inspect", "external")
            if stage in results
        ],
        f"<h2>Likely causes</h2><table>{causes}</table>" if look.answers or results else "",
        functions_part(look),
        conditions_part(job),
        f"<h2>Fitting</h2><table>{fitted}</table>" if fitted else "",
        photo_page_part(job),
        seal_part(seal),
    ]
    owner = f"{owner_body(look, language or shop.language)}<div class=turn></div>"
    style = owner_style(shop.paper) + STYLE.replace(PAPER, shop.paper)
    head = f"<meta charset=utf-8><title>Job {job.pk}</title><style>{style}</style>"
    return f"<!doctype html><html lang=en>{head}<body>{owner}{''.join(body)}</body></html>"


def report_json_bytes(seal: dict[str, Any]) -> bytes:
    """The signed report as its file."""
    return json.dumps(seal, indent=1, ensure_ascii=False).encode()


def report_pdf(job_id: int, language: str = "", seal: dict[str, Any] | None = None) -> bytes:
    """The report as a signed PDF with its JSON attached."""
    seal = seal or sealed(look_at(job_id))
    data = as_pdf(report_html(job_id, language, seal), report_json_bytes(seal))
    return sign_pdf(data, settings.PDF_KEY)


def as_pdf(html: str, attached: bytes | None = None) -> bytes:
    """A page as PDF; it fetches nothing from anywhere."""
    import weasyprint  # slow to import, needed by few processes

    inline = weasyprint.URLFetcher(allowed_protocols=("data",))
    files = [weasyprint.Attachment(string=attached, name=ATTACHED, description="The signed report")] if attached else []
    return bytes(weasyprint.HTML(string=html, url_fetcher=inline).write_pdf(attachments=files))

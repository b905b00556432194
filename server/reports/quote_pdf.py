"""A quote as a printable page."""

from html import escape

from django.shortcuts import get_object_or_404

from lens.purchasing import Quote as CoreQuote
from server.purchasing.models import Quote
from server.reports.expert_parts import PAPER, STYLE
from server.reports.letterhead import LOGO_STYLE, letterhead_html
from server.reports.pdf import as_pdf
from server.shop.actions import the_shop

EXTRA = "table { width: 70% } .sum td, .sum th { border-top: 1pt solid #111; font-weight: bold } .money { text-align: right; white-space: nowrap }"


def quote_pdf(job_id: int, quote_id: int) -> bytes:
    """The page of one quote; raises Http404 for one that the job has not."""
    quote = get_object_or_404(Quote.objects.select_related("job"), pk=quote_id, job_id=job_id)
    return as_pdf(_page(quote))


def _page(quote: Quote) -> str:
    told, shop, job = CoreQuote.model_validate(quote.content), the_shop(), quote.job
    rows = [(line.title, line.amount) for line in told.lines]
    if told.tax:
        rows.append((f"Tax ({told.tax_percent.normalize():f} %)", told.tax))
    if told.rounding:
        rows.append(("Rounding", told.rounding))
    lines = "".join(
        f"<tr><td>{escape(title)}</td><td class=money>{amount} {told.currency}</td></tr>" for title, amount in rows
    )
    ready = ""
    if told.ready_on:
        chance = (
            f" We expect to keep this in {round(100 * told.ready_chance)} of 100 cases." if told.ready_chance else ""
        )
        ready = f"<p>Ready by {told.ready_on:%d %B %Y} if you say yes on {told.made_on:%d %B %Y}.{chance}</p>"
    head = letterhead_html()
    for_whom = f" for {escape(job.owner)}" if job.owner else ""
    complaint = f"<p>What was reported: {escape(job.complaint)}</p>" if job.complaint else ""
    return (
        f"<style>{STYLE.replace(PAPER, shop.paper)}{EXTRA}{LOGO_STYLE}</style>{head}<h1>Quote{for_whom}</h1>"
        f"<p>{escape(job.title)}, job {job.pk}, {told.made_on:%d %B %Y}</p>{complaint}"
        f"<table>{lines}<tr class=sum><th>Total</th><td class=money>{told.total} {told.currency}</td></tr></table>{ready}"
        f"<p>This price holds until {told.valid_until:%d %B %Y}. If more is found once the device is open, we stop and ask you again.</p>"
    )

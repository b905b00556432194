"""Reports as PDF, JSON and CSV."""

from datetime import datetime
from typing import Literal

from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404
from ninja import Field, Router, Schema, Status

from lens.errors import BadInput
from lens.records import Stage
from lens.reporting import findings_csv, owner_texts
from server.accounts.policy import require
from server.common.qr import qr_svg
from server.inspections.core_adapter import result_of
from server.jobs.models import Job
from server.proving.verdict import verdict_of
from server.reports import links, making
from server.reports.content import look_at, report_json
from server.reports.models import MadeReport, OwnerLink
from server.reports.owner_facts import is_local, owner_html
from server.reports.pdf import report_json_bytes, report_pdf
from server.reports.quote_pdf import quote_pdf
from server.reports.screw_map import screw_map_pdf
from server.reports.ticket import ticket_pdf
from server.shop.actions import the_shop
from server.verdicts.look import JobLook

router = Router(tags=["reports"])


def _attachment(name: str) -> dict[str, str]:
    return {"Content-Disposition": f'attachment; filename="{name}"'}


@router.get("/jobs/{job_id}/report.pdf", operation_id="reportPdf")
def pdf(request: HttpRequest, job_id: int, language: str = "") -> HttpResponse:
    return HttpResponse(
        report_pdf(job_id, language[:10]),
        content_type="application/pdf",
        headers={"Content-Disposition": f'inline; filename="job-{job_id}.pdf"'},
    )


class AskReport(Schema):
    """``language`` of the owner's page; the shop's own where it is empty."""

    kind: Literal["pdf", "zip", "claim"]
    language: str = Field(default="", max_length=10)


class MadeReportOut(Schema):
    """A report that is made by a worker. ``handed_over``: it is kept as it was; the others are forgotten after a day."""

    id: int
    kind: str
    language: str
    state: Literal["waiting", "made", "failed"]
    rows: int
    of: int
    size_bytes: int
    problem: str
    handed_over: bool
    closing_hash: str
    made_at: datetime


class LinkIn(Schema):
    language: str = Field(default="", max_length=10)
    days: int = links.USUAL_DAYS


class LinkOut(Schema):
    """``local``: the address is only reached inside the shop."""

    id: int
    url: str
    qr_svg: str
    language: str
    expires_at: datetime
    local: bool


class LanguageOut(Schema):
    id: str
    name: str


def _made_out(one: MadeReport) -> MadeReportOut:
    state: Literal["waiting", "made", "failed"] = "waiting"
    if one.asked == one.settled:
        state = "failed" if one.problem else "made"
    names = ("kind", "language", "rows", "of", "size_bytes", "problem", "handed_over", "closing_hash", "made_at")
    return MadeReportOut(id=one.pk, state=state, **{name: getattr(one, name) for name in names})


def _link_out(link: OwnerLink) -> LinkOut:
    url = links.address_of(link)
    return LinkOut(
        id=link.pk, url=url, qr_svg=qr_svg(url), language=link.language, expires_at=link.expires_at, local=is_local(url)
    )


@router.get("/report-languages", response=list[LanguageOut], operation_id="listReportLanguages")
def languages(request: HttpRequest) -> list[LanguageOut]:
    """Of the owner's page; the shop's own first."""
    own = the_shop().language
    return [
        LanguageOut(id=name, name=text.name)
        for name, text in sorted(owner_texts().items(), key=lambda one: (one[0] != own, one[0]))
    ]


@router.post("/jobs/{job_id}/reports", response={202: MadeReportOut}, operation_id="askReport")
def ask_report(request: HttpRequest, job_id: int, body: AskReport) -> Status[MadeReportOut]:
    """Have a report made. Of a closed job the one that was handed over is given again, as it was."""
    return Status(202, _made_out(making.ask_report(request.user, job_id, body.kind, body.language)))


@router.get("/jobs/{job_id}/reports", response=list[MadeReportOut], operation_id="listReports")
def list_reports(request: HttpRequest, job_id: int) -> list[MadeReportOut]:
    require(request.user, "job.view")
    job = get_object_or_404(Job, pk=job_id)
    return [_made_out(one) for one in MadeReport.objects.filter(job=job).defer("data")]


@router.get("/reports/{report_id}", response=MadeReportOut, operation_id="getReport")
def get_report(request: HttpRequest, report_id: int) -> MadeReportOut:
    return _made_out(get_object_or_404(MadeReport.objects.defer("data"), pk=report_id))


@router.get("/reports/{report_id}/file", operation_id="reportFile")
def report_file(request: HttpRequest, report_id: int) -> HttpResponse:
    """The file, once it is made."""
    made = get_object_or_404(MadeReport, pk=report_id)
    if not made.size_bytes:
        raise BadInput("This report is not made yet. Wait a moment and try again.", "not_made")
    kind = "application/pdf" if made.kind == "pdf" else "application/zip"
    name = {"pdf": f"{made.language}.pdf", "zip": f"{made.language}.zip", "claim": "claim.zip"}[made.kind]
    return HttpResponse(bytes(made.data), content_type=kind, headers=_attachment(f"job-{made.job_id}-{name}"))


@router.get("/jobs/{job_id}/owner.html", operation_id="ownerHtml")
def owner_page(request: HttpRequest, job_id: int, language: str = "") -> HttpResponse:
    """The owner's page as one file that needs nothing else."""
    html = owner_html(look_at(job_id), making.check_language(language[:10]))
    return HttpResponse(html, headers=_attachment(f"job-{job_id}-owner.html"))


@router.post("/jobs/{job_id}/owner-links", response={201: LinkOut}, operation_id="makeOwnerLink")
def make_link(request: HttpRequest, job_id: int, body: LinkIn) -> Status[LinkOut]:
    return Status(201, _link_out(links.make_link(request.user, job_id, body.language, body.days)))


@router.get("/jobs/{job_id}/owner-links", response=list[LinkOut], operation_id="listOwnerLinks")
def list_links(request: HttpRequest, job_id: int) -> list[LinkOut]:
    """Links that still open."""
    require(request.user, "job.change")
    job = get_object_or_404(Job, pk=job_id)
    return [_link_out(one) for one in links.living(job=job)]


@router.delete("/owner-links/{link_id}", response=LinkOut, operation_id="revokeOwnerLink")
def revoke_link(request: HttpRequest, link_id: int) -> LinkOut:
    return _link_out(links.revoke_link(request.user, link_id))


@router.get("/jobs/{job_id}/ticket.pdf", operation_id="jobTicket")
def ticket(request: HttpRequest, job_id: int) -> HttpResponse:
    """A label for the device's bag: scanning it opens the job."""
    data = ticket_pdf(JobLook.at(job_id))
    headers = {"Content-Disposition": f'inline; filename="ticket-{job_id}.pdf"'}
    return HttpResponse(data, content_type="application/pdf", headers=headers)


@router.get("/jobs/{job_id}/fit/screws.pdf", operation_id="screwMap")
def screw_map(request: HttpRequest, job_id: int) -> HttpResponse:
    """A sheet to lay the job's screws on, at its true size."""
    data = screw_map_pdf(get_object_or_404(Job.objects.prefetch_related("gates"), pk=job_id))
    headers = {"Content-Disposition": f'inline; filename="screws-{job_id}.pdf"'}
    return HttpResponse(data, content_type="application/pdf", headers=headers)


@router.get("/jobs/{job_id}/buying/quotes/{quote_id}.pdf", operation_id="quotePdf")
def quote(request: HttpRequest, job_id: int, quote_id: int) -> HttpResponse:
    """A quote as a page to print or send."""
    headers = {"Content-Disposition": f'inline; filename="quote-{quote_id}.pdf"'}
    return HttpResponse(quote_pdf(job_id, quote_id), content_type="application/pdf", headers=headers)


@router.get("/jobs/{job_id}/report.json", operation_id="reportJson")
def report(request: HttpRequest, job_id: int) -> HttpResponse:
    return HttpResponse(
        report_json_bytes(report_json(job_id)),
        content_type="application/json",
        headers=_attachment(f"job-{job_id}.json"),
    )


@router.get("/jobs/{job_id}/findings.csv", operation_id="findingsCsv")
def findings(request: HttpRequest, job_id: int, stage: Stage = "inspect") -> HttpResponse:
    look = JobLook.at(job_id)
    job = look.job
    result = result_of(job.runs.filter(stage=stage).first())
    about = {"job": str(job.pk), "stage": stage, "job_verdict": verdict_of(look).result}
    text = findings_csv(result.findings if result else (), about)
    return HttpResponse(text, content_type="text/csv; charset=utf-8", headers=_attachment(f"job-{job_id}-{stage}.csv"))

"""Reports as PDF, JSON and CSV."""

from django.http import HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import get_object_or_404
from ninja import Router

from lens.records import Stage
from lens.reporting import findings_csv
from server.inspections.core_adapter import result_of
from server.jobs.models import Job
from server.proving.verdict import verdict_of
from server.reports.content import report_json
from server.reports.pdf import report_pdf
from server.reports.quote_pdf import quote_pdf
from server.reports.screw_map import screw_map_pdf
from server.verdicts.look import JobLook

router = Router(tags=["reports"])


def _attachment(name: str) -> dict[str, str]:
    return {"Content-Disposition": f'attachment; filename="{name}"'}


@router.get("/jobs/{job_id}/report.pdf", operation_id="reportPdf")
def pdf(request: HttpRequest, job_id: int) -> HttpResponse:
    return HttpResponse(
        report_pdf(job_id),
        content_type="application/pdf",
        headers={"Content-Disposition": f'inline; filename="job-{job_id}.pdf"'},
    )


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
    return JsonResponse(
        report_json(job_id),
        json_dumps_params={"indent": 1, "ensure_ascii": False},
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

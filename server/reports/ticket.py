"""A label for the bag of a device: number, owner, complaint, and a code that opens the job."""

from html import escape

from django.conf import settings
from django.utils import timezone

from server.common.qr import qr_svg
from server.incoming.facet import incoming_state
from server.jobs.models import Job
from server.reports.pdf import as_pdf
from server.shop.actions import the_shop, zone
from server.verdicts.look import JobLook

WIDE_MM, HIGH_MM = 100, 62  # a usual size of label rolls; on a sheet it stands at the top left (common practice)
SHOWN_LETTERS = 160
STYLE = (
    f"@page {{ size: {WIDE_MM}mm {HIGH_MM}mm; margin: 3mm }} body {{ font: 9pt/1.25 'DejaVu Sans', sans-serif; margin: 0; overflow-wrap: anywhere }}"
    ".row { display: flex; gap: 3mm } .row svg { width: 30mm; height: 30mm; flex: none } h1 { font-size: 15pt; margin: 0 } p { margin: 0 0 1mm }"
)


def ticket_html(job: Job) -> str:
    """The label before it is printed."""
    day = timezone.localtime(job.created_at, zone())
    due = f", wanted {job.due_on:%Y-%m-%d}" if job.due_on else ""
    complaint = job.complaint if len(job.complaint) <= SHOWN_LETTERS else f"{job.complaint[:SHOWN_LETTERS]}..."
    keeps = f"<p>With it: {escape(job.accessories)}</p>" if job.accessories else ""
    serial = f"<p>{escape(job.serial_printed)}</p>" if job.serial_printed else ""
    return (
        f"<meta charset=utf-8><title>Job {job.pk}</title><style>{STYLE}</style><div class=row>"
        f"{qr_svg(f'{settings.PUBLIC_URL}/jobs/{job.pk}')}<div><h1>{job.pk}</h1><p><b>{escape(job.title)}</b></p><p>{escape(job.owner)}</p>{serial}"
        f"<p>{day:%Y-%m-%d %H:%M}{due}</p></div></div><p>{escape(complaint)}</p>{keeps}<p>{escape(the_shop().name)}</p>"
    )


def panel_label_html(look: JobLook) -> str:
    """The label of a panel that was inspected by itself: what it is, what it passes, what became of it."""
    job, told = look.job, incoming_state(look)
    passed = [one.title for one in told.classes if one.result == "pass"]
    rows = [
        f"{told.supplier}, {told.grade or 'grade not said'}" if told.supplier else "",
        job.serial_printed,
        f"Passes: {', '.join(passed)}"
        if passed
        else "Passes no class that was asked"
        if told.classes
        else "Not measured",
        next((one.title for one in told.decisions if one.id == told.decision), "Not decided"),
        f"{timezone.localtime(told.at or job.created_at, zone()):%Y-%m-%d}",
    ]
    return (
        f"<meta charset=utf-8><title>Panel {job.pk}</title><style>{STYLE}</style><div class=row>"
        f"{qr_svg(f'{settings.PUBLIC_URL}/jobs/{job.pk}')}<div><h1>{job.pk}</h1><p><b>{escape(told.panel)}</b></p>"
        f"{''.join(f'<p>{escape(row)}</p>' for row in rows if row)}</div></div><p>{escape(the_shop().name)}</p>"
    )


def ticket_pdf(look: JobLook) -> bytes:
    return as_pdf(panel_label_html(look) if look.job.subject == "panel" else ticket_html(look.job))

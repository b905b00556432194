"""A sheet to lay screws on, at its true size: one row a group, in the order in which they come out, with a bar to measure the print by."""

from html import escape

from lens.errors import BadInput
from lens.fitting import Procedure
from lens.steps import order
from server.fitting.actions import balance_of, rows_of
from server.fitting.following import procedure_of
from server.jobs.models import Job
from server.reports.expert_parts import PAPER, STYLE
from server.reports.pdf import as_pdf
from server.shop.actions import the_shop

CHECK_BAR_MM = 100  # ISO 216 and letter paper both hold it; a printer that scales shows it
SPOT_MM, GAP_MM, A_ROW = (
    11,
    3,
    11,
)  # a screw's head with room for a finger; so many beside each other on the narrower of both papers
MOST_SPOTS = 44
EXTRA = (
    f".bar {{ width: {CHECK_BAR_MM}mm; height: 4mm; border: 0.3mm solid #111; border-top: none }}"
    f".spot {{ display: inline-block; width: {SPOT_MM}mm; height: {SPOT_MM}mm; margin: 0 {GAP_MM}mm {GAP_MM}mm 0 }}"
    ".spot { border: 0.3mm solid #111; border-radius: 50% }"
    ".group { page-break-inside: avoid; margin: 0 0 5mm }"
)


def screw_map_pdf(job: Job) -> bytes:
    """The sheet of a job's procedure; raises BadInput where nobody said yet how its display is built in, or where nothing is screwed."""
    return as_pdf(screw_map_html(job))


def screw_map_html(job: Job) -> str:
    """The page before it is printed; raises as `screw_map_pdf`."""
    procedure = procedure_of(job)
    if procedure is None:
        raise BadInput("Say first how the display is built in.", "no_procedure")
    counts = _counts(job, procedure)
    if not counts:
        raise BadInput("No screws come out in this build.", "no_screws")
    groups = "".join(_group(number, name, count, procedure) for number, (name, count) in enumerate(counts.items(), 1))
    style = f"<style>{STYLE.replace(PAPER, the_shop().paper)}{EXTRA}</style>"
    how = "Lay each screw where it belongs, in the order in which it comes out. Circles are a usual number; what you meet counts."
    return (
        f"<meta charset=utf-8><title>Screws of job {job.pk}</title>{style}<h1>Screws of {escape(job.title)}</h1>"
        f"<p>Job {job.pk}. {escape(procedure.title)}. {how}</p>"
        f"<div class=bar></div><p class=small>Measure this bar: {CHECK_BAR_MM} mm. If it is not, print again without scaling.</p>{groups}"
        f"<div class=group><h2>Other</h2>{_spots(A_ROW)}</div>"
    )


def _counts(job: Job, procedure: Procedure) -> dict[str, int]:
    """How many of each group come out: as met in this job, else as is usual; in the order of one legal way."""
    met = {group: one.out + one.loosened for group, one in balance_of(procedure, rows_of(job)).items()}
    known = procedure.graph.by_id
    told: dict[str, int] = {}
    for done in order(procedure.graph):
        for group, usual in known[done.step].counts.items():
            if usual >= 0:
                told.setdefault(group, met.get(group) or usual)
    return told


def _group(number: int, name: str, count: int, procedure: Procedure) -> str:
    group = procedure.fasteners.get(name)
    title = group.title if group else f"{name.replace('_', ' ').capitalize()} screws"
    words = ". ".join(filter(None, (group.where, group.drive, group.caution))) if group else ""
    return f"<div class=group><h2>{number} {escape(title)}</h2><p class=small>{escape(words)}</p>{_spots(count)}</div>"


def _spots(count: int) -> str:
    return "<span class=spot></span>" * max(1, min(count, MOST_SPOTS))

"""Changes of a job: each checks permission, runs in one transaction, writes the record."""

from collections.abc import Sequence
from datetime import date
from typing import Any

from django.contrib.auth.models import AbstractBaseUser, AnonymousUser, User
from django.db import transaction
from django.shortcuts import get_object_or_404
from django.utils import timezone

from lens.diagnosis import DEVICES, EvidenceItem, Seen, check_items, load_model, words
from lens.errors import BadInput
from lens.fitting import check_build
from lens.panel import make_panel
from lens.progress import JobVerdict
from lens.records import START_CONSENTS, STATIONS, WAITING
from lens.tables import not_known
from server.accounts.policy import require
from server.common.errors import Conflict
from server.jobs.models import Evidence, Job
from server.jobs.record import write
from server.profiles.actions import find_profile, rules_in_force

Person = AbstractBaseUser | AnonymousUser
EDITABLE = (
    "title",
    "device_type",
    "owner",
    "complaint",
    "visible_damage",
    "accessories",
    "start_consent",
    "serial_printed",
    "serial_system",
    "panel_serial",
    "panel_width",
    "panel_height",
    "diagonal_in",
    "profile",
    "build",
    "hand_over_note",
    "assigned_to",
    "due_on",
    "urgent",
    "waiting_for",
)
# what no measurement, cause or procedure hangs on
WORDS_ONLY = {
    "title",
    "owner",
    "complaint",
    "visible_damage",
    "accessories",
    "start_consent",
    "serial_printed",
    "serial_system",
    "panel_serial",
    "hand_over_note",
    "assigned_to",
    "due_on",
    "urgent",
    "waiting_for",
}
JOB_CLOSED = ("The job is handed over and closed. A lead can reopen it.", "job_closed")


def lock_open_job(job_id: int) -> Job:
    """The job, locked for this transaction; raises BadInput when it is closed."""
    job = get_object_or_404(Job.objects.select_for_update(), pk=job_id)
    if job.closed_at:
        raise BadInput(*JOB_CLOSED)
    return job


def _check_fields(values: dict[str, Any]) -> None:
    if not values.get("title", "x").strip():
        raise BadInput("Give the job a title: what device it is.", "title_missing")
    if values.get("device_type", DEVICES[0]) not in DEVICES:
        raise BadInput(f"'{values['device_type']}' is no device type: choose {', '.join(DEVICES)}.", "unknown_device")
    if "profile" in values:
        find_profile(values["profile"])
    if "build" in values:
        check_build(values["build"])
    if values.get("start_consent") and values["start_consent"] not in START_CONSENTS:
        raise not_known("consent to start it", values["start_consent"], START_CONSENTS, "unknown_consent")
    if values.get("waiting_for") and values["waiting_for"] not in WAITING:
        raise not_known("reason to wait", values["waiting_for"], WAITING, "unknown_waiting")


def _plain(value: Any) -> Any:
    """A field's value as the record holds it."""
    return value.username if isinstance(value, User) else value.isoformat() if isinstance(value, date) else value


def person_called(name: str) -> User | None:
    """Whom a job is given to; None for nobody. Raises BadInput for somebody who is not there, or cannot sign in any more."""
    if not name:
        return None
    person = User.objects.filter(username=name, is_active=True).first()
    if person is None:
        raise BadInput(f"Nobody called '{name}' can sign in here.", "unknown_person")
    return person


@transaction.atomic
def create_job(user: Person, values: dict[str, Any]) -> Job:
    """A new job at Intake."""
    person = require(user, "job.change")
    _check_fields(values)
    make_panel(values["panel_width"], values["panel_height"], values.get("diagonal_in"))
    job = Job.objects.create(created_by=person, rules=rules_in_force(), **values)
    write(job, person.username, "created", f"Taken in: {job.title}.")
    return job


@transaction.atomic
def change_job(user: Person, job_id: int, version: int, values: dict[str, Any]) -> Job:
    """Change fields. Raises Conflict when somebody changed one of the same fields since ``version``."""
    person = require(user, "job.change")
    job = lock_open_job(job_id)
    changed = {name: value for name, value in values.items() if name in EDITABLE and getattr(job, name) != value}
    if not changed:
        return job
    if version != job.version:
        touched = {
            name
            for entry in job.entries.filter(kind="changed").order_by("-id")[:50]
            if entry.data.get("version", 0) >= version
            for name in entry.data.get("fields", {})
        }
        both = touched & set(changed)
        if both:
            field = sorted(both)[0].replace("_", " ")
            raise Conflict(
                f"Somebody else changed '{field}' while you did. Look at the value that is stored now, then enter yours again."
            )
    _check_fields(changed)
    size = {"panel_width", "panel_height", "diagonal_in"} & set(changed)
    if size:
        make_panel(*(changed.get(name, getattr(job, name)) for name in ("panel_width", "panel_height", "diagonal_in")))
        if size - {"diagonal_in"} and job.runs.filter(photos__removed=False).exists():
            raise BadInput(
                "Photos were measured with this resolution already. Remove them before changing it.", "photos_exist"
            )
    before = {name: getattr(job, name) for name in changed}
    for name, value in changed.items():
        setattr(job, name, value)
    job.save(update_fields=list(changed))
    write(
        job,
        person.username,
        "changed",
        f"Changed: {', '.join(n.replace('_', ' ') for n in changed)}.",
        facets=() if set(changed) <= WORDS_ONLY else None,
        fields={name: [_plain(before[name]), _plain(value)] for name, value in changed.items()},
        version=job.version,
    )
    return job


@transaction.atomic
def go_to_station(user: Person, job_id: int, station: str, skip: bool) -> Job:
    """Move on, or skip a station; the record says so."""
    person = require(user, "job.change")
    job = lock_open_job(job_id)
    if station not in STATIONS:
        raise BadInput(f"There is no station '{station}'.", "unknown_station")
    if skip:
        if station not in job.skipped:
            job.skipped = [*job.skipped, station]
            job.save(update_fields=["skipped"])
            write(job, person.username, "skipped", f"{STATIONS[station].title} skipped.", facets=())
    elif job.station != station or station in job.skipped:
        job.station = station
        job.skipped = [s for s in job.skipped if s != station]
        job.save(update_fields=["station", "skipped"])
        write(job, person.username, "station", f"At {STATIONS[station].title}.", facets=())
    return job


@transaction.atomic
def answer_check(
    user: Person, job_id: int, check: str, outcome: str, source: str, conditions: dict[str, Any] | None = None
) -> Evidence:
    """Answer a check of Isolate, or tell what a repair brought; an earlier answer to it is withdrawn and stays in the record."""
    person = require(user, "job.change")
    job = lock_open_job(job_id)
    item = EvidenceItem.model_validate({"check": check, "outcome": outcome, "source": source})
    check_items(load_model(), [item])
    return store_answer(job, person, item, conditions or {})


def store_answer(job: Job, person: User, item: EvidenceItem, conditions: dict[str, Any]) -> Evidence:
    """Write an answer down in place of an earlier one of the same source to the same check; the same answer again changes nothing. What the owner
    said and what was seen stand both."""
    same = job.evidence.filter(check_id=item.check, source=item.source, withdrawn=False)
    existing = same.filter(outcome=item.outcome, source=item.source).first()
    if existing:
        return existing
    same.update(withdrawn=True, withdrawn_because="answered anew")
    evidence = Evidence.objects.create(
        job=job, check_id=item.check, outcome=item.outcome, source=item.source, by=person, conditions=conditions
    )
    write(
        job,
        person.username,
        "evidence",
        f"{words(load_model(), Seen(item.check, (item.outcome,), True))}.",
        facets=("isolate",),
        check=item.check,
        outcome=item.outcome,
        source=item.source,
        conditions=conditions,
    )
    return evidence


@transaction.atomic
def withdraw_evidence(user: Person, job_id: int, evidence_id: int, reason: str) -> None:
    """Take an answer back, with the reason."""
    person = require(user, "job.change")
    job = lock_open_job(job_id)
    evidence = get_object_or_404(Evidence, pk=evidence_id, job=job)
    if evidence.withdrawn:
        return
    evidence.withdrawn, evidence.withdrawn_because = True, reason
    evidence.save(update_fields=["withdrawn", "withdrawn_because"])
    told = words(load_model(), Seen(evidence.check_id, (evidence.outcome,), True))
    write(
        job,
        person.username,
        "withdrawn",
        f"Withdrawn: '{told}', because: {reason or 'no reason given'}.",
        facets=("isolate",),
    )


@transaction.atomic
def hand_over(
    user: Person,
    job_id: int,
    true_causes: Sequence[str] = (),
    verdict: JobVerdict | None = None,
    because: str = "",
    hindrances: Sequence[str] = (),
    lesson: str = "",
) -> Job:
    """Close the job, and say what it turned out to be. A second click finds it closed and changes nothing.

    verdict : of the device as it goes; without one nothing was measured, which asks for ``because``
    hindrances : what else speaks against handing over now, in words; asks for ``because`` too
    """
    person = require(user, "job.hand_over")
    job = get_object_or_404(Job.objects.select_for_update(), pk=job_id)
    if job.subject == "panel":
        raise BadInput("A panel by itself is handed over to nobody: say at Grade what becomes of it.", "not_a_device")
    if job.closed_at is None:
        model = load_model()
        unknown = [name for name in true_causes if name not in model.causes]
        if unknown:
            raise BadInput(f"There is no cause '{unknown[0]}'. Reload the page and choose again.", "unknown_cause")
        if verdict is None and not because.strip():
            raise BadInput(
                "Nothing was measured on this job. Say why it is handed over all the same: the report will tell.",
                "nothing_measured",
            )
        if hindrances and not because.strip():
            raise BadInput(
                f"{' '.join(hindrances)} Wait, or say why it is handed over all the same: the report will tell.",
                "hindered",
            )
        job.closed_at, job.station, job.true_causes = timezone.now(), "hand_over", list(dict.fromkeys(true_causes))
        job.lesson = lesson.strip()[:300]
        job.save(update_fields=["closed_at", "station", "true_causes", "lesson"])
        named = (
            f" It was: {', '.join(model.causes[name].title for name in job.true_causes)}." if job.true_causes else ""
        )
        why = because.strip()[:300]
        although = " ".join(([] if verdict else ["Nothing was measured."]) + list(hindrances))
        told = f" {although} Because: {why}." if although else ""
        write(
            job,
            person.username,
            "handed_over",
            f"Handed over and closed.{named}{told}",
            causes=job.true_causes,
            verdict=verdict.model_dump(mode="json") if verdict else None,
            because=why,
            lesson=job.lesson,
        )
    return job


@transaction.atomic
def reopen(user: Person, job_id: int, reason: str) -> Job:
    """Open a closed job again; leads only."""
    person = require(user, "job.reopen")
    job = get_object_or_404(Job.objects.select_for_update(), pk=job_id)
    if job.closed_at is not None:
        job.closed_at = None
        job.save(update_fields=["closed_at"])
        write(job, person.username, "reopened", f"Reopened: {reason or 'no reason given'}.")
    return job

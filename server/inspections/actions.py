"""Changes of runs and photos."""

from typing import NamedTuple

from django.db import IntegrityError, transaction
from django.db.models import F, JSONField, Value
from django.http import Http404
from django.shortcuts import get_object_or_404

from lens.acceptance import Ruling, about, by_itself, measured
from lens.errors import BadInput
from lens.faults import learn_row_time
from lens.inspecting import FRAME, REFERENCE, TRAIL, check_row_time
from lens.panel import make_panel
from lens.patterns import get_pattern, get_set, read_set
from lens.photo import FLAT
from lens.records import STAGES
from lens.records.upgrade import stamped, upgraded
from server.accounts.policy import require
from server.common.errors import Conflict
from server.common.notify import notify, notify_of
from server.inspections import core_adapter, storage, tasks
from server.inspections.growing import growing, lock_stage, refuse_closed
from server.inspections.judging import judge_runs
from server.inspections.models import SHORT_SET, Judgement, Photo, Run
from server.jobs.actions import Person, lock_open_job
from server.jobs.record import write

# photos of the device itself: kept as evidence, no pattern is looked for
UNMEASURED = tuple(stage.id for stage in STAGES.values() if not stage.measured)
MAX_PHOTOS = 60


@transaction.atomic
def open_run(user: Person, job_id: int, stage: str) -> Run:
    """The run of a stage, made when it is new."""
    person = require(user, "job.change")
    job = lock_stage(job_id, stage)
    if stage not in STAGES:
        raise BadInput(f"There is no stage '{stage}': choose {', '.join(STAGES)}.", "unknown_stage")
    # the same hand holds the same camera
    known = (
        Run.objects.filter(job=job, row_time_us__isnull=False)
        .order_by("id")
        .values_list("row_time_us", flat=True)
        .last()
    )
    defaults = {"row_time_us": known, **({"pattern_set": SHORT_SET} if stage == "dry_fit" else {})}
    run, new = Run.objects.get_or_create(job=job, stage=stage, defaults=defaults)
    if new:
        write(
            job, person.username, "run", f"Inspection '{STAGES[stage].title}' opened.", facets=("pictures",), run=run.pk
        )
    return run


def show_pattern(user: Person, run_id: int, pattern: str) -> None:
    """Change what the glass shows. Not a line of the record: the photos say what was shown.

    No transaction: every round trip to the database is a wait between the key and the picture, and one atomic update is safe.
    """
    require(user, "job.change")
    get_pattern(pattern)
    _show(run_id, pattern)


def _show(run_id: int, pattern: str) -> None:
    if not growing(run_id).update(pattern=pattern, pattern_step=F("pattern_step") + 1):
        refuse_closed(run_id)
        raise Http404
    notify_of(
        Run.objects.filter(pk=run_id),
        job="job_id",
        run="pk",
        what=Value("pattern"),
        facets=Value([], JSONField()),
        pattern="pattern",
        step="pattern_step",
    )


def step_pattern(run_id: int, move: int) -> None:
    """Next (+1) or previous (-1) pattern of the set. The caller has checked who may: a person, or the holder of a code."""
    run = get_object_or_404(Run, pk=run_id)
    ids = run.chosen_set.patterns
    at = ids.index(run.pattern) if run.pattern in ids else -move
    _show(run_id, ids[(at + move) % len(ids)])


@transaction.atomic
def choose_set(user: Person, run_id: int, set_name: str, own_yaml: str = "") -> Run:
    """Choose the pattern set that is shot: one that ships by its name, or an own one by its YAML."""
    require(user, "job.change")
    run = get_object_or_404(Run, pk=run_id)
    lock_stage(run.job_id, run.stage)
    if own_yaml:
        run.own_set = read_set(own_yaml).model_dump(mode="json")
    else:
        get_set(set_name)
        run.pattern_set, run.own_set = set_name, None
    run.save(update_fields=["pattern_set", "own_set"])
    notify(run.job_id, "run", run.pk)
    return run


@transaction.atomic
def set_screen(user: Person, run_id: int, width: int, height: int) -> Run:
    """Say how many pixels the external screen has."""
    person = require(user, "job.change")
    run = get_object_or_404(Run.objects.select_related("job"), pk=run_id)
    job = lock_open_job(run.job_id)
    if run.stage != "external":
        raise BadInput("Only an external screen has a size of its own. Change the panel's at Intake.", "not_external")
    make_panel(width, height)
    if run.photos.filter(removed=False).exists() and (width, height) != (run.panel.width, run.panel.height):
        raise BadInput(
            "Photos were measured with this resolution already. Take them out before changing it.", "photos_exist"
        )
    run.screen_width, run.screen_height = width, height
    run.save(update_fields=["screen_width", "screen_height"])
    write(job, person.username, "screen", f"External screen: {width} x {height}.", run=run.pk)
    return run


@transaction.atomic
def set_row_time(user: Person, run_id: int, row_time_us: float | None, learned: str = "") -> Run:
    """Say how long the camera takes from one row of its sensor to the next, so that bars tell a frequency; None forgets it. ``learned``
    says for the record how that is known."""
    person = require(user, "job.change")
    run = get_object_or_404(Run.objects.select_related("job"), pk=run_id)
    job = lock_stage(run.job_id, run.stage)
    if row_time_us is not None:
        check_row_time(row_time_us)
    run.row_time_us = row_time_us
    run.save(update_fields=["row_time_us"])
    words = "forgotten" if row_time_us is None else f"{row_time_us:g} microseconds"
    write(
        job,
        person.username,
        "row_time",
        f"Camera's time for one row ({STAGES[run.stage].title}): {words}{learned}.",
        run=run.pk,
    )
    tasks.enqueue(run)
    return run


def learn_camera(user: Person, run_id: int, lamp_photo: bytes, hz: float) -> Run:
    """Learn the camera's time for one row from a photo of a lamp's light that pulses ``hz`` times a second. The photo is not kept."""
    require(user, "job.change")
    told = learn_row_time(lamp_photo, hz)
    words = f" +- {told.uncertainty_us:g}, from {told.bars:g} bars of a lamp that pulses {hz:g} times a second"
    return set_row_time(user, run_id, told.row_time_us, words)


def _known_pattern(pattern: str) -> None:
    """Raises BadInput for a name that is no pattern, flat field, reference panel, frame or trail; empty is to be told by the markers."""
    if pattern and pattern not in (FLAT, REFERENCE, FRAME, TRAIL):
        get_pattern(pattern)


def add_photo(run: Run, who: str, data: bytes, name: str, client_key: str, pattern: str = "") -> tuple[Photo, bool]:
    """Store a photo and queue its analysis; the same ``client_key`` a second time gives the first photo back.

    The caller has checked who may send. Returns the photo and whether it is new. Raises BadInput for what is no photo.
    """
    _known_pattern(pattern)
    if not client_key or len(client_key) > 64:
        raise BadInput("The photo came without its key. Reload the page and send it again.", "key_missing")
    sha256, size = storage.keep(data)
    known = Photo.objects.filter(run=run, client_key=client_key).first()
    if known is None:
        try:
            return _file_photo(
                run,
                who,
                Photo(
                    run=run,
                    sha256=sha256,
                    size_bytes=size,
                    name=clean_name(name),
                    client_key=client_key,
                    pattern_given=pattern,
                    sent_by=who,
                ),
            ), True
        except IntegrityError:
            known = Photo.objects.get(run=run, client_key=client_key)
    if known.sha256 != sha256:
        raise Conflict(
            "Another photo was sent with this key before. Choose the photo again; it then gets a key of its own."
        )
    return known, False


@transaction.atomic
def _file_photo(run: Run, who: str, photo: Photo) -> Photo:
    job = lock_stage(run.job_id, run.stage)
    if run.photos.filter(removed=False).count() >= MAX_PHOTOS:
        raise BadInput(
            f"This inspection has {MAX_PHOTOS} photos already. Remove some that are not needed.", "too_many_photos"
        )
    measured = run.stage not in UNMEASURED
    photo.status = "queued" if measured else "kept"
    photo.save(force_insert=True)
    write(
        job,
        who,
        "photo",
        f"Photo '{photo.name}' received for '{STAGES[run.stage].title}'.",
        facets=("pictures",),
        photo=photo.pk,
        sha256=photo.sha256,
    )
    if measured:
        Run.objects.filter(pk=run.pk).update(status="queued")
        tasks.enqueue(run)
    return photo


def clean_name(name: str) -> str:
    """A file's name as it can be stored and shown: no path, no control characters, the last 200 characters."""
    shown = "".join(c for c in name.replace("\\", "/").rpartition("/")[2] if c.isprintable())
    return shown.strip(". ")[-200:] or "photo"


def judge_job(job_id: int) -> None:
    """Judge every run of a job anew, as after a change of its profile. Call it inside the action's transaction."""
    judge_runs(Run.objects.filter(job_id=job_id))


def judge_open_jobs(profile_id: str) -> None:
    """Judge the open jobs that use a profile anew. Call it inside the action's transaction."""
    judge_runs(Run.objects.filter(job__profile=profile_id, job__closed_at__isnull=True))


class Told(NamedTuple):
    """A decision as it comes from a screen: the finding by its kind and place, what was decided, and why."""

    kind: str
    channel: str | None
    x: float
    y: float
    verdict: str
    becomes: str | None
    becomes_channel: str | None
    reason: str


DECIDED_WORDS = {
    "accepted": "confirmed",
    "rejected": "rejected",
    "corrected": "corrected",
    "undo": "decision taken back",
}


@transaction.atomic
def decide_finding(user: Person, run_id: int, told: Told) -> None:
    """Accept, reject or correct a finding, or take that back. The measurement stays; the verdict follows.

    Raises Conflict when the set was measured anew meanwhile and the finding is no longer there.
    """
    person = require(user, "job.change")
    told_of = get_object_or_404(Run, pk=run_id)
    job = lock_stage(told_of.job_id, told_of.stage)
    run = get_object_or_404(Run.objects.select_for_update(of=("self",)).select_related("job"), pk=run_id)
    result = core_adapter.result_of(run)
    finding = next((f for f in result.findings if (f.kind, f.channel, f.x, f.y) == told[:4]), None) if result else None
    if finding is None or finding.kind == "cluster":
        raise Conflict("This finding is no longer there: the photos were measured anew. Look at the list as it is now.")
    if told.verdict == "corrected" and not told.reason.strip():
        raise BadInput(
            "Say in a few words what you saw, so that the correction can be understood later.", "reason_missing"
        )
    as_measured = by_itself(measured(finding))
    for earlier in run.judgements.filter(withdrawn=False):
        if about(Ruling.model_validate(upgraded("ruling", earlier.ruling)), as_measured):
            earlier.withdrawn = True
            earlier.save(update_fields=["withdrawn"])
    if told.verdict != "undo":
        decision = {
            "verdict": told.verdict,
            "by": person.username,
            "reason": told.reason.strip(),
            "measured_kind": as_measured.kind,
            "measured_channel": as_measured.channel,
        }
        ruling = Ruling.model_validate(
            {
                **as_measured.model_dump(include={"kind", "channel", "x", "y", "w", "h"}),
                "decision": decision,
                "becomes": told.becomes,
                "becomes_channel": told.becomes_channel,
            }
        )
        Judgement.objects.create(run=run, ruling=stamped("ruling", ruling.model_dump(mode="json")), by=person)
    words = f" to {told.becomes.replace('_', ' ')}" if told.verdict == "corrected" and told.becomes else ""
    write(
        job,
        person.username,
        "decided",
        f"{as_measured.kind.replace('_', ' ').capitalize()} at {finding.x:.0f}, {finding.y:.0f} "
        f"({STAGES[run.stage].title}): {DECIDED_WORDS[told.verdict]}{words}.",
        run=run.pk,
        reason=told.reason.strip(),
    )
    judge_runs(Run.objects.filter(pk=run.pk))


@transaction.atomic
def correct_photo(user: Person, photo_id: int, pattern: str | None, corners: list[list[float]] | None) -> Photo:
    """Say what a photo shows, or where the panel's corners are, and have it read again."""
    person = require(user, "job.change")
    photo = get_object_or_404(Photo.objects.select_related("run__job"), pk=photo_id)
    job = lock_stage(photo.run.job_id, photo.run.stage)
    if pattern is not None:
        _known_pattern(pattern)
        photo.pattern_given = pattern
    if corners is not None:
        if corners and (len(corners) != 4 or any(len(point) != 2 for point in corners)):
            raise BadInput("Corners are four points, clockwise from the panel's top left.", "corners")
        photo.corners_given = [list(point) for point in corners] or None
    photo.report, photo.status = None, "queued"
    photo.save(update_fields=["pattern_given", "corners_given", "report", "status"])
    write(
        job,
        person.username,
        "photo_corrected",
        f"Photo '{photo.name}': pattern or corners given by hand.",
        photo=photo.pk,
        pattern=photo.pattern_given,
        corners=photo.corners_given,
    )
    tasks.enqueue(photo.run)
    return photo


@transaction.atomic
def analyse_again(user: Person, run_id: int) -> None:
    """Have a run's photos read and judged once more, after an error."""
    require(user, "job.change")
    run = get_object_or_404(Run.objects.select_related("job"), pk=run_id)
    lock_stage(run.job_id, run.stage)
    if run.photos.filter(removed=False).exists():
        run.photos.filter(status="refused").update(report=None, status="queued")
        run.photos.filter(tries__gt=0).update(tries=0)
        Run.objects.filter(pk=run.pk).update(status="queued", tries=0, tried_at=None)
        tasks.enqueue(run)


@transaction.atomic
def remove_photo(user: Person, photo_id: int, removed: bool) -> Photo:
    """Take a photo out of its set, or put it back; the file and the record stay."""
    person = require(user, "job.change")
    photo = get_object_or_404(Photo.objects.select_related("run__job"), pk=photo_id)
    job = lock_stage(photo.run.job_id, photo.run.stage)
    if photo.removed != removed:
        photo.removed = removed
        photo.save(update_fields=["removed"])
        write(
            job,
            person.username,
            "photo_removed" if removed else "photo_restored",
            f"Photo '{photo.name}' {'taken out of' if removed else 'put back into'} '{STAGES[photo.run.stage].title}'.",
            photo=photo.pk,
        )
        if photo.run.stage not in UNMEASURED:
            tasks.enqueue(photo.run)
    return photo

"""Judgements enter the record: what was concluded, by which profile and which core, from which photos, so that a verdict can be traced later."""

from collections.abc import Sequence
from typing import Any

from lens import core_version
from lens.reporting import digest
from server.jobs.models import Entry, Job
from server.jobs.record import append

WHO = "Clear Lens"
WORDS = {"pass": "pass", "fail": "fail", "not_proven": "not proven"}


def enter(
    job: Job, stage: str, part: str, verdict: str, words: str, result: dict[str, Any], **basis: Any
) -> Entry | None:
    """Chain a judgement of a stage's ``part`` (picture or touch); nothing where the last one said the same from the same.

    job : locked by the caller, in whose transaction the result is stored
    result : the whole result as JSON, of which the hash is kept
    basis : what else it stands on, as JSON: the profile's id and hash, hashes of photos or events
    """
    data = {
        "stage": stage,
        "part": part,
        "verdict": verdict,
        "core_version": core_version(),
        "result_sha256": digest(result),
        **basis,
    }
    before = Entry.objects.filter(job=job, kind="judged", data__stage=stage, data__part=part).order_by("-id").first()
    if before is not None and before.data == data:
        return None
    return append(job, WHO, "judged", f"{words}: {WORDS[verdict]}.", data)


def photos_digest(sha256s: Sequence[str]) -> str:
    """One hash for a set of photos, whatever their order."""
    return digest(sorted(sha256s))

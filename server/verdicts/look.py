"""A job as one request looks at it: what was measured is read once, whoever asks for it."""

from functools import cached_property
from typing import Any

from django.http import Http404

from lens.diagnosis import Diagnosis
from lens.inspecting import Comparison, Witness, bear_witness
from lens.progress import JobVerdict
from lens.records import Inspection
from lens.touch import TouchComparison, TouchResult, TouchSeen
from server.handchecks.actions import touch_seen_at
from server.jobs.core_adapter import diagnose_job
from server.jobs.models import Evidence, Job
from server.verdicts import comparison, results_of, touch_comparison, touch_results, verdicts_by_stage

NEEDED = ("runs__touches", "evidence__by", "gates__by", "followed", "handchecks__by")


class JobLook:
    """Lazily what is known of a job; a constant number of queries."""

    def __init__(self, job: Job) -> None:
        self.job = job
        self.kept: dict[str, Any] = {}  # what apps above reckon once a request

    @classmethod
    def at(cls, job_id: int, *prefetch: str) -> "JobLook":
        """Of a stored job; raises Http404."""
        wanted = Job.objects.select_related(
            "wanted_panel", "chosen_offer__panel", "chosen_offer__supplier", "device", "created_by", "assigned_to"
        )
        job = wanted.prefetch_related(*dict.fromkeys((*NEEDED, *prefetch))).filter(pk=job_id).first()
        if job is None:
            raise Http404
        return cls(job)

    @cached_property
    def answers(self) -> list[Evidence]:
        return list(self.job.evidence.all())

    @cached_property
    def results(self) -> dict[str, Inspection]:
        return results_of(self.job)

    @cached_property
    def touched(self) -> dict[str, TouchResult]:
        return touch_results(self.job)

    @cached_property
    def witness(self) -> Witness | None:
        both = {"inspect", "external"} <= set(self.results)
        return bear_witness(self.results["inspect"], self.results["external"]) if both else None

    @cached_property
    def comparison(self) -> Comparison | None:
        return comparison(self.job, self.results)

    @cached_property
    def touch_comparison(self) -> TouchComparison | None:
        return touch_comparison(self.touched)

    @cached_property
    def dragged(self) -> TouchSeen | None:
        return touch_seen_at(self.job, "inspect")

    @cached_property
    def diagnosis(self) -> Diagnosis:
        return diagnose_job(
            self.job, self.answers, self.results.get("inspect"), self.witness, self.touched.get("inspect"), self.dragged
        )

    @cached_property
    def answered(self) -> int:
        """How many things are known that speak for or against a cause."""
        standing = sum(not answer.withdrawn for answer in self.answers)
        return standing + ("inspect" in self.results) + ("inspect" in self.touched or self.dragged is not None)

    @cached_property
    def stages(self) -> dict[str, JobVerdict]:
        return verdicts_by_stage(self.job)

"""Load the demo jobs once. Photos are shot by the simulated camera and analysed by the worker."""

from datetime import timedelta
from typing import Any

from django.contrib.auth.models import User
from django.core.management.base import BaseCommand
from django.db.models import F

from lens.errors import BadInput
from lens.fitting import Procedure, StepNotes, inspection_of
from lens.steps import order
from server.fitting.actions import parts_to_move, pass_gate
from server.fitting.following import procedure_of
from server.fitting.models import GatePassed
from server.handchecks.actions import answer_function
from server.incoming.actions import decide
from server.inspections.models import Run
from server.jobs.actions import hand_over
from server.jobs.models import Job
from server.proving.verdict import verdict_of
from server.simbench.catalogue import load_orders
from server.simbench.world import (
    describe_shop,
    draw_touch,
    load_catalogue,
    make_incoming,
    make_job,
    read_world,
    shoot_and_wait,
)
from server.verdicts.look import JobLook

WENT_ON = "What is open is looked at again on the closed device"  # of demo gates whose dry fit is not all proven


PASSED = timedelta(days=2)


class Command(BaseCommand):
    help = "Load the demo world once."

    def handle(self, *args: Any, **options: Any) -> None:
        world = read_world()
        load_catalogue(world)
        describe_shop(User.objects.get(username="lead"), world["shop"])
        load_orders(world, User.objects.get(username="lead"))
        user = User.objects.get(username="bench")
        known = set(Job.objects.values_list("title", flat=True))
        fresh = [told for told in world["jobs"] if told["title"] not in known]
        jobs = [(make_job(user, told), told) for told in reversed(fresh) if not told.get("comes_back")]
        if not fresh:
            return
        self.stdout.write("The simulated camera is shooting the demo jobs; they fill up over the next minutes.")
        for job, told in reversed(jobs):
            self._as_far_as_it_goes(user, job, told)
        for told in fresh:
            if told.get("comes_back"):
                self._as_far_as_it_goes(user, make_job(user, told), told)
        for told in world["incoming"]:
            self._inspect(user, told)
        self.stdout.write(f"The demo world is complete: {Job.objects.count()} jobs, {Run.objects.count()} inspections.")

    def _as_far_as_it_goes(self, user: User, job: Job, told: dict[str, Any]) -> None:
        try:
            self._carry_on(user, job, told)
        except BadInput as reason:
            self.stderr.write(f"Demo job '{job.title}' stopped where a real one would: {reason.message}")

    def _inspect(self, user: User, told: dict[str, Any]) -> None:
        """A panel that came, and what became of it."""
        if Job.objects.filter(subject="panel", serial_printed=told["serial"]).exists():
            return
        job = make_incoming(user, told)
        if job is None:
            self.stderr.write(f"No panel of {' from '.join(told['offer'])} has arrived: none is inspected.")
            return
        shoot_and_wait(user, job, "inspect", "triage")
        if "decision" in told:
            decide(user, job.pk, told["decision"], told.get("note", ""))

    def _carry_on(self, user: User, job: Job, told: dict[str, Any]) -> None:
        """Photos and gates of one job, up to where the world says it stands."""
        gates = dict(told.get("gates", {}))
        for stage in told.get("draw", ()):
            draw_touch(user, job, stage)
        for stage, set_names in told.get("shoot", {}).items():
            if stage == "closed":
                self._pass(user, job, gates)
            for set_name in set_names.split():
                shoot_and_wait(user, job, stage, set_name, told.get("again", ()))
        self._pass(user, job, gates)
        for function, outcome in told.get("functions", {}).items():
            answer_function(user, job.pk, function, outcome)
        if told.get("close"):
            verdict = verdict_of(JobLook.at(job.pk))
            said = verdict if verdict.measured else None
            hand_over(user, job.pk, told.get("turned_out", ()), said, told.get("because", ""))

    @staticmethod
    def _pass(user: User, job: Job, gates: dict[str, str]) -> None:
        """Steps in the order of the file up to the last one that the world names, with the choices that it makes."""
        job.refresh_from_db()
        procedure = procedure_of(job)
        if not gates or procedure is None:
            return
        known = {step.id: step for step in procedure.steps}
        wanted = [done.step for done in order(procedure.graph, choices=gates)]
        last = len(wanted) - 1 if "close" in gates else max(n for n, name in enumerate(wanted) if name in gates)
        for name in wanted[: last + 1]:
            step = known[name]
            counts = {group: abs(usual) for group, usual in step.counts.items()}
            choice = gates.get(name) or next(iter(step.choices), "")
            unproven = inspection_of(step) is not None
            whose = User.objects.get(username="lead") if unproven else user
            pass_gate(whose, job.pk, name, choice, WENT_ON if unproven else "", counts, _noted(job, procedure, name))
            if step.clocks:  # the demo's clocks have run out: nobody waits for a cure while it loads
                GatePassed.objects.filter(job=job).update(at=F("at") - PASSED)


def _noted(job: Job, procedure: Procedure, name: str) -> StepNotes:
    """What a careful technician notes with a step."""
    step = next(one for one in procedure.steps if one.id == name)
    told = {
        "held_s": step.hold_s,
        "heat": {"source": "hot_air", "cycles": 3, "seconds": 60, "battery_c": 42} if "heat" in step.notes else None,
        "adhesive": {"kind": "tape", "thickness_mm": 0.3, "gap_mm": 0.35} if "adhesive" in step.notes else None,
        "parts": dict.fromkeys(parts_to_move(job, procedure), "moved") if step.moves else {},
        "liners": dict.fromkeys(step.liners, "off"),
    }
    return StepNotes.model_validate(told)

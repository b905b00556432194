"""People, jobs and photos for the server's tests."""

import json
from typing import Any

import numpy as np
from django.contrib.auth.models import Group, User
from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import connection
from django.test import Client, TransactionTestCase
from procrastinate.contrib.django import app

from lens.panel import make_panel
from lens.patterns import get_pattern, render
from lens.simulate import Camera, DeviceFault, FaultyPanel, emit, photograph, random_pose
from server.accounts.policy import ensure_roles
from server.inspections.models import Run
from server.readings.tasks import read_file

PANEL = make_panel(640, 400)
JOB = {
    "title": "Counter laptop",
    "device_type": "clamshell",
    "panel_width": 640,
    "panel_height": 400,
    "complaint": "Dots.",
    "build": "ears",
}
FACETS = ("isolate", "pictures", "touch", "comparisons", "documents")
DEAD = (DeviceFault(kind="dead_pixel", x=200, y=150),)


def person(name: str, role: str | None = "technician") -> User:
    ensure_roles()
    user = User.objects.create_user(name, password="long-enough-1")
    if role:
        user.groups.set(Group.objects.filter(name=role))
    return user


def notes_for(step: dict[str, Any], state: dict[str, Any]) -> dict[str, Any]:
    """All that a step asks to be noted."""
    told: dict[str, Any] = {"held_s": step["hold_s"]}
    if "heat" in step["notes"]:
        told["heat"] = {"source": "hot_air", "cycles": 2, "seconds": 45, "battery_c": 41.0}
    if "adhesive" in step["notes"]:
        told["adhesive"] = {"kind": "tape"}
    if step["moves"]:
        told["parts"] = {part["id"]: "moved" for part in state["parts"] if not part["comes"]}
    told["liners"] = dict.fromkeys(step["liners"], "off")
    return told


class Bench:
    """A signed-in person's requests, by their verbs."""

    def __init__(self, user: User) -> None:
        self.client, self.user = Client(), user
        self.client.force_login(user)

    def call(self, method: str, path: str, body: Any = None, **headers: str) -> tuple[int, Any]:
        answer = self.client.generic(
            method, f"/api{path}", json.dumps(body) if body is not None else "", "application/json", headers=headers
        )
        return answer.status_code, json.loads(answer.content) if answer.content and "json" in answer[
            "Content-Type"
        ] else answer.content

    def ok(self, method: str, path: str, body: Any = None) -> Any:
        status, told = self.call(method, path, body)
        if status >= 300:
            raise AssertionError(f"{method} {path}: {status} {told}")
        if isinstance(told, dict) and "verdict" in told and "stations" in told:
            told = self.whole(told)
        return told

    def whole(self, head: dict[str, Any]) -> dict[str, Any]:
        """A job's head with all of its facets, as its screen puts them together."""
        facets = {name: head.pop(name, None) for name in FACETS}
        for name, facet in facets.items():
            head |= facet or self.ok("GET", f"/jobs/{head['id']}/{name}")
        return head

    def read(self, kind: str, data: bytes, **fields: Any) -> dict[str, Any]:
        """Send a file to be read, have a worker read it, and give what it says; with ``take_in`` a table is taken in as well."""
        take_in = fields.pop("take_in", False)
        answer = self.client.post("/api/readings", {"file": SimpleUploadedFile("file", data), "kind": kind, **fields})
        if answer.status_code != 202:
            raise AssertionError(f"{kind}: {answer.status_code} {answer.content!r}")
        path = f"/readings/{answer.json()['id']}"
        read_file(answer.json()["id"])
        if take_in:
            self.ok("POST", f"{path}/take-in")
            read_file(answer.json()["id"])
        return dict(self.ok("GET", path))

    def look_by_eye(self, job_id: int, stage: str = "dry_fit") -> None:
        """Find all of it good by eye."""
        for aspect in ("picture", "light", "touch"):
            self.ok("POST", f"/jobs/{job_id}/proving/eye/{stage}", {"aspect": aspect, "outcome": "good"})

    def test_functions(self, job_id: int) -> None:
        """Find every function that was touched good."""
        for one in self.ok("GET", f"/jobs/{job_id}/proving")["functions"]:
            self.ok("POST", f"/jobs/{job_id}/proving/functions", {"function": one["id"], "outcome": "good"})

    def work_to(self, job_id: int, last: str, by_eye: bool = False) -> dict[str, Any]:
        """Do the steps of the job's build, in the order of the file, up to one that stays undone. ``by_eye``: the dry fit is looked at by eye."""
        state = dict(self.ok("GET", f"/jobs/{job_id}/fit"))
        while True:
            step = next(one["step"] for one in state["steps"] if one["state"] == "open")
            if step["id"] == last:
                return state
            if step["id"] == "dry_fit" and by_eye:
                self.look_by_eye(job_id)
            counts = {group: abs(usual) for group, usual in step["counts"].items()}
            choice = next(iter(step["choices"]), "")
            state = dict(
                self.ok(
                    "POST",
                    f"/jobs/{job_id}/fit/gates",
                    {"gate": step["id"], "choice": choice, "counts": counts, "notes": notes_for(step, state)},
                )
            )

    def new_job(self, **fields: Any) -> dict[str, Any]:
        return dict(self.ok("POST", "/jobs", {**JOB, **fields}))

    def send(self, run_id: int, data: bytes, key: str, name: str = "photo.jpg") -> Any:
        file = SimpleUploadedFile(name, data, "image/jpeg")
        return self.client.post(f"/api/runs/{run_id}/photos", {"photo": file}, headers={"Idempotency-Key": key})


class InspectionCase(TransactionTestCase):
    """A person, a job and its first inspection, with an empty queue."""

    def setUp(self) -> None:
        with connection.cursor() as cursor:
            cursor.execute("truncate procrastinate_jobs cascade")
        self.bench = Bench(person("tech"))
        self.job = self.bench.new_job()
        self.run = fixed(self.bench.ok("POST", f"/jobs/{self.job['id']}/runs/inspect")["id"])


def fixed(run_id: int) -> Run:
    """A run whose markers are always the same: photos of a test do not change from one time to the next."""
    Run.objects.filter(pk=run_id).update(run_code=70 + len(Run.objects.get(pk=run_id).stage))
    return Run.objects.get(pk=run_id)


def photo(run: Run, pattern: str, faults: tuple[DeviceFault, ...] = DEAD, seed: int = 3) -> bytes:
    """A handheld photo of a run's pattern."""
    rng = np.random.default_rng(seed)
    light = emit(FaultyPanel(panel=PANEL, faults=faults), render(PANEL, get_pattern(pattern), run.run_code))
    camera = Camera(width=1500, height=1125)
    return photograph(light, camera, random_pose(PANEL, camera, rng), rng).data


def work() -> None:
    """Run all queued jobs in this process, as a worker would."""
    with app.replace_connector(app.connector.get_worker_connector()) as working:
        working.run_worker(wait=False, install_signal_handlers=False, listen_notify=False)

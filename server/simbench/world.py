"""The demo world as data (demo/world.yaml) made into people, panels, offers and jobs."""

import time
from collections.abc import Sequence
from datetime import timedelta
from decimal import Decimal
from pathlib import Path
from typing import Any

import yaml
from django.contrib.auth.models import Group, User
from django.db import transaction
from django.utils import timezone

from lens.patterns import get_set
from lens.simulate import DeviceFault
from lens.touch import Outline
from server.accounts.policy import ensure_roles
from server.incoming.actions import Begun, begin
from server.inspections.actions import choose_set, open_run
from server.jobs.actions import answer_check, change_job, create_job, go_to_station, person_called
from server.jobs.models import Job
from server.parts.actions import choose_offer, name_panel
from server.parts.devices import name_device
from server.parts.models import Device, Offer, PanelModel
from server.purchasing.models import ARRIVED, OrderLine
from server.shop.actions import change_shop, the_shop
from server.simbench.catalogue import load_registers
from server.simbench.device import DRIVEN
from server.simbench.finger import draw
from server.simbench.tasks import shoot_one
from server.touch.actions import close_session, is_cracked_at, start_session

WORLD = Path(__file__).resolve().parents[2] / "demo" / "world.yaml"
PASSWORD = "lens-demo"
BUILDS = {"clamshell": "ears", "handset": "phone_front", "tablet": "tablet"}  # where the world says nothing
WAIT_S = 300
SOAK_S, FINGERS = 60, 2


def read_world() -> dict[str, Any]:
    """The data file."""
    return dict(yaml.safe_load(WORLD.read_text(encoding="utf-8")))


@transaction.atomic
def load_catalogue(world: dict[str, Any]) -> None:
    """People, and the shop's registers."""
    ensure_roles()
    for person in world["people"]:
        user, new = User.objects.get_or_create(username=person["name"])
        if new:
            user.set_password(PASSWORD)
            user.save()
            user.groups.set(Group.objects.filter(name=person["role"]))
    load_registers(world, User.objects.get(username=world["people"][0]["name"]))


def _fault(row: list[Any] | dict[str, Any]) -> dict[str, Any]:
    told = row if isinstance(row, dict) else dict(zip(("kind", "x", "y", "channel"), row, strict=True))
    return DeviceFault.model_validate(told).model_dump(mode="json")


@transaction.atomic
def make_job(user: User, told: dict[str, Any]) -> Job:
    """A job with its answers and its panel; photos and gates come later."""
    width, height, diagonal = told["panel"]
    words = ("title", "device_type", "owner", "complaint", "visible_damage", "accessories", "serial_printed")
    values = {name: told.get(name, "") for name in words}
    profile = told.get("profile", "class-II")
    job = create_job(
        user,
        {
            **values,
            "panel_width": width,
            "panel_height": height,
            "diagonal_in": diagonal,
            "profile": profile,
            "build": told.get("build", BUILDS.get(told["device_type"], "")),
        },
    )
    if "device" in told:
        name_device(user, job.pk, Device.objects.get(names__contains=[told["device"]], generation="").pk)
    job.simulated = {part: [_fault(row) for row in rows] for part, rows in told["faults"].items()}
    job.simulated |= {
        name: told[name]
        for name in (*DRIVEN, "reflections", "specks", "edid", "replacement_edid", "outside", "touch")
        if name in told
    }
    job.save(update_fields=["simulated"])
    for check, outcome in told.get("answers", {}).items():
        answer_check(user, job.pk, check, outcome, "seen")
    if "wanted" in told:
        name_panel(user, job.pk, PanelModel.objects.get(name=told["wanted"]).pk)
    if "offer" in told:
        panel, supplier = told["offer"]
        choose_offer(user, job.pk, Offer.objects.get(panel__name=panel, supplier__name=supplier).pk, True)
    for station in told.get("skip", []):
        go_to_station(user, job.pk, station, True)
    go_to_station(user, job.pk, told["station"], False)
    _plan(user, job, told.get("plan", {}))
    return job


@transaction.atomic
def begin_practice(user: User) -> Job:
    """The job that a person learns on: the one that is open, else a new one."""
    User.objects.select_for_update().get(pk=user.pk)  # two clicks at once begin one job
    job = Job.objects.filter(simulated__practice__by=user.username, closed_at=None).first()
    if job is None:
        told = read_world()["practice"]
        if not Device.objects.filter(names__contains=[told["device"]], generation="").exists():
            del told["device"]  # a register that somebody emptied
        job = make_job(user, {**told, "plan": {"with": user.username}})
        practice = {"by": user.username, "cause": told["cause"], "number": told["number"]}
        job.simulated = {**(job.simulated or {}), "practice": practice}
        job.save(update_fields=["simulated"])
    return job


@transaction.atomic
def make_incoming(user: User, told: dict[str, Any]) -> Job | None:
    """The inspection of a panel that came with the last order of an offer; None where none came."""
    panel, supplier = told["offer"]
    line = OrderLine.objects.filter(
        offer__panel__name=panel, offer__supplier__name=supplier, order__state=ARRIVED, inspections=None
    ).last()
    if line is None:
        return None
    job = begin(user, Begun(line_id=line.pk), "rig", told.get("serial", ""), "class-II", True)
    job.simulated = {"original": [_fault(row) for row in told["faults"]]}
    job.save(update_fields=["simulated"])
    return job


def describe_shop(lead: User, told: dict[str, Any]) -> None:
    """The shop's particulars, where nobody entered any yet."""
    if the_shop().version == 0:
        money = ("tax_percent", "hourly_rate", "delay_cost_a_day", "round_to")
        change_shop(lead, 0, {**told, **{name: Decimal(told[name]) for name in money}})


def _plan(user: User, job: Job, plan: dict[str, Any]) -> None:
    """Who has a job, when it is due, what it waits for."""
    values: dict[str, Any] = {name: plan[name] for name in ("urgent", "waiting_for") if name in plan}
    if "with" in plan:
        values["assigned_to"] = person_called(plan["with"])
    if "due_in_days" in plan:
        values["due_on"] = timezone.localdate() + timedelta(days=plan["due_in_days"])
    if values:
        job.refresh_from_db(fields=["version"])
        change_job(user, job.pk, job.version, values)


def draw_touch(user: User, job: Job, stage: str) -> None:
    """A whole touch session of a stage by the simulated finger."""
    run = open_run(user, job.pk, stage)
    session = start_session(user, run.pk, SOAK_S, FINGERS, Outline(), "film" if is_cracked_at(run) else "bare")
    draw(session)
    close_session(user, session.pk)


def shoot_and_wait(user: User, job: Job, stage: str, set_name: str, again: Sequence[str] = ()) -> None:
    """All photos of a stage, some patterns once ``again``, analysed by the worker."""
    run = open_run(user, job.pk, stage)
    choose_set(user, run.pk, set_name)
    for pattern in get_set(set_name).patterns:
        shoot_one(run.pk, pattern, 1)
    for pattern in again:
        shoot_one(run.pk, pattern, 2)
    end = time.monotonic() + WAIT_S
    while time.monotonic() < end:
        run.refresh_from_db()
        if run.status == "done" and not run.photos.filter(report__isnull=True).exists():
            return
        time.sleep(0.3)

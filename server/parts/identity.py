"""Which panel of the register is in a job's device: everything that the job tells, gathered for the core."""

from collections.abc import Mapping
from functools import reduce
from operator import or_

from django.db import transaction
from django.db.models import Q

from lens.edid import Edid
from lens.errors import BadInput
from lens.matching import (
    IdentityEvidence,
    PanelIdentity,
    edid_identity,
    identify,
    normal_number,
    spec_of_edid,
    take_over,
)
from server.accounts.policy import require
from server.jobs.actions import Person, lock_open_job
from server.jobs.models import Job
from server.jobs.record import write
from server.parts.actions import history_is_enough
from server.parts.devices import found_in
from server.parts.models import PanelModel
from server.parts.register import learn, today
from server.profiles.history import words


def edid_of(job: Job) -> Edid | None:
    """The EDID of the panel in the device, as far as one was read and its sum is right."""
    if not job.edid:
        return None
    edid = Edid.model_validate(job.edid["decoded"])
    return edid if edid.checksum_ok else None


def likely_panels(job: Job, label: Mapping[str, float] | None = None) -> list[tuple[PanelModel, PanelIdentity, bool]]:
    """Panels that something speaks for, the likeliest first, each with whether the shop orders it by history alone.

    Parameters
    ----------
    label : chance of each number of the register by its label
    """
    history = found_in(job.device) if job.device else []
    edid, size = edid_of(job), (job.panel_width, job.panel_height)
    found = {panel.pk: panel for panel, _, _ in history}
    for panel in _named_by(edid, label or {}):
        found.setdefault(panel.pk, panel)
    evidence = IdentityEvidence({panel.name: jobs for panel, jobs, _ in history}, label or {}, edid, size)
    told = identify([panel.specification for panel in found.values()], evidence)
    by_name = {panel.name: panel for panel in found.values()}
    enough = {panel.name: history_is_enough(job, jobs, of) for panel, jobs, of in history}
    return [(by_name[one.part_number], one, enough.get(one.part_number, False)) for one in told]


def _named_by(edid: Edid | None, label: Mapping[str, float]) -> list[PanelModel]:
    """Panels that an EDID or a label names."""
    wanted = [Q(name__in=list(label))] if label else []
    if edid is not None:
        texts = [normal_number(name) for name in edid.names if normal_number(name)]
        wanted += [Q(spec__edid_identity=edid_identity(edid)), Q(normal__in=texts)]
    return list(PanelModel.objects.filter(reduce(or_, wanted), retired=False)[:50]) if wanted else []


def edid_tells(job: Job) -> dict[str, str]:
    """What the EDID says of the named panel that the register does not know, or knows from a weaker source; in words, by field. Nothing where its
    resolution is not the panel's: then one of both is another panel's."""
    edid, panel = edid_of(job), job.wanted_panel
    if edid is None or panel is None:
        return {}
    told, spec = spec_of_edid(edid), panel.specification
    if None not in (told.width, spec.width, told.height, spec.height) and (told.width, told.height) != (
        spec.width,
        spec.height,
    ):
        return {}
    after = take_over(spec, panel.value_sources, told, "edid", today()).spec.model_dump(mode="json")
    before = spec.model_dump(mode="json")
    return {name: words(value) for name, value in after.items() if value != before[name]}


@transaction.atomic
def learn_edid(user: Person, job_id: int) -> Job:
    """Take over into the register what the job's EDID says of its panel. Raises BadInput where it says nothing new."""
    person = require(user, "job.change")
    job = lock_open_job(job_id)
    edid, panel, tells = edid_of(job), job.wanted_panel, edid_tells(job)
    if edid is None or panel is None or not tells:
        raise BadInput("The EDID says nothing of this panel that the register does not know.", "edid_nothing_new")
    learn(user, panel.pk, spec_of_edid(edid), "edid")
    names = ", ".join(name.replace("_", " ") for name in tells)
    write(
        job,
        person.username,
        "panel",
        f"From the EDID into the register: {names} of {panel.name}.",
        panel=panel.name,
        facets=("match",),
    )
    panel.refresh_from_db()
    return job

"""What may hurt somebody, or cost a sound panel, is said before anything else: cautions travel with every step, and some steps are not for everybody.

- A set on mains holds dangerous voltage in its supply even unplugged, a lamp tube strikes at a kilovolt (common practice): nothing inside is advised,
  it goes to qualified people.
- A swollen battery stops the job until it is out of it (common practice).
- A panel on a wrong signal, or a live plug, can be burnt: power down before anything, and nothing under power (common practice).
- Liquid: nothing under power and no charging while it is wet (common practice).
- A picture that stays and fades again is no wear, so no panel is advised for it (common practice).
"""

from collections.abc import Mapping, Sequence
from typing import NamedTuple

from lens.diagnosis.evidence import REPAIR, Seen
from lens.diagnosis.load import Model
from lens.diagnosis.steps import Diagnosis, NextStep, PlanStep, Stop

ON_MAINS = ("all_in_one",)
QUALIFIED = "Mains-powered set: its supply is dangerous even unplugged. Qualified people only."
TUBES = (
    "Lamp tube inside: its inverter makes a kilovolt and the tube holds mercury. Stop, and hand it to somebody trained."
)
POWER_DOWN = "Power down and unplug before anything else: a wrong signal, or a display plug under power, can burn the panel or its driver."
SWOLLEN = "Swollen battery: stop. Isolate it, no heat, no charging, nothing bent; follow local hazardous-waste rules."
WET = "Liquid: power off, battery unplugged or out, no charging while it is wet."
HAND_ON, HAND_ON_MINUTES, TELL = "send_on", 30.0, "tell_owner"
ISOLATE, UNPLUG, DRY = "isolate_battery", "power_down", "dry"
NEW_PANEL = ("panel", "right_panel", "display")
WRONG = ("wrong_signal", "wrong_panel")
LIGHT = ("backlight_string", "lamp_driver")
TUBE_ENOUGH = 0.3  # of a fault of the light in a set with tubes: it is handed on at once
LIKELY_ENOUGH = 0.1  # of a wrong signal or panel: it is looked for before power is on again
NOT_UNDER_POWER = 0.25  # of a wrong signal: nothing more is tried under power
WET_ENOUGH = 0.5  # of liquid: the same


class Hazards(NamedTuple):
    """What stands before the arithmetic: ``cautions`` on every step, checks and repairs ``not_asked``, the step that comes ``first`` (None: none),
    whether that step ``ends`` the advice, and whether ``nothing_inside`` is advised."""

    cautions: tuple[str, ...]
    not_asked: tuple[str, ...]
    first: str | None
    ends: bool
    nothing_inside: bool


def hazards_of(model: Model, device: str, evidence: Sequence[Seen], share: Mapping[str, float]) -> Hazards:
    """The hazards of what is known; ``share`` is P(cause) by id."""
    said = {(seen.check, outcome) for seen in evidence for outcome in seen.outcomes}
    tube = ("mains_inside", "tube") in said
    mains = device in ON_MAINS or ("mains_inside", "mains") in said
    swollen = ("battery_bulge", "bulges") in said and (REPAIR + ISOLATE, "same") not in said
    wrong = sum(share.get(cause, 0.0) for cause in WRONG)
    no_power = share.get("wrong_signal", 0.0) >= NOT_UNDER_POWER
    wet = share.get("liquid", 0.0) >= WET_ENOUGH and (REPAIR + DRY, "same") not in said
    cautions = [
        text
        for text, there in (
            (SWOLLEN, swollen),
            (POWER_DOWN, wrong >= LIKELY_ENOUGH),
            (WET, wet),
            (TUBES, tube),
            (QUALIFIED, mains),
        )
        if there
    ]
    not_asked = [
        name
        for name, check in model.checks.items()
        if (check.inside and (mains or tube)) or (check.power == "on" and (no_power or wet))
    ]
    # no charging while it is wet, or while a live plug may burn the panel
    not_asked += [REPAIR + name for name, repair in model.repairs.items() if repair.power == "on" and (no_power or wet)]
    first = None
    light = sum(share.get(cause, 0.0) for cause in LIGHT)
    if tube and light >= TUBE_ENOUGH and HAND_ON in model.repairs and (REPAIR + HAND_ON, "same") not in said:
        first = HAND_ON
    elif swollen and ISOLATE in model.repairs:
        first = ISOLATE
    elif no_power and UNPLUG in model.repairs and not any(check == REPAIR + UNPLUG for check, _ in said):
        first = UNPLUG
    return Hazards(tuple(cautions), tuple(not_asked), first, first in (ISOLATE, HAND_ON), mains or tube)


def made_safe(model: Model, evidence: Sequence[Seen], hazards: Hazards, told: Diagnosis) -> Diagnosis:
    """The same diagnosis with cautions on every step, without steps that are not to be advised."""
    told = _without_a_panel_for_what_fades(model, evidence, told)
    if hazards.nothing_inside:
        told = _nothing_inside(model, TUBES if TUBES in hazards.cautions else QUALIFIED, told)
    cautions = hazards.cautions

    def of(kind: str, name: str) -> tuple[str, ...]:
        known = (model.checks if kind == "check" else model.repairs).get(name)
        return (*cautions, *(known.cautions if known else ()))

    return told.model_copy(
        update={
            "cautions": cautions,
            "next": tuple(step.model_copy(update={"cautions": of(step.kind, step.id)}) for step in told.next),
            "plan": tuple(step.model_copy(update={"cautions": of(step.kind, step.id)}) for step in told.plan),
        }
    )


def _inside(model: Model, kind: str, name: str) -> bool:
    known = (model.checks if kind == "check" else model.repairs).get(name)
    return known is not None and known.inside


def _hand_on(model: Model, points_to: str, why: str) -> NextStep:
    repair = model.repairs.get(HAND_ON)
    return NextStep(
        kind="repair",
        id=HAND_ON,
        title=repair.title if repair else "Give it to qualified people",
        expected_saving_per_minute=0.0,
        reason=f"It points to: {points_to}. {why}",
    )


def _nothing_inside(model: Model, why: str, told: Diagnosis) -> Diagnosis:
    allowed = [step for step in told.next if not _inside(model, step.kind, step.id) and step.id != HAND_ON]
    dropped = next((step for step in told.next if step.kind == "repair" and _inside(model, "repair", step.id)), None)
    on = _hand_on(model, dropped.title if dropped else "work inside", why)
    plan: list[PlanStep] = []
    for step in told.plan:
        if _inside(model, step.kind, step.id):
            on_step = {
                "kind": "repair",
                "id": HAND_ON,
                "title": on.title,
                "minutes": HAND_ON_MINUTES,
                "assumes": "It is mended",
            }
            plan.append(step.model_copy(update=on_step))
            break
        plan.append(step)
    stop = told.stop
    if stop.repair is not None and _inside(model, "repair", stop.repair):
        on = _hand_on(model, model.repairs[stop.repair].title, why)
        stop = Stop(advised=stop.advised, repair=HAND_ON, reason=f"{on.title}. {on.reason}")
        return told.model_copy(update={"next": (on, *allowed), "plan": tuple(plan), "stop": stop})
    if stop.repair == HAND_ON:
        on = next((step for step in told.next if step.id == HAND_ON), on)
        return told.model_copy(update={"next": (on, *allowed), "plan": tuple(plan)})
    return told.model_copy(update={"next": (*allowed, on), "plan": tuple(plan), "stop": stop})


def _without_a_panel_for_what_fades(model: Model, evidence: Sequence[Seen], told: Diagnosis) -> Diagnosis:
    fades = any(seen.check == "fades" and "fades" in seen.outcomes for seen in evidence)
    if not fades or not told.causes or told.causes[0].id not in ("wear", "retention", "software"):
        return told
    steps = tuple(step for step in told.next if step.id not in NEW_PANEL)
    plan = tuple(step for step in told.plan if step.id not in NEW_PANEL)
    stop = told.stop
    if stop.repair in NEW_PANEL:
        steps = tuple(sorted(steps, key=lambda step: step.id != TELL))
        stop = Stop(
            advised=True,
            repair=TELL,
            reason="The picture that stayed fades: no panel is needed. Show moving pictures, less bright.",
        )
    return told.model_copy(update={"next": steps, "plan": plan, "stop": stop})

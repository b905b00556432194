"""What may hurt somebody, or cost a sound panel, is said before anything else: cautions travel with every step, and some steps are not for everybody.

- A set on mains holds dangerous voltage in its supply even unplugged (common practice): nothing inside it is advised, it goes to qualified people.
- A panel on a wrong signal, or a live plug, can be burnt: power down before anything (common practice).
- A picture that stays and fades again is no wear, so no panel is advised for it (common practice).
"""

from collections.abc import Sequence

from lens.diagnosis.evidence import Seen
from lens.diagnosis.load import Model
from lens.diagnosis.steps import Diagnosis, NextStep, PlanStep, Stop

ON_MAINS = ("all_in_one",)
QUALIFIED = "Mains-powered set: its supply is dangerous even unplugged. Qualified people only."
POWER_DOWN = "Power down and unplug before anything else: a wrong signal, or a display plug under power, can burn the panel or its driver."
HAND_ON, HAND_ON_MINUTES, SETTINGS = "send_on", 30.0, "settings"
NEW_PANEL = ("panel", "right_panel")
WRONG = ("wrong_signal", "wrong_panel")
LIKELY_ENOUGH = 0.1  # of a wrong signal or panel: it is looked for before power is on again


def made_safe(model: Model, device: str, evidence: Sequence[Seen], told: Diagnosis) -> Diagnosis:
    """The same diagnosis with cautions on every step, without steps that are not to be advised."""
    told = _without_a_panel_for_what_fades(model, evidence, told)
    if device in ON_MAINS:
        told = _nothing_inside(model, told)
    share = {cause.id: cause.p for cause in told.causes}
    first = (POWER_DOWN,) if sum(share.get(cause, 0.0) for cause in WRONG) >= LIKELY_ENOUGH else ()
    always = (QUALIFIED,) if device in ON_MAINS else ()
    cautions = (*first, *always)

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


def not_for_everybody(model: Model, device: str) -> tuple[str, ...]:
    """Checks that are asked of nobody on such a device: those inside a set on mains."""
    return tuple(name for name, check in model.checks.items() if check.inside) if device in ON_MAINS else ()


def _inside(model: Model, kind: str, name: str) -> bool:
    known = (model.checks if kind == "check" else model.repairs).get(name)
    return known is not None and known.inside


def _hand_on(model: Model, points_to: str) -> NextStep:
    repair = model.repairs.get(HAND_ON)
    return NextStep(
        kind="repair",
        id=HAND_ON,
        title=repair.title if repair else "Give it to qualified people",
        expected_saving_per_minute=0.0,
        reason=f"It points to: {points_to}. That is inside a mains-powered set: qualified people only.",
    )


def _nothing_inside(model: Model, told: Diagnosis) -> Diagnosis:
    allowed = [step for step in told.next if not _inside(model, step.kind, step.id) and step.id != HAND_ON]
    dropped = next((step for step in told.next if step.kind == "repair" and _inside(model, "repair", step.id)), None)
    on = _hand_on(model, dropped.title if dropped else "work inside")
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
        on = _hand_on(model, model.repairs[stop.repair].title)
        stop = Stop(advised=stop.advised, repair=HAND_ON, reason=f"{on.title}. {on.reason}")
        return told.model_copy(update={"next": (on, *allowed), "plan": tuple(plan), "stop": stop})
    return told.model_copy(update={"next": (*allowed, on), "plan": tuple(plan), "stop": stop})


def _without_a_panel_for_what_fades(model: Model, evidence: Sequence[Seen], told: Diagnosis) -> Diagnosis:
    fades = any(seen.check == "fades" and "fades" in seen.outcomes for seen in evidence)
    if not fades or not told.causes or told.causes[0].id not in ("wear", "software"):
        return told
    steps = tuple(step for step in told.next if step.id not in NEW_PANEL)
    plan = tuple(step for step in told.plan if step.id not in NEW_PANEL)
    stop = told.stop
    if stop.repair in NEW_PANEL:
        first = [step for step in steps if step.id == SETTINGS]
        steps = (*first, *(step for step in steps if step.id != SETTINGS))
        stop = Stop(
            advised=bool(first),
            repair=SETTINGS if first else None,
            reason="The picture that stayed fades: no panel is needed. Show moving pictures, less bright.",
        )
    return told.model_copy(update={"next": steps, "plan": plan, "stop": stop})

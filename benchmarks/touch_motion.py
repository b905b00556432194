"""Rows of ./clear-lens benchmark touch: plans, reports that are not where the finger is, several fingers, before against after."""

import statistics
from collections.abc import Callable

import numpy as np

from lens.panel import Panel, make_panel
from lens.simulate.touch import Person, touch_fault, touch_session
from lens.touch import Plan, Session, analyse, compare_touch, read_session, standard_plan

PANELS = (
    make_panel(1080, 2400, 6.5),
    make_panel(720, 1280, 5.0),
    make_panel(1280, 800, 10.1),
    make_panel(1920, 1080, 15.6),
)
BESIDE_MM, TOO_SMALL = 8.0, 0.9
FINGERS, TOLD_APART = 5, 3
TREMOR_MM = (0.02, 0.15)  # each way; from memory: a fingertip at rest moves by a tenth of a millimetre or two
Move = Callable[[np.ndarray, np.ndarray, Panel], tuple[np.ndarray, np.ndarray]]
MOVES: dict[str, tuple[str, bool, Move]] = {
    "under the finger": ("right", False, lambda x, y, p: (x, y)),
    "mirrored": ("mirrored", True, lambda x, y, p: (p.width - 1 - x, y)),
    "axes exchanged": ("swapped", True, lambda x, y, p: (y * p.width / p.height, x * p.height / p.width)),
    "turned by a right angle": (
        "swapped_mirrored",
        True,
        lambda x, y, p: (p.width - 1 - y * p.width / p.height, x * p.height / p.width),
    ),
    "beside it by 8 mm": ("right", True, lambda x, y, p: (x + BESIDE_MM / (p.pitch_mm or 1), y)),
    "10 % too small": (
        "right",
        True,
        lambda x, y, p: (p.width / 2 + TOO_SMALL * (x - p.width / 2), p.height / 2 + TOO_SMALL * (y - p.height / 2)),
    ),
}


def random_person(rng: np.random.Generator, panel: Panel) -> Person:
    """From careful to sloppy; every other one has habits too: an own pace, a late finger, a palm, a smeared rest, a left hand."""
    person = Person(
        lag_ms=float(rng.uniform(80, 320)),
        wander_px=float(rng.uniform(2, 12)),
        jitter_px=float(rng.uniform(*TREMOR_MM)) / (panel.pitch_mm or 0.15),
        lifts_a_minute=float(rng.uniform(0, 3)),
    )
    if rng.random() < 0.5:
        return person
    pitch = panel.pitch_mm or 0.15
    return person.model_copy(
        update={
            "own_pace": float(rng.uniform(0, 0.12)),
            "late_ms": float(rng.uniform(0, 800)),
            "palm": bool(rng.random() < 0.5),
            "roll_px": float(rng.uniform(0, 12)),
            "bias_px": tuple(float(mm) / pitch for mm in (rng.uniform(-0.7, 0.7), rng.uniform(0, 0.7))),
        }
    )


def _drawn(panel: Panel, plan: Plan, rng: np.random.Generator, fault: str = "none") -> Session:
    size = (panel.width, panel.height)
    data = touch_session(
        size,
        panel.diagonal_in,
        plan.model_dump(mode="json"),
        *touch_fault(fault, size),
        random_person(rng, panel),
        rng=rng,
    )
    return read_session(data, panel)


def _plan_rows(seed: int) -> None:
    print("\npanel, inches     cells crossed   drawing")
    for panel in PANELS:
        plan = standard_plan(panel)
        drawing_s = sum(step.end_ms - step.start_ms for step in plan.steps if step.guided) / 1000
        coverage = analyse(_drawn(panel, plan, np.random.default_rng(seed))).coverage
        print(
            f"{panel.width} x {panel.height}, {panel.diagonal_in:<6g} {coverage:12.3f}   {drawing_s:5.0f} s", flush=True
        )


def _moved_rows(sets: int, seed: int) -> None:
    print("\nreports                    sets   told right   cells crossed")
    for name, (axes, displaced, move) in MOVES.items():
        right, coverage = 0, []
        for number in range(sets):
            panel = PANELS[number % len(PANELS)]
            session = _drawn(panel, standard_plan(panel), np.random.default_rng(seed + number))
            x, y = move(session.x, session.y, panel)
            result = analyse(session._replace(x=x, y=y))
            right += result.fit is not None and (result.fit.axes, result.fit.displaced) == (axes, displaced)
            coverage.append(result.coverage)
        print(f"{name:24s} {sets:6d}   {right / sets:10.2f}   {statistics.mean(coverage):13.3f}", flush=True)


def _finger_row(sets: int, seed: int) -> None:
    """All told apart; a layer that tells fewer; two that it takes for one another."""
    whole = fewer = exchanged = 0
    for number in range(sets):
        panel = PANELS[number % 2]
        plan = standard_plan(panel, fingers=FINGERS)
        session = _drawn(panel, plan, np.random.default_rng(seed + number))
        step = next(step for step in plan.steps if step.kind == "multi_touch")
        held = (session.t >= step.start_ms) & (session.t <= step.end_ms)
        names = np.unique(session.contact[held])
        kept = ~(held & np.isin(session.contact, names[TOLD_APART:]))
        few = session._replace(
            t=session.t[kept],
            contact=session.contact[kept],
            kind=session.kind[kept],
            x=session.x[kept],
            y=session.y[kept],
        )
        late, contact = held & (session.t > (step.start_ms + step.end_ms) / 2), session.contact.copy()
        contact[late & (session.contact == names[0])], contact[late & (session.contact == names[-1])] = (
            names[-1],
            names[0],
        )
        told = [analyse(one).fingers for one in (session, few, session._replace(contact=contact))]
        whole += told[0] is not None and (told[0].most, told[0].jumps) == (FINGERS, 0)
        fewer += told[1] is not None and told[1].most == TOLD_APART
        exchanged += told[2] is not None and told[2].jumps > 0
    print(
        f"\n{FINGERS} fingers, {sets} sets: told apart {whole / sets:.2f}; a layer for {TOLD_APART} told as such {fewer / sets:.2f}; "
        f"two that change places told {exchanged / sets:.2f}",
        flush=True,
    )


def _comparison_row(sets: int, seed: int) -> None:
    """The same fault twice, and with it gone and come, drawn by other hands."""
    pairs = (
        ("corner", "corner", "unchanged"),
        ("corner", "none", "better"),
        ("none", "row", "worse"),
        ("none", "none", "unchanged"),
    )
    right = 0
    for number in range(sets):
        panel, (before, after, wanted) = PANELS[number % len(PANELS)], pairs[number // len(PANELS) % len(pairs)]
        first, second = (
            analyse(_drawn(panel, standard_plan(panel), np.random.default_rng([seed + number, n]), fault))
            for n, fault in enumerate((before, after))
        )
        right += compare_touch(first, second).result == wanted
    print(f"before against after, {sets} pairs: told right {right / sets:.2f}", flush=True)


def print_motion(sets: int, seed: int) -> None:
    """All rows of plans and motion."""
    _plan_rows(seed)
    _moved_rows(sets, seed)
    _finger_row(sets, seed)
    _comparison_row(sets, seed)

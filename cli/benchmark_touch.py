"""./clear-lens benchmark touch: sessions of a simulated finger against their truth, and speed by the number of events."""

import json
import time
from collections.abc import Sequence

import numpy as np

from lens.diagnosis import with_suspects
from lens.panel import Panel, make_panel
from lens.simulate.touch import DeadBox, Person, touch_fault, touch_session
from lens.touch import Plan, analyse, read_session, standard_plan

PANELS = (make_panel(1080, 2400, 6.5), make_panel(1280, 800, 10.1), make_panel(1920, 1080, 15.6))
MOST_OF_CELL, SOME_OF_CELL = 0.6, 0.2
WANTED = {
    "half": ("touch_controller", "touch_flex"), "row": ("row_or_column_sense_line",), "column": ("row_or_column_sense_line",),
    "corner": ("digitizer_glass",), "rectangle": ("digitizer_glass",),
    "at_times": ("touch_flex", "touch_controller", "charger_noise", "adhesive_or_film"),
    "all": ("touch_flex", "touch_controller"), "spot": ("adhesive_or_film",), "stream": ("touch_controller",), "charger_rows": ("charger_noise",)}
EVENTS = (10_000, 100_000, 1_000_000)


def _cells(panel: Panel, plan: Plan, dead: Sequence[DeadBox], share: float) -> set[tuple[int, int]]:
    """Cells that dead boxes cover by at least a share in both directions."""
    wide, high = panel.width / plan.grid.columns, panel.height / plan.grid.rows

    def covered(low: float, high_: float, at: int, size: float) -> float:
        return max(0.0, min(high_, (at + 1) * size) - max(low, at * size)) / size

    return {
        (c, r) for c in range(plan.grid.columns) for r in range(plan.grid.rows) for box in dead
        if covered(box.left, box.right, c, wide) >= share and covered(box.top, box.bottom, r, high) >= share}


def _person(rng: np.random.Generator) -> Person:
    """From careful to sloppy."""
    return Person(
        lag_ms=float(rng.uniform(80, 320)), wander_px=float(rng.uniform(2, 12)), jitter_px=float(rng.uniform(0.3, 1.5)),
        lifts_a_minute=float(rng.uniform(0, 3)))


def _row(name: str, sets: int, seed: int) -> None:
    truth = hit = told = right = verdicts = causes = 0
    for number in range(sets):
        rng = np.random.default_rng(seed + number)
        panel = PANELS[number % len(PANELS)]
        plan, size = standard_plan(panel), (panel.width, panel.height)
        dead, ghosts = touch_fault(name, size)
        data = touch_session(size, panel.diagonal_in, plan.model_dump(mode="json"), dead, ghosts, _person(rng), rng=rng)
        result = with_suspects(analyse(read_session(data, panel)))
        surely, perhaps = _cells(panel, plan, dead, MOST_OF_CELL), _cells(panel, plan, dead, SOME_OF_CELL)
        found = {cell for zone in result.dead_zones for cell in zone.cells}
        truth, hit = truth + len(surely), hit + len(surely & found)
        told, right = told + len(found), right + len(found & perhaps)
        verdicts += result.verdict == ("pass" if name == "none" else "fail")
        causes += bool(result.suspects) and result.suspects[0].cause in WANTED.get(name, ())
    recall = f"{hit / truth:.3f}" if truth else "    -"
    precision = f"{right / told:.3f}" if told else "    -"
    cause = f"{causes / sets:.2f}" if name in WANTED else "   -"
    print(f"{name:14s} {sets:5d}   {recall:>6s}   {precision:>9s}   {verdicts / sets:13.2f}   {cause:>11s}", flush=True)


def _speed() -> None:
    panel = PANELS[0]
    plan = standard_plan(panel)
    data = touch_session((panel.width, panel.height), 6.5, plan.model_dump(mode="json"), rng=np.random.default_rng(1))
    head, *lines = data.splitlines()
    body = [json.loads(line) for line in lines]
    print("\nevents      read and analysed")
    for count in EVENTS:
        # the same drawing at a higher rate: each event again between itself and the next one
        times = -(-count // len(body))
        events = [{**event, "t": event["t"] + n * 8 / times, "ev": "move" if n else event["ev"]} for event in body for n in range(times)][:count]
        session = b"\n".join([head, *(json.dumps(event).encode() for event in events)])
        start = time.perf_counter()
        analyse(read_session(session, panel))
        print(f"{count:9d}   {time.perf_counter() - start:6.2f} s", flush=True)


def print_touch(sets: int, first_seed: int) -> None:
    """All rows."""
    print(f"touch sessions of the bench's own plan, three panels, careful to sloppy hands; seeds from {first_seed}")
    print("fault           sets   recall   precision   verdict right   cause first")
    for name in ("none", *WANTED):
        _row(name, sets, first_seed)
    _speed()

"""./clear-lens benchmark touch: sessions of a simulated finger against their truth, and speed by the number of events."""

import itertools
import json
import math
import time
from collections.abc import Iterator, Sequence

import numpy as np

from benchmarks.touch_motion import PANELS, print_motion, random_person
from lens.diagnosis import with_suspects
from lens.panel import Panel
from lens.simulate.digitizer import Controller, sense_grid
from lens.simulate.touch import DeadBox, touch_fault, touch_session
from lens.touch import Ev, Plan, Row, analyse, read_session, session_lines, standard_plan

MOST_OF_CELL, SOME_OF_CELL = 0.6, 0.2
SILENT = 0.75  # of a cell's places: one that answers at a third of them gives reports, and is not dead
WANTED = {
    "half": ("touch_controller", "touch_flex"),
    "row": ("row_or_column_sense_line",),
    "column": ("row_or_column_sense_line",),
    "corner": ("digitizer_glass",),
    "rectangle": ("digitizer_glass",),
    "at_times": ("touch_flex", "touch_controller", "charger_noise", "adhesive_or_film"),
    "all": ("touch_flex", "touch_controller"),
    "spot": ("adhesive_or_film",),
    "stream": ("touch_controller",),
    "charger_rows": ("charger_noise",),
}
EVENTS = (10_000, 100_000, 1_000_000)


def _cells(panel: Panel, plan: Plan, dead: Sequence[DeadBox], share: float) -> set[tuple[int, int]]:
    """Cells that dead boxes cover by at least a share in both directions."""
    wide, high = panel.width / plan.grid.columns, panel.height / plan.grid.rows

    def covered(low: float, high_: float, at: int, size: float) -> float:
        return max(0.0, min(high_, (at + 1) * size) - max(low, at * size)) / size

    return {
        (c, r)
        for c in range(plan.grid.columns)
        for r in range(plan.grid.rows)
        for box in dead
        if covered(box.left, box.right, c, wide) >= share and covered(box.top, box.bottom, r, high) >= share
    }


def _unfelt(panel: Panel, plan: Plan, layer: Controller, share: float) -> set[tuple[int, int]]:
    """Cells where the layer feels nothing of a finger at this share of nine places, of fingers that come from where they were felt and
    of others."""
    wide, high = panel.width / plan.grid.columns, panel.height / plan.grid.rows

    def silent(column: int, row: int) -> float:
        count, spots = 0, list(itertools.product((1 / 6, 0.5, 5 / 6), repeat=2))
        for felt, (x, y) in itertools.product((False, True), spots):
            layer.touched = felt
            count += layer.report((column + x) * wide - 0.5, (row + y) * high - 0.5) is None
        return count / (2 * len(spots))

    return {(c, r) for c in range(plan.grid.columns) for r in range(plan.grid.rows) if silent(c, r) >= share}


def _row(name: str, sets: int, seed: int, sensed: bool) -> None:
    counted = truth = hit = told = right = verdicts = causes = 0
    for number in range(sets):
        rng = np.random.default_rng(seed + number)
        panel = PANELS[number % len(PANELS)]
        plan, size = standard_plan(panel), (panel.width, panel.height)
        dead, ghosts = touch_fault(name, size)
        # on a sense grid the parts that are dead do not couple; what answers at times is a matter of the controller, not of the glass
        coupled = dead if sensed and name != "at_times" else ()
        layer = Controller(sense_grid(panel, coupled), rng) if sensed else None
        missed = () if coupled else dead
        data = touch_session(
            size,
            panel.diagonal_in,
            plan.model_dump(mode="json"),
            missed,
            ghosts,
            random_person(rng, panel),
            rng=rng,
            layer=layer,
        )
        result = with_suspects(analyse(read_session(data, panel)))
        if layer is not None and coupled:
            surely, mostly, perhaps = (
                _unfelt(panel, plan, layer, share) for share in (SILENT, MOST_OF_CELL, SOME_OF_CELL)
            )
            if not mostly:  # a finger bridges a thin dead line: nothing is dead to it
                continue
        else:
            surely, perhaps = (_cells(panel, plan, dead, share) for share in (MOST_OF_CELL, SOME_OF_CELL))
        found = {cell for zone in result.dead_zones for cell in zone.cells}
        counted += 1
        truth, hit = truth + len(surely), hit + len(surely & found)
        told, right = told + len(found), right + len(found & perhaps)
        verdicts += result.verdict == ("pass" if name == "none" else "fail")
        causes += bool(result.suspects) and result.suspects[0].cause in WANTED.get(name, ())
    recall = f"{hit / truth:.3f}" if truth else "    -"
    precision = f"{right / told:.3f}" if told else "    -"
    most = max(counted, 1)
    cause = f"{causes / most:.2f}" if name in WANTED else "   -"
    print(
        f"{name:14s} {counted:5d}   {recall:>6s}   {precision:>9s}   {verdicts / most:13.2f}   {cause:>11s}", flush=True
    )


def _left_out(sets: int, seed: int) -> None:
    """Sessions of which a part was not done: the lower half of the panel, or the soak with the charger in. Both must stay open."""
    for words, half in (("half not drawn", True), ("a soak left out", False)):
        right = 0
        for number in range(sets):
            rng = np.random.default_rng(seed + number)
            panel = PANELS[number % len(PANELS)]
            asked = standard_plan(panel)
            if half:
                lines = asked.steps[0]
                upper = lines.model_copy(
                    update={
                        "path": lines.path[: len(lines.path) // 2],
                        "end_ms": lines.start_ms + (lines.end_ms - lines.start_ms) / 2,
                    }
                )
                steps = (upper, *asked.steps[-2:])
            else:
                steps = asked.steps[:-1]
            done = asked.model_copy(update={"steps": steps})
            person, size = random_person(rng, panel), (panel.width, panel.height)
            data = touch_session(size, panel.diagonal_in, done.model_dump(mode="json"), person=person, rng=rng)
            right += analyse(read_session(data, panel), asked.steps).verdict == "not_proven"
        print(f"{words:15s} {sets:4d}        -           -   {right / sets:13.2f}             -", flush=True)


def _drawn(panel: Panel, plan: Plan, count: int) -> Iterator[Row]:
    """The plan drawn once, at a rate that gives so many events: each again between itself and the next one."""
    data = touch_session(
        (panel.width, panel.height), panel.diagonal_in, plan.model_dump(mode="json"), rng=np.random.default_rng(1)
    )
    body = [json.loads(line) for line in data.splitlines()[1:]]
    times = -(-count // len(body))
    for event in body:
        for n in range(times):
            yield (
                event["t"] + n * 8 / times,
                event["id"],
                "move" if n else event["ev"],
                event["x"],
                event["y"],
                None,
                None,
                None,
            )


def _ten_fingers(panel: Panel, plan: Plan, count: int) -> Iterator[Row]:
    """The plan drawn once, and then ten fingers at 240 Hz that draw as they like, two seconds a stroke."""
    yield from _drawn(panel, plan, 1)
    start, stroke = max(step.end_ms for step in plan.steps) + 1000, 480
    for n in range(count // 10):
        kind: Ev = "down" if n % stroke == 0 else "up" if n % stroke == stroke - 1 else "move"
        for finger in range(10):
            angle = n / 90 + finger
            x, y = (
                panel.width * (0.5 + 0.04 * finger * math.cos(angle)),
                panel.height * (0.5 + 0.04 * finger * math.sin(angle)),
            )
            yield start + n * 1000 / 240, finger, kind, x, y, 0.5, 12.0, 12.0


def _flood(panel: Panel, plan: Plan, count: int) -> Iterator[Row]:
    """Touches that nobody made, of five events each, all through a soak."""
    soak = next(step for step in plan.steps if step.kind == "hands_off")
    rng = np.random.default_rng(1)
    kinds: tuple[Ev, ...] = ("down", "move", "move", "move", "up")
    for number, t in enumerate(np.sort(rng.uniform(soak.start_ms + 500, soak.end_ms, count // 5))):
        x, y = float(rng.uniform(0, panel.width)), float(rng.uniform(0, panel.height))
        for n, kind in enumerate(kinds):
            yield float(t) + 2 * n, number, kind, x, y, None, None, None


def _speed() -> None:
    panel = PANELS[0]
    plan = standard_plan(panel)
    for events_of, words in (
        (_drawn, "one finger, ever more often"),
        (_ten_fingers, "ten fingers at 240 Hz"),
        (_flood, "touches that nobody made"),
    ):
        print(f"\n{words}\nevents        MB    read   analysed      both")
        for count in EVENTS:
            session = b"".join(session_lines(panel, plan, "", itertools.islice(events_of(panel, plan, count), count)))
            start = time.perf_counter()
            read = read_session(session, panel)
            middle = time.perf_counter()
            analyse(read)
            end = time.perf_counter()
            print(
                f"{count:9d} {len(session) / 1e6:6.1f} {middle - start:5.2f} s {end - middle:8.2f} s {end - start:7.2f} s",
                flush=True,
            )


def print_touch(sets: int, first_seed: int) -> None:
    """All rows; without sets, those of speed."""
    if sets:
        print(f"touch sessions of the bench's own plan, four panels, careful to sloppy hands; seeds from {first_seed}")
        for sensed, words in (
            (False, "a layer that reports the very place"),
            (True, "a sense grid of 4.5 mm with noise"),
        ):
            print(f"\non {words}\nfault           sets   recall   precision   verdict right   cause first")
            for name in ("none", *WANTED):
                _row(name, sets, first_seed, sensed)
            if not sensed:
                _left_out(sets, first_seed)
        print_motion(sets, first_seed)
    _speed()

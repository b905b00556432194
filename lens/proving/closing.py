"""Where to look after closing: the screw that a new mark lies under, the steps since the dry fit, and what to try when it does not start any more."""

import math
from collections.abc import Mapping, Sequence

from lens.fitting import ISOLATED, SIGNAL_KINDS, PlacedFastener, Procedure
from lens.records import Finding
from lens.steps import Done

UNDER_SHARE = 0.06  # of the panel's width: a screw's head presses about a finger's breadth (common practice)
PRESSED = frozenset({"pressure_mark", "mura", "dark_zone", "bright_zone", "bleed", "discoloration"})
# a rebuild that ran at its dry fit and does not start (common practice): what is cheapest and likeliest first
NO_START = (
    "Charger in, wait a minute, hold the button for fifteen seconds, try again.",
    "The battery's plug: on, level, to the end.",
    "The board sits: the card tray slides in to the end, no edge stands up.",
    "The contacts of the power key touch: press the key through the open device.",
)


def steps_since(procedure: Procedure, log: Sequence[Done], step_id: str = "dry_fit") -> tuple[str, ...]:
    """Ids of the steps that were done after a step was done last; none where it was not done."""
    names = [one.step for one in log]
    if step_id not in names:
        return ()
    last = len(names) - 1 - names[::-1].index(step_id)
    known = procedure.graph.by_id
    return tuple(dict.fromkeys(name for name in names[last + 1 :] if name in known))


def closing_hints(
    procedure: Procedure,
    log: Sequence[Done],
    new: Sequence[Finding],
    size_px: tuple[int, int],
    spots: Mapping[str, Sequence[PlacedFastener]],
) -> tuple[str, ...]:
    """For each finding that closing brought: which step to undo first.

    Parameters
    ----------
    new : findings of the closed device that the dry fit did not show, in panel px
    size_px : width and height of the panel
    spots : by group of screws where they sit, in shares of the device from the front; the panel is taken to fill it
    """
    since = steps_since(procedure, log)
    known = {step.id: step for step in procedure.steps}
    told = []
    for finding in new:
        name = finding.kind.replace("_", " ")
        if finding.kind in SIGNAL_KINDS:
            plug = next((known[one].title for one in since if "plug" in known[one].title.lower()), "")
            told.append(
                f"The {name} comes by the cable: look at the plug and at what was laid over the cable"
                + (f" ('{plug}')." if plug else ".")
            )
        elif finding.kind in PRESSED:
            told.append(_under(procedure, since, finding, size_px, spots, name))
    return tuple(dict.fromkeys(told))


def _under(
    procedure: Procedure,
    since: Sequence[str],
    finding: Finding,
    size_px: tuple[int, int],
    spots: Mapping[str, Sequence[PlacedFastener]],
    name: str,
) -> str:
    width, height = size_px
    known = {step.id: step for step in procedure.steps}
    put_in = {group: one for one in since for group, usual in known[one].counts.items() if usual < 0}
    nearest: tuple[float, str, int] | None = None
    for group, places in spots.items():
        for number, place in enumerate((one for one in places if not one.hole), 1):
            # a mark reaches from its box's rim on
            dx = max(abs(finding.x - place.x * width) - finding.w / 2, 0.0)
            dy = max(abs(finding.y - place.y * height) - finding.h / 2, 0.0)
            away = math.hypot(dx, dy) / width
            if group in put_in and (nearest is None or away < nearest[0]):
                nearest = (away, group, number)
    if nearest is not None and nearest[0] <= UNDER_SHARE:
        group = procedure.fasteners[nearest[1]].title if nearest[1] in procedure.fasteners else nearest[1]
        step = known[put_in[nearest[1]]].title
        return f"The {name} lies at screw {nearest[2]} of '{group}': loosen that one first, undo '{step}'."
    # a start closes nothing, nor does making safe
    built = [one for one in since if ISOLATED not in (*known[one].ends, *known[one].sets)]
    steps = ", ".join(f"'{known[one].title}'" for one in reversed(built[-3:]))
    return f"The {name} lies at no screw: something presses from behind. Undo from the end: {steps or 'the closing'}."


def no_start_ladder(procedure: Procedure, log: Sequence[Done]) -> tuple[str, ...]:
    """What to try on a device that ran at its dry fit and does not start any more; empty where it was never tried."""
    since = steps_since(procedure, log)
    if not since:
        return ()
    known = {step.id: step for step in procedure.steps}
    plugs = [
        known[one].title for one in since if "live_plug" in known[one].hazards or "plug" in known[one].title.lower()
    ]
    touched = [f"Plugs touched since it ran: {', '.join(plugs)}."] if plugs else []
    return (*NO_START, *touched, "Open again as far as the dry fit, and try there: it ran so.")

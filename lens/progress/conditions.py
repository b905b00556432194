"""What the conditions of a look make of its evidence: what must be looked at again before it counts.

All limits are common practice.
"""

from typing import NamedTuple

from lens.records.conditions import StageConditions

LOW_CHARGE = 10  # percent: from here down many devices dim by themselves, whatever their setting
LIGHT_CRITERIA = frozenset({"uniformity", "areas", "mura"})  # that low charge makes look worse than they are


class Doubt(NamedTuple):
    """Why a look does not count, and what to do instead; both empty where it does."""

    why: str = ""
    instead: str = ""


def runs_low(told: StageConditions) -> bool:
    return told.mains is not True and told.battery_percent is not None and told.battery_percent <= LOW_CHARGE


def doubt_of_picture(told: StageConditions, fails: frozenset[str]) -> Doubt:
    """``fails``: ids of the criteria that the picture fails by."""
    if not runs_low(told):
        return Doubt()
    instead = "Plug it in or charge it, then photograph it again."
    if told.room == "bright":
        return Doubt(
            f"Looked at with {told.battery_percent} % of charge in a bright room: that tells nothing.", instead
        )
    if fails and fails <= LIGHT_CRITERIA:
        return Doubt(f"Its light was looked at with {told.battery_percent} % of charge: it dims by itself.", instead)
    return Doubt()


def doubt_of_touch(told: StageConditions, fails: frozenset[str]) -> Doubt:
    if told.panel == "loose" and fails == {"phantoms"}:
        return Doubt(
            "Touches with no hand on a loose, ungrounded panel are provisional.",
            "Record touch once more with the panel in its place.",
        )
    if told.hand in ("glove", "over_film") and fails and "phantoms" not in fails:
        through = "a glove" if told.hand == "glove" else "the film"
        return Doubt(f"Touch was drawn through {through}.", "Draw again with a bare finger, without the film.")
    return Doubt()


def not_comparable(before: StageConditions, after: StageConditions) -> tuple[str, ...]:
    """Why two looks cannot be held against each other everywhere: 'film' (nowhere), 'bezel' (not at the rim)."""
    apart = []
    if "on" in (before.film, after.film):
        apart.append("film")
    if before.bezel == "off" and after.bezel != "off":
        apart.append("bezel")
    return tuple(apart)

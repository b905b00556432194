"""Two inspections of one panel compared: what closing (or any other step) changed."""

from collections.abc import Collection, Mapping, Sequence
from typing import Literal, NamedTuple

from pydantic import Field

from lens.acceptance import DEMANDED_SHARE, SHORT_SHARE, as_pressed, same_place
from lens.inspecting.look_back import LookedBack
from lens.records import NOT_OF_THE_PANEL, PIXEL_KINDS, SOFT_KINDS, Finding, Inspection, Record


class Comparison(Record):
    """Findings of the panel that are new, gone, or the same; what is new was done by what came between. ``unclear``: of one look alone, where
    the other could not have shown them."""

    new: tuple[Finding, ...]
    gone: tuple[Finding, ...]
    same: tuple[Finding, ...]
    unclear: tuple[Finding, ...] = ()
    looked_back: tuple[LookedBack, ...] = Field(
        default=(), description="what the photos of the first look show where the second found something"
    )
    result: Literal["unchanged", "changed", "not_proven"]
    text: str


def _matches(first: Finding, second: Finding) -> bool:
    family = first.kind == second.kind or (first.kind in PIXEL_KINDS and second.kind in PIXEL_KINDS)
    return family and same_place(first, second)


def _of_the_panel(inspection: Inspection) -> list[Finding]:
    return [f for f in inspection.findings if f.kind not in NOT_OF_THE_PANEL and f.kind != "cluster" and f.counts]


# of width and of height that a bezel may cover (common practice: its opening is a millimetre or two smaller)
RIM_SHARE = 0.01
SUBPIXEL_KINDS = ("bright_subpixel", "dark_subpixel")
AS_WELL = 1.1  # two sets of one kind differ by some percent
ON_GLASS_SMALL = ("dust", "scratch")  # what a fault of a pixel may have been taken for


def _at_rim(inspection: Inspection, finding: Finding) -> bool:
    rim_x, rim_y = RIM_SHARE * inspection.panel.width, RIM_SHARE * inspection.panel.height
    return (
        finding.x + finding.w / 2 < rim_x
        or finding.y + finding.h / 2 < rim_y
        or finding.x - finding.w / 2 > inspection.panel.width - rim_x
        or finding.y - finding.h / 2 > inspection.panel.height - rim_y
    )


def _best(left: Sequence[Finding], finding: Finding) -> Finding | None:
    """The one that it was before: of several at one place that of the same kind and colour first."""
    found = [one for one in left if _matches(one, finding)]
    return min(found, key=lambda one: (one.kind != finding.kind, one.channel != finding.channel), default=None)


def _smallest_at(inspection: Inspection, finding: Finding) -> float | None:
    """The smallest fault of its kind and colour that its place would have shown, as a share of a full one; None where no map tells. A cell of the
    map is an average: beside a marker it says more than a pixel in it would."""
    for one in inspection.smallest:
        if one.unit == "of a full fault" and (one.kind, one.channel) == (finding.kind, finding.channel):
            if one.map is None:
                return one.worst
            column = int(finding.x / inspection.panel.width * one.map.columns)
            row = int(finding.y / inspection.panel.height * one.map.rows)
            column, row = min(max(column, 0), one.map.columns - 1), min(max(row, 0), one.map.rows - 1)
            return one.map.values[row * one.map.columns + column]
    return None


def _would_have_shown(before: Inspection, after: Inspection, finding: Finding) -> bool:
    """Whether a full fault of its kind and colour would have been found at its place then: surely, or as well as it was now."""
    then, now = _smallest_at(before, finding), _smallest_at(after, finding)
    if then is None:
        share = before.proven.subpixels if finding.kind in SUBPIXEL_KINDS else before.proven.pixels
        return share >= SHORT_SHARE
    return then <= max(1.0, AS_WELL * (now or 0.0))


def _is_new(before: Inspection, after: Inspection, finding: Finding, again: Mapping[str, LookedBack]) -> bool:
    """Whether the first look's photos say that it was not there; where they were not asked, whether they would have shown it."""
    told = again.get(finding.id)
    return told.was_there == "no" if told else _would_have_shown(before, after, finding)


class _Matched(NamedTuple):
    same: list[Finding]
    added: list[Finding]
    left: list[Finding]


def _matched(before: Inspection, after: Inspection) -> _Matched:
    """Findings of both looks by kind and place: the same ones as seen now, those of the second look and of the first alone."""
    same: list[Finding] = []
    added: list[Finding] = []
    left = _of_the_panel(before)
    known = tuple(left)
    for finding in _of_the_panel(after):
        match = _best(left, finding)
        if match is None and finding.kind in PIXEL_KINDS and any(_matches(one, finding) for one in known):
            same.append(finding)  # one fault, told by two colours now and by one then
        elif match is None:
            added.append(finding)
        else:
            left.remove(match)
            same.append(finding)
    return _Matched(same, added, left)


def asked_of_before(before: Inspection, after: Inspection) -> tuple[Finding, ...]:
    """Pixel faults of the second look alone: where the photos of the first are to be looked at again (see ``look_back``)."""
    return tuple(one for one in _matched(before, after).added if one.kind in PIXEL_KINDS)


def compare(
    before: Inspection, after: Inspection, apart: Collection[str] = (), looked_back: Sequence[LookedBack] = ()
) -> Comparison:
    """Match findings by kind and place. New ones decide; with too little proven on either side the answer is not proven.

    ``apart``: how the conditions differ (see ``lens.progress.not_comparable``). Under a film nothing is called new or gone, nor at the rim where a
    bezel came over it. ``looked_back``: what the photos of the first look show at the places of the second, where they were asked.
    """
    same, added, left = _matched(before, after)
    again = {one.id: told for one in added for told in looked_back if told.is_of(one) and told.seen}
    there = [one for one in added if one.id in again and again[one.id].was_there == "yes"]
    same += there
    added = [as_pressed(f) if f.kind in SOFT_KINDS else f for f in added if f not in there]
    # a short set shows whole pixels surely, single subpixels not everywhere; what it could not show, or took for dust, is not done since
    coarse = before.proven.subpixels < SHORT_SHARE
    glass = [one for one in before.findings if one.kind in ON_GLASS_SMALL]
    alone = [
        f
        for f in added
        if f.kind in PIXEL_KINDS and (not _is_new(before, after, f, again) or any(same_place(one, f) for one in glass))
    ]
    unclear = [
        f for f in (*added, *left) if f not in alone and ("film" in apart or ("bezel" in apart and _at_rim(after, f)))
    ]
    added, left = ([f for f in found if f not in unclear and f not in alone] for found in (added, left))
    seen = min(before.proven.pixels, after.verdict.proven_fraction)
    enough = before.proven.pixels >= SHORT_SHARE and after.verdict.proven_fraction >= DEMANDED_SHARE
    result: Literal["unchanged", "changed", "not_proven"]
    if added:
        result, text = (
            "changed",
            f"{len(added)} finding{'s' if len(added) > 1 else ''} that the dry fit did not show: done by closing.",
        )
    elif unclear:
        why = "a film lay over one of them" if "film" in apart else "the bezel covers the rim now"
        result, text = (
            "not_proven",
            f"{len(unclear)} finding{'s' if len(unclear) > 1 else ''} of one look only, and {why}: cannot tell whether closing did it.",
        )
    elif not enough:
        result, text = (
            "not_proven",
            f"Nothing new was seen, but only {100 * seen:.0f} % of the panel is proven in both sets.",
        )
    else:
        result, text = "unchanged", "Closing changed nothing that the photos can show."
        if coarse:
            text = "Closing changed nothing that both sets can show; the dry fit did not tell every single subpixel."
    return Comparison(
        new=tuple(added),
        gone=tuple(left),
        same=tuple(same),
        unclear=(*unclear, *alone),
        looked_back=tuple(again.values()),
        result=result,
        text=text,
    )

"""What of a survey is no single pixel: uneven areas, fine lines that follow no grid, and too much of everything."""

from collections.abc import Sequence

from lens.faults.dots import seen_in
from lens.faults.groups import Group
from lens.faults.on_glass import height_of, told_on_glass
from lens.faults.pixels import HYPOTHESES, Evidence, explain
from lens.faults.words import listed
from lens.panel import Panel
from lens.records import Finding, Kind


def uneven_area(evidence: Evidence, place: Group, slender: bool) -> Finding | None:
    """A large or long group of places, ``slender`` when it is a fine line off the grid; None where what looks dark was shot on black alone."""
    told = explain(evidence, *place.peak)
    fault = HYPOTHESES[told.hypothesis]
    seen = seen_in(evidence, told)
    lit_patterns = [p.pattern.id for p in evidence.photos if max(p.pattern.drive) > 0]
    if not fault.lit and not lit_patterns:
        return None
    everywhere_dark = not fault.lit and len(seen) >= 0.6 * len(lit_patterns)
    kind: Kind = (
        "dust"
        if everywhere_dark and max(place.width, place.height) < 80
        else "bright_zone"
        if fault.lit
        else "dark_zone"
    )
    where = f"of {place.width}x{place.height} px, seen on {listed(seen) or 'no single pattern alone'}"
    words = f"An uneven area {where}. Wipe the glass and shoot again."
    if slender and everywhere_dark:
        kind, words = (
            "scratch",
            f"A fine line {where}, that follows neither rows nor columns. Feel for it with a fingernail.",
        )
    area = Finding.model_validate(
        {
            "kind": kind,
            "x": place.x0 + (place.width - 1) / 2,
            "y": place.y0 + (place.height - 1) / 2,
            "w": place.width,
            "h": place.height,
            "contrast": round((1 if fault.lit else -1) * min(abs(told.amplitude), 1.0), 3),
            "confidence": 0.6,
            "patterns": seen,
            "reasons": (words,),
        }
    )
    height = height_of(evidence, area) if kind in ("scratch", "dust") else None
    if height is not None and height.above:
        return area.model_copy(
            update={**height.told, "confidence": 0.95, "reasons": (words, height.words(evidence.panel))}
        )
    return told_on_glass(evidence, [area])[0]


def crowd(panel: Panel, rest: Sequence[Group]) -> Finding:
    """All that is left when there is too much to explain one by one."""
    return Finding(
        kind="artifact",
        x=(panel.width - 1) / 2,
        y=(panel.height - 1) / 2,
        w=panel.width,
        h=panel.height,
        contrast=0.0,
        confidence=0.5,
        reasons=(
            f"{len(rest)} more places differ from the pattern, too many to explain one by one. Wipe the glass, check that the pattern "
            "is shown 1:1, and shoot again.",
        ),
        picture="other",
    )

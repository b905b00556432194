"""Whole pixels of panels on which red and blue subpixels serve two pixels each: they show as two faulty subpixels at one place."""

from collections.abc import Sequence

from lens.faults.light_model import shares_subpixels
from lens.photo import PhotoRead
from lens.records import Finding

WHOLE = {"dark_subpixel": "dead_pixel", "bright_subpixel": "bright_pixel"}
REACH_PX = 1.0


def joined_pixels(photos: Sequence[PhotoRead], findings: list[Finding]) -> list[Finding]:
    """The findings, a green subpixel and its red or blue neighbour joined to the pixel that they make up."""
    if not shares_subpixels(photos):
        return findings
    out: list[Finding] = []
    for finding in findings:
        partner = next((n for n, other in enumerate(out) if _one_pixel(finding, other)), None)
        if partner is None:
            out.append(finding)
        else:
            out[partner] = _whole(out[partner], finding)
    return out


def _one_pixel(one: Finding, other: Finding) -> bool:
    return (
        one.kind == other.kind
        and one.kind in WHOLE
        and (one.channel == "green") != (other.channel == "green")
        and abs(one.x - other.x) <= REACH_PX
        and abs(one.y - other.y) <= REACH_PX
    )


def _whole(one: Finding, other: Finding) -> Finding:
    green, second = (one, other) if one.channel == "green" else (other, one)
    return green.model_copy(
        update={
            "kind": WHOLE[green.kind],
            "channel": None,
            "contrast": round(green.contrast + second.contrast, 3),
            "confidence": min(green.confidence, second.confidence),
            "patterns": tuple(dict.fromkeys((*green.patterns, *second.patterns))),
            "reasons": (
                f"Its green subpixel and the {second.channel} one that it shares are both faulty.",
                *green.reasons,
            ),
        }
    )

"""Which panel of the register is in a device: what closed jobs of the device had, what its EDID says and what was read from the label, joined into
one ranked list with reasons. Bayes' rule with stated rates; what nothing speaks for is not listed."""

from collections.abc import Mapping, Sequence
from typing import NamedTuple

from pydantic import Field

from lens.edid import Edid
from lens.matching.specification import PanelSpec, normal_number
from lens.records.base import Record

MOST_LISTED = 5
ANOTHER = 1.0  # a panel that no closed job had weighs as much as one job (Laplace's rule of succession)
UNKNOWN_SHARE = 0.5  # of these: that it is in no register yet
# How often each says so of the right panel, and what share of other panels says it too (common practice: boards of one kind share an EDID, some
# are copied, and a part number in an EDID's text may be that of the whole assembly)
IDENTITY, NUMBER_IN_EDID, SIZE = (0.95, 0.004), (0.6, 0.002), (0.99, 0.25)
SIZE_DIFFERS = 0.02  # another resolution in that device: it was refitted, or the register is wrong
LEAST_BY_LABEL = 0.001  # that the label says something else than was read
SUREST = 0.97


class PanelIdentity(Record):
    """``p``: that it is this one, 'none of the register' included in the sum."""

    part_number: str
    p: float = Field(ge=0, le=1)
    reasons: tuple[str, ...]


class IdentityEvidence(NamedTuple):
    """``history``: in how many closed jobs of the device each panel was found, by its number; ``label``: chance of each number by its label;
    ``size``: width and height in pixels that the device shows."""

    history: Mapping[str, int] = {}
    label: Mapping[str, float] = {}
    edid: Edid | None = None
    size: tuple[int, int] | None = None


def edid_identity(edid: Edid) -> str:
    """How a register names an EDID's maker and product: 'ABC-1A2B'."""
    return f"{edid.manufacturer_id}-{edid.product_code:04X}"


def spec_of_edid(edid: Edid) -> PanelSpec:
    """What an EDID tells of its panel; nothing of it where its checksum is wrong."""
    if not edid.checksum_ok:
        return PanelSpec()
    preferred = edid.preferred
    told = {
        "width": preferred.width if preferred else None,
        "height": preferred.height if preferred else None,
        "refresh_hz": round(preferred.refresh_hz, 1) if preferred else None,
        "bits_per_colour": edid.bits_per_colour,
        "visible_mm": edid.size_mm,
        "edid_identity": edid_identity(edid) if "?" not in edid.manufacturer_id else None,
    }
    return PanelSpec.model_validate(told)


def identify(panels: Sequence[PanelSpec], evidence: IdentityEvidence) -> tuple[PanelIdentity, ...]:
    """The panels of the register that something speaks for, the likeliest first.

    Parameters
    ----------
    panels : with their part numbers; only those that may be meant need be given, the rest weighs as 'another one'
    """
    jobs = sum(evidence.history.values())
    others = max(len(panels) - len(evidence.history), 1)
    weights: list[tuple[float, PanelSpec, list[str]]] = []
    nothing = ANOTHER * UNKNOWN_SHARE * max(1 - sum(evidence.label.values()), LEAST_BY_LABEL)
    nothing *= (IDENTITY[1] if _readable(evidence.edid) else 1.0) * (SIZE[1] if evidence.size else 1.0)
    for panel in panels:
        number = panel.part_number or ""
        reasons: list[str] = []
        count = evidence.history.get(number, 0)
        weight = float(count) or ANOTHER * (1 - UNKNOWN_SHARE) / others
        if count:
            reasons.append(
                f"In {count} of {jobs} closed jobs of this device."
                if jobs > 1
                else "The closed job of this device had it."
            )
        if evidence.label:
            weight *= max(evidence.label.get(number, 0.0), LEAST_BY_LABEL)
            if number in evidence.label:
                reasons.append("Read from the label.")
        weight *= _by_edid(panel, evidence.edid, reasons) * _by_size(panel, evidence.size, reasons)
        if reasons:
            weights.append((weight, panel, reasons))
    total = sum(weight for weight, _, _ in weights) + nothing
    ordered = sorted(weights, key=lambda one: -one[0])[:MOST_LISTED]
    return tuple(
        PanelIdentity(
            part_number=panel.part_number or "", p=round(min(weight / total, SUREST), 2), reasons=tuple(reasons)
        )
        for weight, panel, reasons in ordered
    )


def _readable(edid: Edid | None) -> bool:
    return edid is not None and edid.checksum_ok


def _by_edid(panel: PanelSpec, edid: Edid | None, reasons: list[str]) -> float:
    """How likely this EDID is for a panel."""
    if edid is None or not edid.checksum_ok:
        return 1.0
    factor = IDENTITY[1]  # not known of the panel: as of any
    if panel.edid_identity is not None:
        same = panel.edid_identity == edid_identity(edid)
        factor = IDENTITY[0] if same else (1 - IDENTITY[0]) * IDENTITY[1]
        if same:
            reasons.append(f"The EDID says {panel.edid_identity}, as the register does.")
    if not {normal_number(name) for name in edid.names}.isdisjoint(panel.numbers()):
        factor *= NUMBER_IN_EDID[0] / NUMBER_IN_EDID[1]
        reasons.append("Its number stands in the EDID.")
    return factor


def _by_size(panel: PanelSpec, size: tuple[int, int] | None, reasons: list[str]) -> float:
    """How likely the device's resolution is for a panel, either way up."""
    if size is None:
        return 1.0
    if not panel.width or not panel.height:
        return SIZE[1]
    if size in ((panel.width, panel.height), (panel.height, panel.width)):
        return SIZE[0]
    if reasons:
        reasons.append(f"But it has {panel.width} x {panel.height} pixels, the device {size[0]} x {size[1]}.")
    return SIZE_DIFFERS

"""What an inspection's photos say, as evidence."""

from collections.abc import Collection

from lens.diagnosis.evidence import EvidenceItem
from lens.meter import against_nominal
from lens.records import KINDS, BrightnessCurve, Finding, Inspection

UNSURE = 0.5  # the confidence of an artifact that only says that too much differs
ENOUGH_SEEN = 0.9


def evidence_from_inspection(inspection: Inspection, nominal_cd_m2: float | None = None) -> tuple[EvidenceItem, ...]:
    """Whether there is light, every kind of fault that the photos show, and, where they show enough of the panel, that there is no other.

    A luminance that surely reaches the nominal one counts too. One that does not is left to a meter: a photo cannot tell a low setting
    from a weak light.
    """
    kinds = {finding.kind for finding in inspection.findings if finding.counts}
    outcomes = (KINDS[f.kind].evidence for f in inspection.findings if f.counts and _sure(f))
    told = dict.fromkeys(outcome for outcome in outcomes if outcome is not None)
    if "crack" in told:  # its lines, spots and dots are the crack's own
        told = dict.fromkeys(name for name in told if name in ("crack", "picture"))
    # behind a broken cell, a wrong picture or one without light nothing else can be missed
    if (
        inspection.verdict.proven_fraction >= ENOUGH_SEEN
        and not {"crack", "picture"} & set(told)
        and "no_light" not in kinds
    ):
        told["clean"] = None
    light = _light(inspection, kinds)
    items = [("light", light)] if light else []
    if light == "no":
        items.append(("torch_photo", "alive"))
    curve, white = inspection.brightness, inspection.white_light
    if curve is not None:
        items += _brightness(curve, nominal_cd_m2)
    enough = (
        white is not None and nominal_cd_m2 and against_nominal(white.cd_m2 / white.factor, nominal_cd_m2) == "nominal"
    )
    if enough and "luminance" not in dict(items):
        items.append(("luminance", "nominal"))
    if inspection.data_bits is not None and inspection.data_bits.outcome != "unclear":
        items.append(("ramp", inspection.data_bits.outcome))
    items += [("photos", outcome) for outcome in told]
    return tuple(EvidenceItem(check=check, outcome=outcome, source="measured") for check, outcome in items)


def _brightness(curve: BrightnessCurve, nominal_cd_m2: float | None) -> list[tuple[str, str]]:
    """What the steps of the brightness control say. The photo at full is one of a known setting, so a weak light counts too."""
    items: list[tuple[str, str]] = [("brightness_keys", curve.control)] if curve.control != "unclear" else []
    if curve.pulses is not None:
        items.append(("flicker_at_full", curve.pulses))
    if curve.full is not None and nominal_cd_m2:
        bounds = (curve.full.cd_m2 / curve.full.factor, curve.full.cd_m2 * curve.full.factor)
        least, most = (against_nominal(light, nominal_cd_m2) for light in bounds)
        if least == most:
            items.append(("luminance", least))
    return items


def _light(inspection: Inspection, kinds: Collection[str]) -> str | None:
    """What the photos say of the panel's light; None when none could be read."""
    if "no_light" in kinds:
        return "no"
    if "dim" in kinds:
        return "dim"
    return "yes" if any(photo.px_per_px is not None for photo in inspection.photos) else None


def _sure(finding: Finding) -> bool:
    return finding.kind != "artifact" or finding.confidence > UNSURE

"""What a touch session says to the diagnosis, and whom it suspects."""

from lens.diagnosis.evidence import EvidenceItem, marginals, posterior, seen_of
from lens.diagnosis.load import Device, load_model
from lens.diagnosis.network import network_for
from lens.touch import Suspect, TouchResult, TouchSeen

# the causes that a session can speak of; the data's group 'touch', and software
SUSPECTS = (
    "touch_flex",
    "touch_controller",
    "digitizer_glass",
    "row_or_column_sense_line",
    "charger_noise",
    "adhesive_or_film",
    "software",
)
DRAWN = {
    "all": "all",
    "half": "half",
    "strip": "strip",
    "row": "strip",
    "column": "strip",
    "corner": "corner",
    "edge": "corner",
    "rectangle": "corner",
}
SOAKED = {"isolated": "spot", "fixed_spot": "spot", "edge": "spot", "stream": "stream", "charger_rows": "rows"}
ORDER = ("scattered", "corner", "strip", "half", "all")
ENOUGH_CROSSED = 0.9


def evidence_from_touch(result: TouchResult) -> tuple[EvidenceItem, ...]:
    """Measured answers to the checks of the touch."""
    items: list[tuple[str, str]] = []
    drawn = ["scattered" if zone.intermittent else DRAWN[zone.kind] for zone in result.dead_zones]
    if drawn:
        items.append(("touch_draw", max(drawn, key=ORDER.index)))
    elif result.coverage >= ENOUGH_CROSSED:
        items.append(("touch_draw", "whole"))
    kinds = {SOAKED[one.kind] for one in result.phantom}
    if result.soaked_minutes > 0:
        rows_only = kinds == {"rows"}
        worst = "stream" if "stream" in kinds else "spot" if kinds - {"rows"} else "silent"
        items.append(("touch_soak", "silent" if rows_only else worst))
        items.append(("touch_soak_charger", "rows" if "rows" in kinds else worst))
    place = _place(result)
    if place:
        items.append(("touch_place", place))
    return tuple(EvidenceItem(check=check, outcome=outcome, source="measured") for check, outcome in items)


def evidence_from_touch_seen(seen: TouchSeen) -> EvidenceItem:
    """What a person saw who dragged over the whole surface."""
    drawn = [DRAWN[zone.kind] for zone in seen.zones]
    outcome = max(drawn, key=ORDER.index) if drawn else "whole"
    return EvidenceItem(check="touch_draw", outcome=outcome, source="seen")


def _place(result: TouchResult) -> str | None:
    """Whether reports come from where the finger is; None where too little was followed to say."""
    if result.fingers is not None and result.fingers.jumps:
        return "jumps"
    if result.fit is None:
        return None
    return "turned" if result.fit.axes != "right" else "off" if result.fit.displaced else "there"


def with_suspects(result: TouchResult, device: Device = "handset") -> TouchResult:
    """The result with the causes that it speaks of, the likeliest first; none where nothing is wrong."""
    if not result.dead_zones and not result.phantom and _place(result) in (None, "there"):
        return result
    model = load_model()
    network = network_for(model, device)
    share = marginals(network, posterior(model, network, seen_of(model, evidence_from_touch(result))))
    total = sum(share[cause] for cause in SUSPECTS)
    told = sorted(((cause, share[cause] / total) for cause in SUSPECTS), key=lambda one: -one[1])
    return result.model_copy(update={"suspects": tuple(Suspect(cause=cause, p=round(p, 4)) for cause, p in told)})

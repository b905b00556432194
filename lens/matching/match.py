"""Panel specifications compared: same fit, form and function, with what may differ and what must not (common practice)."""

from typing import Literal

from lens.records.base import Record

Fit = Literal["fits", "fits_with_consequences", "stop"]
Mounting = Literal["side_brackets", "ears", "adhesive", "bonded"]
Side = Literal["left", "right"]
Finish = Literal["matt", "glossy"]
SIZE_TOLERANCE_MM, THICKNESS_TOLERANCE_MM = 1.0, 0.4


class PanelSpec(Record):
    """What decides whether a panel fits. Sides are as seen from the back; None is unknown."""

    part_number: str
    width: int
    height: int
    outline_mm: tuple[float, float]
    thickness_mm: float
    mounting: Mounting
    connector_pins: int
    connector_family: str
    connector_side: Side
    signal: str
    lanes: int
    touch: bool
    finish: Finish
    luminance_cd_m2: int | None = None
    refresh_hz: int = 60


class MatchItem(Record):
    """One property compared."""

    property: str
    wanted: str
    offered: str
    result: Fit
    reason: str


class Match(Record):
    result: Fit
    items: tuple[MatchItem, ...]
    text: str


def _item(name: str, wanted: object, offered: object, same: bool, otherwise: Fit, reason: str) -> MatchItem:
    return MatchItem(
        property=name,
        wanted=str(wanted),
        offered=str(offered),
        result="fits" if same else otherwise,
        reason="Same." if same else reason,
    )


def _millimetres(size: tuple[float, float]) -> str:
    return f"{size[0]:g} x {size[1]:g} mm"


def match(wanted: PanelSpec, offered: PanelSpec) -> Match:
    """Compare property by property; one stop stops the whole."""
    w, o = wanted, offered
    same_outline = all(abs(a - b) <= SIZE_TOLERANCE_MM for a, b in zip(w.outline_mm, o.outline_mm, strict=True))
    items = (
        _item(
            "outline",
            _millimetres(w.outline_mm),
            _millimetres(o.outline_mm),
            same_outline,
            "stop",
            "Another outline does not go into this frame.",
        ),
        _item(
            "mounting",
            w.mounting,
            o.mounting,
            w.mounting == o.mounting,
            "stop",
            "It is held in another way than this lid holds it.",
        ),
        _item(
            "signal",
            w.signal,
            o.signal,
            w.signal == o.signal,
            "stop",
            "Another signal: it can feed lamp voltage into the wrong pins. Do not connect it.",
        ),
        _item(
            "lanes",
            w.lanes,
            o.lanes,
            o.lanes <= w.lanes,
            "stop",
            "It needs more data lanes than the board is known to drive.",
        ),
        _item(
            "connector",
            f"{w.connector_pins} pins, {w.connector_family}",
            f"{o.connector_pins} pins, {o.connector_family}",
            (w.connector_pins, w.connector_family) == (o.connector_pins, o.connector_family),
            "stop",
            "The plug does not mate.",
        ),
        _item(
            "connector side",
            w.connector_side,
            o.connector_side,
            w.connector_side == o.connector_side,
            "stop",
            "The cable does not reach the other side, seen from the back.",
        ),
        _item(
            "thickness",
            f"{w.thickness_mm:g} mm",
            f"{o.thickness_mm:g} mm",
            o.thickness_mm <= w.thickness_mm + THICKNESS_TOLERANCE_MM,
            "stop",
            "It is thicker than the lid has room for; the bezel would press on it.",
        ),
        _item(
            "touch",
            "yes" if w.touch else "no",
            "yes" if o.touch else "no",
            w.touch == o.touch,
            "stop" if w.touch else "fits_with_consequences",
            "The owner would lose touch." if w.touch else "Its touch stays unused.",
        ),
        _item(
            "resolution",
            f"{w.width}x{w.height}",
            f"{o.width}x{o.height}",
            (w.width, w.height) == (o.width, o.height),
            "fits_with_consequences",
            "Works only if the board's lanes and firmware allow it: try it dry first.",
        ),
        _item(
            "finish",
            w.finish,
            o.finish,
            w.finish == o.finish,
            "fits_with_consequences",
            f"The owner gets a {o.finish} screen instead of a {w.finish} one: tell before ordering.",
        ),
        _item(
            "refresh",
            f"{w.refresh_hz} Hz",
            f"{o.refresh_hz} Hz",
            w.refresh_hz == o.refresh_hz,
            "fits_with_consequences",
            "Another refresh rate: the owner may notice.",
        ),
        _item(
            "luminance",
            f"{w.luminance_cd_m2 or 'unknown'} cd/m2",
            f"{o.luminance_cd_m2 or 'unknown'} cd/m2",
            not (w.luminance_cd_m2 and o.luminance_cd_m2) or o.luminance_cd_m2 >= 0.9 * w.luminance_cd_m2,
            "fits_with_consequences",
            "It is dimmer than the original: tell the owner.",
        ),
    )
    stops = [i for i in items if i.result == "stop"]
    consequences = [i for i in items if i.result == "fits_with_consequences"]
    if stops:
        return Match(
            result="stop", items=items, text=f"Stop: {', '.join(i.property for i in stops)} must agree and does not."
        )
    if consequences:
        return Match(
            result="fits_with_consequences",
            items=items,
            text=f"Fits, with consequences to tell the owner: {', '.join(i.property for i in consequences)}.",
        )
    return Match(result="fits", items=items, text="Fits: everything that must agree does.")

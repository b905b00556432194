"""One EDID against the panel on record, and against a replacement's."""

from lens.edid.decode import Edid
from lens.panel import Panel
from lens.records.base import Record

SAME_SIZE = 0.03  # of the diagonal: sizes are told in whole millimetres or centimetres
SAME_RATE_HZ, SAME_XY = 1.0, 0.01


class Difference(Record):
    """What differs, and whether it speaks of another panel rather than of another batch."""

    what: str
    serious: bool


def compare_with_panel(edid: Edid, panel: Panel) -> tuple[Difference, ...]:
    """Resolution and size against the panel on record."""
    out = []
    if edid.preferred and (edid.preferred.width, edid.preferred.height) != (panel.width, panel.height):
        out.append(
            Difference(
                what=f"It is {edid.preferred.width} x {edid.preferred.height}, the record says {panel.width} x {panel.height}.",
                serious=True,
            )
        )
    if edid.size_in and panel.diagonal_in and abs(edid.size_in / panel.diagonal_in - 1) > SAME_SIZE:
        out.append(
            Difference(
                what=f"It measures {edid.size_in:.1f} in, the record says {panel.diagonal_in:.1f} in.", serious=True
            )
        )
    return tuple(out)


def compare_edids(one: Edid, other: Edid) -> tuple[Difference, ...]:
    """What a replacement says otherwise."""
    out = []
    if (one.manufacturer_id, one.product_code) != (other.manufacturer_id, other.product_code):
        out.append(Difference(what=f"Maker and product: {_product(one)} and {_product(other)}.", serious=False))
    if one.preferred and other.preferred:
        first, second = one.preferred, other.preferred
        if (first.width, first.height) != (second.width, second.height):
            out.append(
                Difference(
                    what=f"Resolution: {first.width} x {first.height} and {second.width} x {second.height}.",
                    serious=True,
                )
            )
        if abs(first.refresh_hz - second.refresh_hz) > SAME_RATE_HZ:
            out.append(
                Difference(what=f"Refresh: {first.refresh_hz:.0f} and {second.refresh_hz:.0f} Hz.", serious=False)
            )
    if one.size_in and other.size_in and abs(one.size_in / other.size_in - 1) > SAME_SIZE:
        out.append(Difference(what=f"Size: {one.size_in:.1f} and {other.size_in:.1f} in.", serious=True))
    for name, own, its in (
        ("Bits a colour", one.bits_per_colour, other.bits_per_colour),
        ("Interface", one.interface, other.interface),
    ):
        if own and its and own != its:
            out.append(Difference(what=f"{name}: {own} and {its}.", serious=name == "Interface"))
    far = [
        name
        for name, xy in one.chromaticity.items()
        if max(abs(a - b) for a, b in zip(xy, other.chromaticity[name], strict=True)) > SAME_XY
    ]
    if far:
        out.append(Difference(what=f"Chromaticity of {', '.join(far)} differs.", serious=False))
    return tuple(out)


def _product(edid: Edid) -> str:
    name = f" ({', '.join(edid.names)})" if edid.names else ""
    return f"{edid.manufacturer_id} {edid.product_code}{name}"

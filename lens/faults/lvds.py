"""Which data pair of an LVDS cable carries which bits (bit orders from memory: VESA and JEIDA, 24 bits a pixel).

Lanes 0 to 2 carry six bits of each colour, lane 3 the other two: the high ones in VESA's order, the low ones in JEIDA's. Lane 2 carries the
syncs too, and like the clock it loses the picture, not bits, when it is open.
"""

from collections.abc import Mapping
from typing import NamedTuple

ORDERS = {"VESA": (0, 6), "JEIDA": (2, 0)}  # the lowest bit on lanes 0 to 2, and on lane 3


class Lane(NamedTuple):
    """``bits`` are those of red, green and blue that it carries."""

    order: str
    number: int
    bits: tuple[frozenset[int], frozenset[int], frozenset[int]]


def _lane(order: str, number: int) -> Lane:
    low, rest = ORDERS[order]
    none: frozenset[int] = frozenset()
    table = {
        0: (frozenset(range(low, low + 6)), frozenset({low}), none),
        1: (none, frozenset(range(low + 1, low + 6)), frozenset({low, low + 1})),
        2: (none, none, frozenset(range(low + 2, low + 6))),
        3: (frozenset({rest, rest + 1}),) * 3,
    }
    return Lane(order, number, table[number])


LANES: tuple[Lane, ...] = tuple(_lane(order, number) for order in ORDERS for number in range(4))


def lanes_of(missing: Mapping[int, frozenset[int]]) -> list[Lane]:
    """The lanes whose loss takes exactly these bits of red (0), green (1) and blue (2)."""
    return [
        lane
        for lane in LANES
        if all(missing.get(channel, frozenset()) == bits for channel, bits in enumerate(lane.bits))
    ]

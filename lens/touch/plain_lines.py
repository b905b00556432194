"""Lines of plain events as arrays, many at once on all cores.

polars reads only what every event of ours has, and strictly: what it does not take, or leaves empty, is looked at line by line elsewhere.
"""

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

EVENTS = ("down", "move", "up", "cancel")
LEAST_BYTES = 1024 * 1024  # reading fewer takes less than loading polars


class PlainFields(NamedTuple):
    """One value for each event; ``kind`` is the place in EVENTS."""

    t: NDArray[np.float64]
    finger: NDArray[np.int64]
    x: NDArray[np.float64]
    y: NDArray[np.float64]
    kind: NDArray[np.int8]


def plain_fields(piece: bytes) -> PlainFields | None:
    """The fields of whole lines; None where there are few, or one is no plain event."""
    if len(piece) < LEAST_BYTES:
        return None
    import polars  # takes 0.3 s to load, which a session of usual length need not wait for

    number = polars.Float64
    try:
        told = polars.read_ndjson(
            piece, schema={"t": number, "id": polars.Int64, "x": number, "y": number, "ev": polars.String}
        )
        told = told.with_columns(polars.col("ev").cast(polars.Enum(EVENTS)).to_physical())
    except polars.exceptions.PolarsError:
        return None
    if sum(told.null_count().row(0)):
        return None
    t, finger, x, y, kind = (told[name].to_numpy() for name in ("t", "id", "x", "y", "ev"))
    return PlainFields(t, finger, x, y, kind.astype(np.int8))

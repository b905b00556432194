"""Work on whole images of the panel, done band by band on several cores."""

from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from queue import SimpleQueue
from typing import TypeVar

import numpy as np
from numpy.typing import NDArray

from lens.photo.blocks import BLOCK_PX, Image, block_means, smooth_known

BAND_PX = 136  # rows of the panel that are worked on at a time
ROOM_BANDS = 2  # images of a band that a thread has memory for
T = TypeVar("T")


class Bands:
    """Work done band by band on the panel's rows, shared among threads. Each thread has memory of its own to work in: fresh memory costs more
    than the arithmetic done in it."""

    def __init__(self, valid: NDArray[np.bool_], weight: Image, threads: int, pool: ThreadPoolExecutor) -> None:
        height, self.width = valid.shape
        self._pool, self.weight_blocks = pool, block_means(weight)
        self._rows = [slice(top, min(top + BAND_PX, height)) for top in range(0, height, BAND_PX)]
        self._hidden = [np.flatnonzero(~valid[rows]) for rows in self._rows]
        self._rooms = SimpleQueue[Image]()
        for _ in range(threads):
            # of whole blocks, and of one more above and below
            self._rooms.put(np.empty(ROOM_BANDS * (BAND_PX + 2 * BLOCK_PX) * (self.width + BLOCK_PX), np.float32))

    def each(self, work: Callable[[slice, Image], None], images: int = 1) -> None:
        """Do the work on all rows; it is given memory for so many images of those that it does at a time."""
        step = ROOM_BANDS * BAND_PX // images // BLOCK_PX * BLOCK_PX

        def done(rows: slice) -> None:
            room = self._rooms.get()
            try:
                for top in range(rows.start, rows.stop, step):
                    work(slice(top, min(top + step, rows.stop)), room)
            finally:
                self._rooms.put(room)

        for _ in self._pool.map(done, self._rows):
            pass

    def each_plane(self, work: Callable[[Image], T], planes: Image) -> list[T]:
        """What the work makes of each plane."""
        return list(self._pool.map(work, planes))

    def means(self, planes: Image, values: Callable[[Image, float, Image], object], limits: list[float]) -> Image:
        """(h, w, planes) block means of what ``values`` makes of each plane and its limit in the room that it is given; hidden places are 0."""
        out = np.empty((*self.weight_blocks.shape, len(planes)), np.float32)

        def work(rows: slice, room: Image) -> None:
            own = room[: (rows.stop - rows.start) * self.width]
            hidden = self._hidden[rows.start // BAND_PX]
            for c, (plane, limit) in enumerate(zip(planes, limits, strict=True)):
                values(plane[rows].reshape(-1), limit, own)
                own[hidden] = 0
                out[rows.start // BLOCK_PX : -(-rows.stop // BLOCK_PX), :, c] = block_means(own.reshape(-1, self.width))

        self.each(work)
        return out

    def smoothed(self, means: Image, size: int) -> Image:
        """Such means over so many blocks each way, of what is not hidden."""
        return np.stack(
            [smooth_known(np.ascontiguousarray(own), self.weight_blocks, size) for own in np.moveaxis(means, -1, 0)],
            axis=-1,
        )

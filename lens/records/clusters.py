"""Faulty pixels close together (ISO 9241-307, from memory)."""

from collections.abc import Sequence

from lens.records.findings import Finding
from lens.records.kinds import PIXEL_KINDS

CLUSTER_BLOCK_PX = 5


def clusters(findings: Sequence[Finding]) -> list[Finding]:
    """Two or more faulty pixels inside a sliding 5 x 5 block (ISO 9241-307, from memory), largest first, none listed twice."""
    faults = [(i, f) for i, f in enumerate(findings) if f.kind in PIXEL_KINDS and f.counts]
    free = {i for i, _ in faults}
    made: list[Finding] = []
    while True:
        best: list[int] = []
        for _, corner_x in faults:
            for _, corner_y in faults:
                if abs(corner_x.x - corner_y.x) >= CLUSTER_BLOCK_PX or abs(corner_x.y - corner_y.y) >= CLUSTER_BLOCK_PX:
                    continue
                block = [
                    i
                    for i, f in faults
                    if i in free
                    and 0 <= f.x - corner_x.x < CLUSTER_BLOCK_PX
                    and 0 <= f.y - corner_y.y < CLUSTER_BLOCK_PX
                ]
                if len({(findings[i].x, findings[i].y) for i in block}) >= 2 and len(block) > len(best):
                    best = block
        if not best:
            return made
        free -= set(best)
        xs, ys = [findings[i].x for i in best], [findings[i].y for i in best]
        made.append(
            Finding(
                kind="cluster",
                x=(min(xs) + max(xs)) / 2,
                y=(min(ys) + max(ys)) / 2,
                w=max(xs) - min(xs) + 1,
                h=max(ys) - min(ys) + 1,
                contrast=min((findings[i].contrast for i in best), key=lambda c: -abs(c)),
                confidence=min(findings[i].confidence for i in best),
                members=tuple(best),
                reasons=(f"{len(best)} faults inside one block of 5 x 5 pixels.",),
            )
        )

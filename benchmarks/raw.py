"""The same moments as JPEG and as raw photo: what a phone's own developing costs. No figure was tuned on the reporting seeds; the method of
demosaicing was chosen on seeds 77001 to 77005."""

import statistics
import time
from collections import Counter

from benchmarks.phone import ROWS, shoot_row
from benchmarks.pixels import SetCount
from lens.inspecting import inspect_files


def print_raw(sets: int, first_seed: int) -> None:
    """A line of each row as JPEG and as DNG: pixels and places, then what registration, evenness and time say."""
    print(
        f"\nstandard sets of an automatic phone, as it develops them and as raw photos of the same moments; seeds from {first_seed}"
    )
    print(
        "panel, px/px           sets  pixels  missed  subpixels      found kind right  place ex.  false/set  no false in  abstained  "
        "proven  p(>=.98)"
    )
    for row in ROWS:
        for raw in (False, True):
            count, refused = SetCount(), Counter[str]()
            residuals, uncertain, seconds = [], [], []
            for seed in range(first_seed, first_seed + sets):
                device, files, _ = shoot_row(row, seed, raw)
                began = time.perf_counter()
                result = inspect_files(device.panel, files)
                seconds.append(time.perf_counter() - began)
                count.add(device, result)
                residuals += [one.residual_px for one in result.photos if one.used and one.residual_px is not None]
                refused.update(problem.code for one in result.photos if not one.used for problem in one.problems)
                if result.uniformity:
                    uncertain.append(result.uniformity.uncertainty)
            print(count.line(f"{row.name} {'raw' if raw else 'jpeg'}", sets))
            even = f"evenness to {statistics.median(uncertain):.3f}" if uncertain else "evenness not told"
            print(
                f"    registered to {statistics.median(residuals):.3f} px, worst {max(residuals):.3f}; {even}; refused "
                f"{sum(refused.values())}{' (' + ', '.join(refused) + ')' if refused else ''}; {statistics.median(seconds):.1f} s a set",
                flush=True,
            )

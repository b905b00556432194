"""Rows of ./clear-lens benchmark diagnose: EDIDs read, whole and damaged, and base rates learnt from closed jobs."""

import numpy as np

from lens.diagnosis import DEVICES, base_rates, load_model
from lens.edid import read_edid
from lens.simulate import EdidPanel, edid_of

EDIDS, CLOSED_JOBS, SHOPS = 200, (0, 30, 100, 300), 20
SHOP_VARIETY = 12.0  # the smaller, the further a made-up shop's shares lie from the shipped ones


def _edid_row(seed: int) -> None:
    """Blocks written by the simulator, which shares no code with the reader; one byte of each is spoilt once more."""
    whole = damaged = 0
    for number in range(EDIDS):
        rng = np.random.default_rng(seed + number)
        width, height = ((1366, 768), (1920, 1080), (1920, 1200), (2560, 1600), (3840, 2160))[int(rng.integers(5))]
        panel = EdidPanel(
            maker="".join(chr(ord("A") + int(n)) for n in rng.integers(0, 26, 3)),
            product=int(rng.integers(1, 65536)),
            week=int(rng.integers(1, 54)),
            year=int(rng.integers(2006, 2026)),
            width=width,
            height=height,
            clock_10khz=int(rng.integers(4000, 60000)),
            size_mm=(int(rng.integers(200, 400)), int(rng.integers(120, 250))),
            gamma=float(rng.integers(100, 300)) / 100,
        )
        data = edid_of(panel)
        told = read_edid(data)
        assert told.preferred is not None
        seen = (
            told.manufacturer_id,
            told.product_code,
            told.week,
            told.year,
            told.preferred.width,
            told.preferred.height,
            told.size_mm,
            told.gamma,
        )
        put = (
            panel.maker,
            panel.product,
            panel.week,
            panel.year,
            panel.width,
            panel.height,
            panel.size_mm,
            panel.gamma,
        )
        whole += seen == put and told.checksum_ok
        spoilt = bytearray(data)
        spoilt[int(rng.integers(8, 128))] ^= 1 << int(rng.integers(8))
        damaged += not read_edid(bytes(spoilt)).checksum_ok
    print(
        f"\nEDID: {whole} of {EDIDS} blocks read as written; {damaged} of {EDIDS} with one bit flipped told as damaged"
    )


def _learning_row(seed: int) -> None:
    """Half the sum of differences between the shares of a made-up shop's causes and those that are believed after so many jobs."""
    model = load_model()
    print("\nclosed jobs    share of jobs for which the base rates are wrong")
    for jobs in CLOSED_JOBS:
        wrong = []
        for number in range(SHOPS):
            rng = np.random.default_rng(seed + number)
            device = DEVICES[number % len(DEVICES)]
            shipped = {rate.cause: rate.shipped for rate in base_rates(model, device, {})}
            true = rng.dirichlet(SHOP_VARIETY * np.array(list(shipped.values())))
            counts = dict(zip(shipped, rng.multinomial(jobs, true).tolist(), strict=True))
            now = {rate.cause: rate.now for rate in base_rates(model, device, counts)}
            wrong.append(0.5 * sum(abs(now[cause] - share) for cause, share in zip(shipped, true, strict=True)))
        print(f"{jobs:11d}    {np.mean(wrong):.3f}")


def print_evidence(seed: int) -> None:
    """Both rows."""
    _edid_row(seed)
    _learning_row(seed)

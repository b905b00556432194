"""What a phone's automatics choose, and the phone's own record: light is absolute here, as a meter sees it."""

import math
from typing import NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray

from lens.records.base import Record
from lens.simulate.scene import Camera

Float = NDArray[np.float32]

# luminance of sRGB primaries (IEC 61966-2-1), by which meters weigh
LUMA = np.array([0.2126, 0.7152, 0.0722], np.float32)
METER_GREY = (
    0.18  # of full scale: where a reflected-light meter puts what it sees (ISO 2720; K = 12.5 cd/m2, from memory)
)
METER_K = 12.5
CENTRE_SIGMA = 0.32  # of the frame: centre-weighted metering
GUARD_SHARE, GUARD_LEVEL = (
    0.02,
    1.0,
)  # at most this share of the frame may reach full scale; a marker is smaller, so it does not count
# so that night stays night, programmes aim lower in the dark (common practice; the figures give black 25 to 80 times white's exposure, as phones do)
DARK_CD_M2, DARK_EV_A_STOP, MOST_DARKER_EV = 30.0, 0.6, 3.0
BASE_ISO, HIGHEST_ISO = 50, 3200
SHORTEST_S, STEADY_S, LONGEST_S = 1 / 8000, 1 / 120, 1 / 12  # hand-held: what phones go down to


class Phone(Record):
    """One phone in one hand. ``blur_px`` in ``camera`` is the lens at its best; ``defocus_px`` the radius of a disc, ``shake_px`` the length of a
    streak in a tenth of a second, in photo px. ``white_cd_m2`` is what the panel gives at full white, ``room_cd_m2`` what the glass sends back
    of a room that is not quite dark. ``balance`` are the errors of automatic white balance for red and blue, ``matrix_error`` the colour
    matrix's, ``local_tone`` the strength of tone mapping by place, ``denoise`` its strength at the highest gain."""

    camera: Camera = Camera()
    white_cd_m2: float = 300.0
    room_cd_m2: float = 0.05
    defocus_px: float = 0.0
    shake_px: float = 0.3
    shake_deg: float = 20.0
    balance: tuple[float, float] = (1.0, 1.0)
    matrix_error: float = 0.02
    exposure_error_ev: float = 0.0
    local_tone: float = 0.15
    denoise: float = 0.7
    sharpening: float = 0.5
    s_curve: float = 0.25
    dirt: float = 0.0


class Exposure(NamedTuple):
    """What the automatics chose. ``gain`` is over base sensitivity."""

    time_s: float
    gain: float

    @property
    def iso(self) -> int:
        return round(BASE_ISO * self.gain)


def metered(seen_cd_m2: Float, phone: Phone) -> Exposure:
    """What centre-weighted automatics choose for a frame: the meter's grey, but highlights guarded, the hand and the gain having their limits."""
    small = cv2.resize(seen_cd_m2 @ LUMA, (64, 48), interpolation=cv2.INTER_AREA)
    x, y = np.linspace(-0.5, 0.5, 64)[None, :], np.linspace(-0.5, 0.5, 48)[:, None]
    weight = np.exp(-(x**2 + y**2) / (2 * CENTRE_SIGMA**2))
    mean = float((small * weight).sum() / weight.sum()) + 1e-6
    # L = K N^2 / (t S) puts L at grey; from memory as ISO 2720 has it
    wanted = METER_K * phone.camera.f_number**2 / mean
    bright = float(np.quantile(small, 1 - GUARD_SHARE)) / mean * METER_GREY
    darker_ev = min(DARK_EV_A_STOP * max(0.0, math.log2(DARK_CD_M2 / mean)), MOST_DARKER_EV)
    wanted *= min(1.0, GUARD_LEVEL / max(bright, 1e-6)) * 2.0 ** (phone.exposure_error_ev - darker_ev)
    # base gain until a time that a hand holds, then time and gain by equal stops, then gain alone (common practice of phones' programmes)
    time_s = max(wanted / BASE_ISO, SHORTEST_S)
    if time_s > STEADY_S:
        time_s = min(math.sqrt(time_s * STEADY_S), LONGEST_S)
    return Exposure(time_s, min(max(wanted / (time_s * BASE_ISO), 1.0), HIGHEST_ISO / BASE_ISO))

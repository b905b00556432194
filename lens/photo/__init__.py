"""Photos of a panel: decoding, linear light, markers, registration, blur, and the view in panel coordinates."""

from lens.photo.bits_seen import BitSeen
from lens.photo.blocks import BLOCK_PX, block_means
from lens.photo.closeup import closeup, registration_of
from lens.photo.frame import decode_frame, read_frame_markers
from lens.photo.fitness import SCALED
from lens.photo.flat import FLAT, FlatField, read_flat
from lens.photo.ladder_seen import PatchSeen
from lens.photo.light import drive_light
from lens.photo.misplaced import Misplaced
from lens.photo.outline import lit_corners
from lens.photo.read import PhotoRead, read_photo
from lens.photo.registration import Registration
from lens.photo.sampling import PanelView

__all__ = [
    "BLOCK_PX",
    "FLAT",
    "SCALED",
    "BitSeen",
    "FlatField",
    "Misplaced",
    "PanelView",
    "PatchSeen",
    "PhotoRead",
    "Registration",
    "block_means",
    "closeup",
    "decode_frame",
    "drive_light",
    "lit_corners",
    "read_flat",
    "read_frame_markers",
    "read_photo",
    "registration_of",
]

"""Photo files: opened with care, decoded, freed of personal data."""

from lens.photo_file.decode import Decoded, decode, early_luma, for_the_eye, upright_size
from lens.photo_file.opening import MAX_BYTES, MAX_PIXELS
from lens.photo_file.stripped import strip_metadata

__all__ = [
    "MAX_BYTES",
    "MAX_PIXELS",
    "Decoded",
    "decode",
    "early_luma",
    "for_the_eye",
    "strip_metadata",
    "upright_size",
]

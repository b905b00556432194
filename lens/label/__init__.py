"""What a panel's label says: codes and printed text in a whole photo, and which part number they mean."""

from lens.label.back import Back, read_back, read_back_photo
from lens.label.codes import Code
from lens.label.lines import TextLine, available as text_reader_available
from lens.label.numbers import Candidate, Register
from lens.label.plug import BackConnector
from lens.label.reading import LabelReading, read_label, read_label_photo

__all__ = [
    "Back",
    "BackConnector",
    "Candidate",
    "Code",
    "LabelReading",
    "Register",
    "TextLine",
    "read_back",
    "read_back_photo",
    "read_label",
    "read_label_photo",
    "text_reader_available",
]

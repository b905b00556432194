"""JSON Schema of every result that leaves the core."""

from typing import Any

from lens.diagnosis import Diagnosis
from lens.edid import Edid
from lens.inspecting import Comparison, Witness
from lens.label import Back, LabelReading
from lens.matching import Match, PanelSpec
from lens.records import Inspection, Record
from lens.touch import TouchResult

RESULTS: dict[str, type[Record]] = {
    "inspection": Inspection,
    "diagnosis": Diagnosis,
    "back": Back,
    "label": LabelReading,
    "match": Match,
    "panel_spec": PanelSpec,
    "comparison": Comparison,
    "edid": Edid,
    "touch": TouchResult,
    "witness": Witness,
}


def all_schemas() -> dict[str, Any]:
    """Schema by name of the result."""
    return {name: record.model_json_schema() for name, record in RESULTS.items()}

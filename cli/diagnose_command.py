"""./clear-lens diagnose: evidence to ranked causes and the next check."""

import argparse
import json

from cli.files import read_json, write
from lens.diagnosis import EvidenceItem, diagnose
from lens.errors import BadInput


def add_options(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("--device", required=True)
    parser.add_argument("--evidence", required=True)
    parser.add_argument("--out", default=None)


def run(options: argparse.Namespace) -> int:
    raw = read_json(options.evidence)
    items = raw.get("items") if isinstance(raw, dict) else None
    if not isinstance(items, list):
        raise BadInput(
            'Evidence is {"items": [{"check": id, "outcome": id, "source": "measured|seen|told"}]}.', "evidence"
        )
    try:
        evidence = [EvidenceItem.model_validate(item) for item in items]
    except ValueError:
        raise BadInput(
            "Every evidence item needs a check, an outcome, and a source of measured, seen or told.", "evidence"
        ) from None
    result = diagnose(options.device, evidence).model_dump()
    for cause in result["causes"]:
        cause["for"] = cause.pop("for_")
    write(json.dumps(result, indent=2), options.out)
    return 0

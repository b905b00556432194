"""Findings as COCO annotations (the published 'Common Objects in Context' fields: images, categories, annotations with bbox [x, y, w, h])."""

from collections.abc import Mapping
from typing import Any

from lens.records import KINDS, Inspection


def coco(inspections: Mapping[str, Inspection]) -> dict[str, Any]:
    """One document for a job. Each stage is an image of its own: the panel as it was rectified, boxes in its pixels."""
    categories = {name: number for number, name in enumerate(KINDS, 1)}
    images: list[dict[str, Any]] = []
    annotations: list[dict[str, Any]] = []
    for image, (stage, inspection) in enumerate(inspections.items(), 1):
        size = {"width": inspection.panel.width, "height": inspection.panel.height}
        images.append({"id": image, "file_name": f"{stage}.panel", **size})
        for finding in inspection.findings:
            box = [finding.x - finding.w / 2, finding.y - finding.h / 2, finding.w, finding.h]
            annotations.append(
                {
                    "id": len(annotations) + 1,
                    "image_id": image,
                    "category_id": categories[finding.kind],
                    "bbox": [round(value, 2) for value in box],
                    "area": round(finding.w * finding.h, 2),
                    "iscrowd": 0,
                    "score": finding.confidence,
                }
            )
    return {
        "info": {"description": "Findings on a display panel, in its own pixels", "version": "1"},
        "images": images,
        "categories": [
            {"id": number, "name": name, "supercategory": KINDS[name].family} for name, number in categories.items()
        ],
        "annotations": annotations,
    }

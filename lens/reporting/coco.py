"""Findings as COCO annotations (the published 'Common Objects in Context' fields: images, categories, annotations with bbox [x, y, w, h])."""

from collections.abc import Mapping, Sequence
from typing import Any

from lens.records import KINDS, Finding, PhotoReport


def coco(
    photos: Sequence[tuple[int, str, PhotoReport | None, tuple[int, int]]], panel: Mapping[str, Sequence[Finding]]
) -> dict[str, Any]:
    """One document for a job.

    Parameters
    ----------
    photos : id, file name, report and (width, height) in px of each photo
    panel : by stage the findings, in panel pixels; each stage is an image of its own, the panel as it was rectified
    """
    categories = {name: number for number, name in enumerate(KINDS, 1)}
    images = [
        {"id": number, "file_name": name, "width": size[0], "height": size[1]} for number, name, _, size in photos
    ]
    annotations: list[dict[str, Any]] = []
    for stage, findings in panel.items():
        image = 1_000_000 + len(images)
        images.append({"id": image, "file_name": f"{stage}.panel", "width": 0, "height": 0})
        for finding in findings:
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

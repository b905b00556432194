"""Findings as COCO annotations (the published 'Common Objects in Context' fields: images, categories, annotations with bbox [x, y, w, h])."""

from collections.abc import Mapping, Sequence
from typing import Any, NamedTuple

import numpy as np

from lens.records import KINDS, Finding, Inspection, PhotoMap

LEAST_PX = 1.0  # a fault of one subpixel still has a box


class PlacedPhoto(NamedTuple):
    """A photo beside the document: its file, its stage, and where the panel's pixels lie in it."""

    file: str
    stage: str
    map: PhotoMap


def coco(inspections: Mapping[str, Inspection], photos: Sequence[PlacedPhoto] = ()) -> dict[str, Any]:
    """One document for a job.

    Each stage is an image of its own, the panel as it was rectified (``STAGE.panel``, boxes in its pixels); each photo is one too, with the place of
    every finding of its stage in it as box and outline, in pixels after the EXIF orientation.
    """
    from lens.photo import registration_of  # whoever only checks a report need not load the photo's room

    categories = {name: number for number, name in enumerate(KINDS, 1)}
    images: list[dict[str, Any]] = []
    annotations: list[dict[str, Any]] = []

    def annotate(image: int, finding: Finding, outline: np.ndarray[Any, np.dtype[np.float64]]) -> None:
        (left, top), (right, low) = outline.min(axis=0), outline.max(axis=0)
        wide, high = float(right - left), float(low - top)
        annotations.append(
            {
                "id": len(annotations) + 1,
                "image_id": image,
                "category_id": categories[finding.kind],
                "bbox": [round(float(value), 2) for value in (left, top, wide, high)],
                "segmentation": [[round(float(value), 2) for value in outline.ravel()]],
                "area": round(wide * high, 2),
                "iscrowd": 0,
                "score": finding.confidence,
            }
        )

    for stage, inspection in inspections.items():
        size = {"width": inspection.panel.width, "height": inspection.panel.height}
        images.append({"id": len(images) + 1, "file_name": f"{stage}.panel", **size})
        for finding in inspection.findings:
            annotate(len(images), finding, _outline(finding))
    for photo in photos:
        told = inspections.get(photo.stage)
        if told is None:
            continue
        images.append(
            {"id": len(images) + 1, "file_name": photo.file, "width": photo.map.width, "height": photo.map.height}
        )
        placed = registration_of(photo.map)
        for finding in told.findings:
            outline = placed.to_photo(_outline(finding))
            inside = (
                (outline >= 0).all()
                and (outline[:, 0] <= photo.map.width).all()
                and (outline[:, 1] <= photo.map.height).all()
            )
            if inside:  # a closeup shows a part of the panel only
                annotate(len(images), finding, outline)
    return {
        "info": {"description": "Findings on a display panel, in its own pixels and in its photos", "version": "2"},
        "images": images,
        "categories": [
            {"id": number, "name": name, "supercategory": KINDS[name].family} for name, number in categories.items()
        ],
        "annotations": annotations,
    }


def _outline(finding: Finding) -> np.ndarray[Any, np.dtype[np.float64]]:
    """(4, 2): the corners of its box in panel px, clockwise from the top left."""
    half_w, half_h = max(finding.w, LEAST_PX) / 2, max(finding.h, LEAST_PX) / 2
    corners = ((-half_w, -half_h), (half_w, -half_h), (half_w, half_h), (-half_w, half_h))
    return np.array([(finding.x + dx, finding.y + dy) for dx, dy in corners])

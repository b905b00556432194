"""The page on which a device shows its own functions: it sends what it recorded, and the bench judges it. Opened by a code, as the device page is."""

import base64
import binascii
import json
from typing import Any

import numpy as np
from django.http import HttpRequest, HttpResponse, JsonResponse
from django.views.decorators.csrf import csrf_exempt
from django.views.decorators.http import require_POST, require_safe
from numpy.typing import NDArray

from lens.errors import BadInput
from lens.proving import SPEAKS_FOR, TONES_HZ, Sensed, camera_alive, functions, tone_heard
from server.common.pages import page
from server.handchecks.actions import answer_function
from server.inspections.models import Access
from server.inspections.public import by_code
from server.proving.verdict import functions_of

MOST_BYTES = 2_000_000
STAGE = "closed"
FULL_SCALE = 32_768.0  # of a 16-bit sample


@require_safe
def sense_page(request: HttpRequest, code: str) -> HttpResponse:
    answer = page(request, "sense.html")
    answer["Permissions-Policy"] = "geolocation=(), microphone=(self), camera=(self)"
    return answer


@require_safe
@by_code("sense")
def sense_state(request: HttpRequest, access: Access) -> HttpResponse:
    """Which senses speak for a function that was touched on this device, and how each was found so far."""
    asked = {one.id for one in functions_of(access.run.job)}
    last = {row.name: row.outcome for row in access.run.job.handchecks.filter(stage=STAGE, what="function")}
    senses = [
        {
            "id": name,
            "functions": [functions()[one].title for one in names],
            "good": all(last.get(one) == "good" for one in names if one in asked),
        }
        for name, names in SPEAKS_FOR.items()
        if asked & set(names)
    ]
    return JsonResponse({"job": access.run.job.title, "tones_hz": TONES_HZ, "senses": senses})


def _bytes(told: dict[str, Any], name: str) -> bytes:
    try:
        return base64.b64decode(str(told.get(name, "")), validate=True)
    except (binascii.Error, ValueError):
        raise BadInput("What the device sent is damaged. Try again.", "sense_data") from None


def _samples(told: dict[str, Any], name: str) -> NDArray[np.float64]:
    data = _bytes(told, name)
    return np.frombuffer(data[: len(data) // 2 * 2], "<i2") / FULL_SCALE


def _judged(sense: str, told: dict[str, Any]) -> Sensed:
    if sense == "tone":
        rate = told.get("rate_hz")
        if not isinstance(rate, int | float) or not np.isfinite(rate):
            raise BadInput("The recording's rate is missing.", "sense_rate")
        return tone_heard(_samples(told, "quiet"), _samples(told, "played"), float(rate))
    width, data = told.get("width"), _bytes(told, "luma")
    if not isinstance(width, int) or width <= 0 or not data or len(data) % width:
        raise BadInput("The frame has an impossible size.", "sense_frame")
    return camera_alive(np.frombuffer(data, np.uint8).reshape(-1, width))


@csrf_exempt  # no cookie is used: the code in the address is the permission
@require_POST
@by_code("sense")
def sensed(request: HttpRequest, access: Access) -> HttpResponse:
    """Judge what the device recorded; what is good is entered as measured, by whoever made the code."""
    if len(request.body) > MOST_BYTES:
        raise BadInput("The recording is too long.", "sense_data")
    try:
        told = json.loads(request.body)
    except ValueError:
        raise BadInput("What the device sent is no JSON.", "sense_data") from None
    if not isinstance(told, dict):
        raise BadInput("What the device sent is no JSON object.", "sense_data")
    sense = next((name for name in SPEAKS_FOR if told.get("sense") == name), None)
    if sense is None:
        raise BadInput(f"A device can show {', '.join(SPEAKS_FOR)}.", "unknown_sense")
    found = _judged(sense, told)
    if found.good:
        asked = {one.id for one in functions_of(access.run.job)}
        for name in SPEAKS_FOR[sense]:
            if name in asked:
                answer_function(access.made_by, access.run.job_id, name, "good", found.figure, "measured")
    return JsonResponse(found.model_dump(mode="json"))

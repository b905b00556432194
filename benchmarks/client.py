"""A person, a phone and a device at a running bench, over HTTP as it is."""

import http.client
import http.cookies
import io
import json
import secrets
import zipfile
from typing import Any
from urllib.parse import urlsplit

import numpy as np
from PIL import Image

from lens.panel import Panel, make_panel
from lens.simulate import Camera, FaultyPanel, emit, photograph, random_pose

PASSWORD = "long-enough-1"
PANEL = make_panel(640, 400)


class Caller:
    """Requests to one address; a connection of its own for each, since servers die here."""

    def __init__(self, url: str, timeout_s: float = 20.0) -> None:
        parts = urlsplit(url)
        self.host, self.port, self.timeout_s = parts.hostname or "", parts.port or 80, timeout_s
        self.cookies: dict[str, str] = {}

    def call(
        self, method: str, path: str, body: bytes | None = None, headers: dict[str, str] | None = None
    ) -> tuple[int, bytes]:
        """Status and body; status 0 when there was no answer, or none that was whole."""
        told = {"Cookie": "; ".join(f"{name}={value}" for name, value in self.cookies.items()), **(headers or {})}
        if "csrftoken" in self.cookies:
            told["X-CSRFToken"] = self.cookies["csrftoken"]
        connection = http.client.HTTPConnection(self.host, self.port, timeout=self.timeout_s)
        try:
            connection.request(method, path, body, told)
            answer = connection.getresponse()
            data = answer.read()
            for line in answer.headers.get_all("Set-Cookie") or []:
                for name, morsel in http.cookies.SimpleCookie(line).items():
                    self.cookies[name] = morsel.value
            return answer.status, data
        except (OSError, http.client.HTTPException):
            return 0, b""
        finally:
            connection.close()

    def json(self, method: str, path: str, value: Any = None) -> tuple[int, Any]:
        body = None if value is None else json.dumps(value).encode()
        status, data = self.call(method, path, body, {"Content-Type": "application/json"})
        try:
            return status, json.loads(data) if data else None
        except ValueError:
            return status, None

    def ok(self, method: str, path: str, value: Any = None) -> Any:
        status, told = self.json(method, path, value)
        if not 200 <= status < 300:
            raise AssertionError(f"{method} {path}: {status} {told}")
        return told

    def sign_in(self, name: str, password: str = PASSWORD) -> "Caller":
        self.call("GET", "/jobs")
        self.ok("POST", "/api/session", {"username": name, "password": password})
        return self

    def send_photo(self, path: str, data: bytes, key: str, name: str = "photo.jpg") -> tuple[int, Any]:
        """As a form, as phones do."""
        body, kind = form([("photo", name, data)])
        status, told = self.call("POST", path, body, {"Content-Type": kind, "Idempotency-Key": key})
        return status, told


def form(files: list[tuple[str, str, bytes]], fields: dict[str, str] | None = None) -> tuple[bytes, str]:
    """multipart/form-data (RFC 7578) and its content type."""
    boundary = secrets.token_hex(12)
    out = io.BytesIO()
    for name, value in (fields or {}).items():
        out.write(f'--{boundary}\r\nContent-Disposition: form-data; name="{name}"\r\n\r\n{value}\r\n'.encode())
    for name, file_name, data in files:
        head = f'--{boundary}\r\nContent-Disposition: form-data; name="{name}"; filename="{file_name}"\r\nContent-Type: image/jpeg\r\n\r\n'
        out.write(head.encode() + data + b"\r\n")
    out.write(f"--{boundary}--\r\n".encode())
    return out.getvalue(), f"multipart/form-data; boundary={boundary}"


def new_job(bench: Caller, title: str, stage: str = "inspect", panel: Panel = PANEL) -> tuple[int, int]:
    """A job of a laptop, small unless said, and its run."""
    fields = {
        "title": title,
        "device_type": "clamshell",
        "panel_width": panel.width,
        "panel_height": panel.height,
        "complaint": "Dots.",
    }
    job = int(bench.ok("POST", "/api/jobs", fields)["id"])
    return job, int(bench.ok("POST", f"/api/jobs/{job}/runs/{stage}")["id"])


def code(bench: Caller, run: int, kind: str) -> str:
    return str(bench.ok("POST", f"/api/runs/{run}/access", {"kind": kind})["url"].rsplit("/", 1)[1])


def shoot_patterns(
    bench: Caller, run: int, names: tuple[str, ...], seed: int, camera: Camera | None = None, panel: Panel = PANEL
) -> dict[str, bytes]:
    """Handheld photos of a run's own pictures, as its ZIP gives them; its manifest says which file is which."""
    status, data = bench.call("GET", f"/api/runs/{run}/patterns.zip")
    if status != 200:
        raise AssertionError(f"patterns.zip: {status}")
    camera = camera or Camera(width=1500, height=1125)
    photos = {}
    with zipfile.ZipFile(io.BytesIO(data)) as pictures:
        files = {p["id"]: p["file"] for p in json.loads(pictures.read("manifest.json"))["patterns"]}
        for number, name in enumerate(names):
            rng = np.random.default_rng(seed + number)
            drawn = np.asarray(Image.open(io.BytesIO(pictures.read(files[name]))).convert("RGB"))
            photos[name] = photograph(
                emit(FaultyPanel(panel=panel), drawn), camera, random_pose(panel, camera, rng), rng
            ).data
    return photos

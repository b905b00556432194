"""Wrong input of every kind, from a seed: JSON against the API's own schema, forms, addresses, files of all formats, cut, flipped or made up."""

import io
import json
import random
import zlib
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any, NamedTuple

import numpy as np
import pillow_heif
from PIL import Image

from benchmarks.client import form

OPENAPI = Path(__file__).resolve().parents[1] / "web" / "openapi.json"
TEXTS = (
    "",
    "\0",
    "a\0b",
    "\ud800",
    "x" * 100_000,
    "\r\nSet-Cookie: a=b",
    "../../etc/passwd",
    "'; drop table jobs_job; --",
    "<script>alert(1)</script>",
    "=1+1",
    "‮evil",
    "🤖" * 50,
    "%00",
    "null",
    "NaN",
    "\x7f\x1b[31m",
    "İ" * 200,
)
NUMBERS = (0, -1, 1, 2**31, 2**63, 2**64, 10**400, -(2**63) - 1, 1e308, -0.0, 1.5, 1e-320)
IDS = (
    "0",
    "-1",
    "9223372036854775807",
    "9223372036854775808",
    "99999999999999999999999",
    "abc",
    "%00",
    "%0d%0a",
    "..%2f..%2f",
    "1.5",
    "x" * 3000,
    "%ff",
)
QUERIES = ("%0d%0aX:%20y", "%00", "a" * 5000, "-1", "NaN", "1e999", "%F0%9F%A4%96", "[]", "%E0%A4%A")
NAMES = (
    ".",
    "..",
    "/",
    "a" * 4000 + ".jpg",
    "caf\xe9.jpg",
    "\u202egpj.exe",
    "..\\..\\x.jpg",
    "a;b.jpg",
    'a"b.jpg',
    "%0d%0a.jpg",
    "con",
    "~",
)
METHODS = ("GET", "POST", "PUT", "PATCH", "DELETE", "HEAD", "OPTIONS", "TRACE")


class Input(NamedTuple):
    """One request."""

    what: str
    method: str
    path: str
    headers: dict[str, str]
    body: bytes


class Place(NamedTuple):
    """What is there to be aimed at."""

    job: int
    run: int
    session: int
    glass: str
    snap: str


def value(rng: random.Random, depth: int = 0) -> Any:
    """Any JSON value, mostly a strange one."""
    kind = rng.randrange(8)
    if kind < 3:
        return rng.choice(TEXTS)
    if kind < 5:
        return rng.choice(NUMBERS)
    if kind == 5:
        return rng.choice((None, True, False))
    if depth > 3:
        return []
    many = rng.choice((0, 1, 3, 40))
    return (
        [value(rng, depth + 1) for _ in range(many)]
        if kind == 6
        else {str(rng.choice(TEXTS))[:50]: value(rng, depth + 1) for _ in range(many)}
    )


def fitting(rng: random.Random, schema: dict[str, Any], every: dict[str, Any], depth: int = 0) -> Any:
    """A value that mostly fits a schema, so that what is wrong gets further in."""
    if rng.random() < 0.12 or depth > 6:
        return value(rng)
    if "$ref" in schema:
        return fitting(rng, every[schema["$ref"].rpartition("/")[2]], every, depth + 1)
    for name in ("anyOf", "oneOf", "allOf"):
        if name in schema:
            return fitting(rng, rng.choice(schema[name]), every, depth + 1)
    if "enum" in schema:
        return rng.choice(schema["enum"])
    kind = schema.get("type")
    if kind == "object":
        told = {
            name: fitting(rng, one, every, depth + 1)
            for name, one in schema.get("properties", {}).items()
            if rng.random() < 0.9
        }
        return told | ({rng.choice(TEXTS)[:20]: value(rng)} if rng.random() < 0.1 else {})
    if kind == "array":
        return [fitting(rng, schema.get("items", {}), every, depth + 1) for _ in range(rng.choice((0, 1, 2, 4)))]
    simple: dict[str | None, Callable[[], Any]] = {
        "string": lambda: rng.choice(("white", "2026-12-24", "class-II", "a few words", *TEXTS)),
        "boolean": lambda: rng.random() < 0.5,
        "integer": lambda: rng.choice((1, 2, 640, 1920, *NUMBERS)),
        "number": lambda: rng.choice((1.0, 15.6, 300.0, *NUMBERS)),
    }
    return simple.get(kind, lambda: value(rng))()


def nested(rng: random.Random) -> bytes:
    """JSON that is deep, cut, doubled or none."""
    deep = rng.choice((100, 2000, 100_000))
    return rng.choice(
        (
            b"[" * deep,
            b"[" * deep + b"]" * deep,
            b'{"a":' * deep + b"1" + b"}" * deep,
            b'{"a": NaN}',
            b'{"a": 1, "a": 2',
            b"\xff\xfe{}",
            b"{}" * 3,
            b'{"x": "' + b"y" * 300_000 + b'"}',
            b'{"x": ' + b"9" * 5000 + b"}",
            b"",
        )
    )


def api(rng: random.Random, place: Place, document: dict[str, Any]) -> Input:
    """An operation of the schema with a body, path and query that are partly wrong."""
    path, methods = rng.choice(list(document["paths"].items()))
    method, operation = rng.choice(list(methods.items()))
    known = {
        "job_id": place.job,
        "run_id": place.run,
        "session_id": place.session,
        "stage": "inspect",
        "gate_id": "open",
        "profile_id": "own",
    }
    query = []
    for told in operation.get("parameters", []):
        good = str(known.get(told["name"], rng.randint(1, 40)))
        if told["in"] == "path":
            path = path.replace("{%s}" % told["name"], good if rng.random() < 0.8 else rng.choice(IDS))  # noqa: UP031 - braces of its own
        elif told["in"] == "query" and rng.random() < 0.6:
            query.append(f"{told['name']}={rng.choice((*QUERIES, 'inspect', '1', '12.5'))}")
    content = operation.get("requestBody", {}).get("content", {})
    every = document["components"]["schemas"]
    headers = {
        "Content-Type": "application/json",
        "Idempotency-Key": str(rng.choice(("k", "", "x" * 100, rng.random()))),
    }
    if "multipart/form-data" in content:
        data, kind = form(
            [("file", "x", some_file(rng)), ("photo", "y", some_file(rng))], {"hz": str(rng.choice((*QUERIES, "100")))}
        )
        return Input(
            f"api {path}",
            method.upper(),
            path + ("?" + "&".join(query) if query else ""),
            {**headers, "Content-Type": kind},
            data,
        )
    body = b""
    if content and rng.random() < 0.15:
        body = nested(rng)
    elif content:
        schema = next(iter(content.values())).get("schema", {})
        body = json.dumps(fitting(rng, schema, every)).encode("utf-8", "surrogatepass")
    return Input(f"api {path}", method.upper(), path + ("?" + "&".join(query) if query else ""), headers, body)


def _pictures() -> dict[str, bytes]:
    pillow_heif.register_heif_opener()
    ramp = np.linspace(0, 255, 400 * 300 * 3).astype(np.uint8).reshape(300, 400, 3)
    picture, out = Image.fromarray(ramp), {}
    for kind in ("JPEG", "PNG", "TIFF", "WEBP", "HEIF", "GIF", "EPS", "BMP", "ICO"):
        buffer = io.BytesIO()
        picture.save(buffer, kind)
        out[kind] = buffer.getvalue()
    buffer = io.BytesIO()
    picture.save(buffer, "TIFF", compression="tiff_lzw")
    out["LZW"] = buffer.getvalue()
    out["BOMB"] = _png_bomb()
    return out


def _png_bomb() -> bytes:
    """A PNG of 40 000 x 40 000 pixels in a few kilobytes (PNG specification, chunks)."""

    def chunk(name: bytes, data: bytes) -> bytes:
        return len(data).to_bytes(4, "big") + name + data + zlib.crc32(name + data).to_bytes(4, "big")

    head = (40_000).to_bytes(4, "big") * 2 + bytes([8, 2, 0, 0, 0])
    return (
        b"\x89PNG\r\n\x1a\n"
        + chunk(b"IHDR", head)
        + chunk(b"IDAT", zlib.compress(bytes(100_000)))
        + chunk(b"IEND", b"")
    )


PICTURES = _pictures()
OTHERS = (
    b"time,Y\r1,2\r3,4",
    b"CGATS.17\nBEGIN_DATA\n1 2 3\nEND_DATA\n",
    b"Y;x;y\n1,5;0,3;0,3\n",
    b"\x00\xff\xff\xff\xff\xff\xff\x00" + bytes(120),
    b"title: a\npatterns: [white]\n",
    b"a: &a [1,1]\nb: &b [*a,*a]\nc: [*b,*b]\n",
    b"E: 0.000001 0003 0039 0001\n",
    b"devices:\n- ndev: 1\n",
    b'{"type": "session", "panel": {"width": 640, "height": 400}}\n{"t": 1, "id": 1, "ev": "down", "x": 1, "y": 2}\n',
    b"PK\x03\x04" + bytes(60),
)


def some_file(rng: random.Random) -> bytes:
    """A file of some format, whole or hurt."""
    data = rng.choice((*PICTURES.values(), *OTHERS))
    how = rng.randrange(7)
    if how == 0 or not data:
        return data
    if how == 1:
        return data[: rng.randrange(len(data))]
    if how == 2:
        return data + bytes(rng.randrange(2000))
    if how == 3:
        return rng.randbytes(rng.choice((0, 1, 7, 5000)))
    if how == 4:
        at = rng.randrange(len(data))
        return data[:at] + rng.randbytes(min(20, len(data) - at)) + data[at + 20 :]
    hurt = bytearray(data)
    for _ in range(rng.choice((1, 3, 30))):
        hurt[rng.randrange(len(hurt))] = rng.randrange(256)
    return bytes(hurt)


def upload(rng: random.Random, place: Place) -> Input:
    """A file by one of the doors that take files."""
    path, field = rng.choice(
        (
            (f"/s/{place.snap}/photos", "photo"),
            (f"/api/runs/{place.run}/photos", "photo"),
            (f"/api/jobs/{place.job}/edid", "file"),
            (f"/api/jobs/{place.job}/readings", "file"),
            (f"/api/runs/{place.run}/touch/file", "file"),
            (f"/api/runs/{place.run}/camera/lamp", "file"),
        )
    )
    body, kind = form(
        [(field, rng.choice(NAMES), some_file(rng))], {"hz": "100", "plan": rng.choice(("", "{}", "[", "\x00"))}
    )
    how = rng.randrange(8)
    if how == 0:
        kind = rng.choice(
            (
                "multipart/form-data",
                "multipart/form-data; boundary=",
                "multipart/form-data; boundary=" + "x" * 300,
                "text/plain",
            )
        )
    elif how == 1:
        body = body[: rng.randrange(len(body))]
    elif how == 2:
        body = body.replace(b"\r\n", b"\n")
    return Input(
        f"file {path.rpartition('/')[2]}",
        "POST",
        path,
        {"Content-Type": kind, "Idempotency-Key": f"k{rng.randrange(50)}"},
        body,
    )


def public(rng: random.Random, place: Place) -> Input:
    """The two pages that open by code."""
    ids = (place.glass, place.snap, "a" * 13, *IDS)
    path = rng.choice(
        (
            "/g/{}/report",
            "/g/{}/step",
            f"/g/{{}}/touch/{place.session}",
            "/g/{}/touch/" + rng.choice(IDS),
            "/g/{}/white.png",
            "/g/{}/%00.png",
            "/g/{}/state",
            "/s/{}/state",
            "/s/{}/step",
            "/s/{}/photos",
            "/s/{}",
            "/g/{}/touch",
        )
    ).format(rng.choice(ids))
    part = {
        "sender": value(rng),
        "number": value(rng),
        "events": [[value(rng) for _ in range(rng.choice((0, 7, 8)))] for _ in range(3)],
        "steps": [value(rng)],
        "origin_ms": value(rng),
        "now": value(rng),
    }
    good = {
        "sender": "s",
        "number": rng.randrange(100),
        "events": [[1.0, 1, "down", 5.0, 5.0, None, None, None]],
        "steps": [],
        "origin_ms": 0.0,
    }
    told = rng.choice(
        (part, {**good, rng.choice(list(good)): value(rng)}, {"move": value(rng)}, {"ratio": value(rng)}, value(rng))
    )
    body = nested(rng) if rng.random() < 0.2 else json.dumps(told).encode("utf-8", "surrogatepass")
    return Input(
        f"page {path[:2]}", rng.choice(("GET", "POST", "POST")), path, {"Content-Type": "application/json"}, body
    )


def address(rng: random.Random, place: Place) -> Input:
    """Addresses and methods that are none."""
    path = rng.choice(
        (
            f"/api/{rng.choice(IDS)}",
            f"/api/jobs/{rng.choice(IDS)}",
            f"/{rng.choice(IDS)}",
            "//evil.example/",
            "/static/../../etc/passwd",
            "/static/%2e%2e/%2e%2e/etc/passwd",
            f"/api/jobs/{place.job}/findings.csv?stage={rng.choice(QUERIES)}",
            "/api/jobs?" + "a=b&" * 3000,
            f"/api/photos/1/image?size={rng.choice(QUERIES)}",
            f"/api/photos/1/closeup?x={rng.choice(QUERIES)}&y=1",
        )
    )
    return Input(
        "address", rng.choice(METHODS), path, {"Content-Type": rng.choice(("", "application/json", "x" * 500))}, b""
    )


def inputs(place: Place, count: int, seed: int) -> Iterator[Input]:
    """``count`` requests of all kinds."""
    rng = random.Random(seed)
    document = json.loads(OPENAPI.read_text())
    kinds: tuple[Callable[[], Input], ...] = (
        lambda: api(rng, place, document),
        lambda: api(rng, place, document),
        lambda: upload(rng, place),
        lambda: upload(rng, place),
        lambda: public(rng, place),
        lambda: address(rng, place),
    )
    for _ in range(count):
        yield rng.choice(kinds)()

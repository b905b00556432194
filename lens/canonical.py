"""One way of writing JSON, so that the same content has the same bytes, and the same hash, everywhere."""

import hashlib
import json


def canonical(value: object) -> bytes:
    """JSON with sorted keys and no spaces; ValueError for what JSON cannot hold."""
    return json.dumps(value, sort_keys=True, separators=(",", ":"), ensure_ascii=False, allow_nan=False).encode()


def digest(value: object) -> str:
    """SHA-256 of the canonical JSON, in hex."""
    return digest_of(canonical(value))


def digest_of(written: bytes) -> str:
    """SHA-256 of canonical JSON that is written already, in hex."""
    return hashlib.sha256(written).hexdigest()

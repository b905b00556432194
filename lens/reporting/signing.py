"""Signatures of reports: Ed25519 (RFC 8032) over the canonical JSON of everything in them but the signature."""

import base64
import binascii
import hashlib
from typing import Any

from cryptography.exceptions import InvalidSignature
from cryptography.hazmat.primitives.asymmetric.ed25519 import Ed25519PrivateKey, Ed25519PublicKey

from lens.canonical import canonical
from lens.errors import BadInput

ALGORITHM = "Ed25519"
GROUP, GROUPS = 4, 8  # of the fingerprint: 128 bits, in groups that can be read out


def new_key() -> str:
    """A private key (its 32 bytes in base64)."""
    return base64.b64encode(Ed25519PrivateKey.generate().private_bytes_raw()).decode()


def public_of(private: str) -> str:
    """The public key of a private one, both in base64."""
    return base64.b64encode(_private(private).public_key().public_bytes_raw()).decode()


def _private(text: str) -> Ed25519PrivateKey:
    return Ed25519PrivateKey.from_private_bytes(base64.b64decode(text.strip(), validate=True))


def _public(text: str) -> Ed25519PublicKey:
    return Ed25519PublicKey.from_public_bytes(base64.b64decode(text.strip(), validate=True))


def read_public(text: str) -> str:
    """A public key as it stands in a file; raises BadInput for anything else."""
    try:
        _public(text)
    except (ValueError, binascii.Error):
        raise BadInput(
            "This is no public key of a shop: 32 bytes in base64 are expected, as in its shop.pub.", "no_key"
        ) from None
    return text.strip()


def fingerprint(public: str) -> str:
    """The first 128 bits of the key's SHA-256, to be compared by eye or voice."""
    digest = hashlib.sha256(public.strip().encode()).hexdigest().upper()
    return " ".join(digest[n * GROUP : (n + 1) * GROUP] for n in range(GROUPS))


def signed(document: dict[str, Any], private: str) -> dict[str, Any]:
    """The document with its ``signature``."""
    content = {key: value for key, value in document.items() if key != "signature"}
    value = base64.b64encode(_private(private).sign(canonical(content))).decode()
    return {**content, "signature": {"algorithm": ALGORITHM, "key": public_of(private), "value": value}}


def signature_holds(document: dict[str, Any]) -> bool:
    """Whether a document is what was signed by the key that it names."""
    told = document.get("signature")
    content = {key: value for key, value in document.items() if key != "signature"}
    if not isinstance(told, dict) or set(told) != {"algorithm", "key", "value"} or told["algorithm"] != ALGORITHM:
        return False
    try:
        _public(str(told["key"])).verify(base64.b64decode(str(told["value"]), validate=True), canonical(content))
    except (InvalidSignature, ValueError, binascii.Error):
        return False
    return True

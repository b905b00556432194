"""Signatures of PDF files: EC P-256 with a certificate that the shop signs itself, inside the file (by pyHanko), the report's JSON attached.

A viewer says that it does not know the signer: the certificate's fingerprint stands in the signed JSON, and the JSON is signed by the shop's own key.
"""

import datetime as dt
import hashlib
import io
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from typing import Any, NamedTuple

from cryptography import x509
from cryptography.hazmat.primitives import hashes, serialization
from cryptography.hazmat.primitives.asymmetric import ec
from cryptography.x509.oid import NameOID

from lens.errors import BadInput
from lens.reporting.signing import GROUP, GROUPS

FIELD = "Shop"
ATTACHED = "report.json"
YEARS = 50  # nobody renews it; what it signed must hold longer than a warranty
NO_PDF = "This is no PDF report of ours: one that was saved from Hand over is expected."


class PdfKey(NamedTuple):
    """Private key and certificate, both as PEM text."""

    key: str
    certificate: str


class SignedPdf(NamedTuple):
    """``whole``: one signature, over the entire file, that fits; ``attached`` is the report's JSON."""

    whole: bool
    place: str
    signer: str
    attached: bytes


def new_pdf_key() -> str:
    """A fresh key with its certificate, in one PEM text."""
    key = ec.generate_private_key(ec.SECP256R1())
    name = x509.Name([x509.NameAttribute(NameOID.COMMON_NAME, "Clear Lens report")])
    now = dt.datetime.now(dt.UTC).replace(microsecond=0)
    made = (
        x509.CertificateBuilder()
        .subject_name(name)
        .issuer_name(name)
        .public_key(key.public_key())
        .serial_number(x509.random_serial_number())
        .not_valid_before(now - dt.timedelta(days=1))
        .not_valid_after(now + dt.timedelta(days=365 * YEARS))
        .add_extension(x509.KeyUsage(True, True, False, False, False, False, False, False, False), critical=True)
        .sign(key, hashes.SHA256())
    )
    private = key.private_bytes(
        serialization.Encoding.PEM, serialization.PrivateFormat.PKCS8, serialization.NoEncryption()
    )
    return private.decode() + made.public_bytes(serialization.Encoding.PEM).decode()


def read_pdf_key(pem: str) -> PdfKey:
    """Raises ValueError for what holds no key and certificate that belong together."""
    key = serialization.load_pem_private_key(pem.encode(), None)
    certificate = x509.load_pem_x509_certificate(pem[pem.index("-----BEGIN CERTIFICATE") :].encode())
    if not isinstance(key, ec.EllipticCurvePrivateKey) or key.public_key() != certificate.public_key():
        raise ValueError("the certificate is not of this key")
    return PdfKey(pem, certificate.public_bytes(serialization.Encoding.PEM).decode())


def certificate_fingerprint(der: bytes) -> str:
    """The first 128 bits of the certificate's SHA-256, in groups that can be read out."""
    digest = hashlib.sha256(der).hexdigest().upper()
    return " ".join(digest[n * GROUP : (n + 1) * GROUP] for n in range(GROUPS))


def signer_of(pem: str) -> str:
    """What reports name a PDF key by."""
    certificate = x509.load_pem_x509_certificate(read_pdf_key(pem).certificate.encode())
    return certificate_fingerprint(certificate.public_bytes(serialization.Encoding.DER))


def _beside(work: Callable[[], Any]) -> Any:
    """The library runs an event loop of its own, which the thread of a caller may have already."""
    with ThreadPoolExecutor(1) as thread:
        return thread.submit(work).result()


def sign_pdf(data: bytes, pem: str) -> bytes:
    """The PDF with the shop's signature over all of it."""
    from asn1crypto import keys as asn1_keys  # a second to import, needed by a worker alone
    from asn1crypto import x509 as asn1_x509
    from pyhanko.pdf_utils.incremental_writer import IncrementalPdfFileWriter
    from pyhanko.sign import signers
    from pyhanko_certvalidator.registry import SimpleCertificateStore

    key = serialization.load_pem_private_key(pem.encode(), None)
    certificate = x509.load_pem_x509_certificate(read_pdf_key(pem).certificate.encode())
    private = key.private_bytes(
        serialization.Encoding.DER, serialization.PrivateFormat.PKCS8, serialization.NoEncryption()
    )
    signer = signers.SimpleSigner(
        signing_cert=asn1_x509.Certificate.load(certificate.public_bytes(serialization.Encoding.DER)),
        signing_key=asn1_keys.PrivateKeyInfo.load(private),
        cert_registry=SimpleCertificateStore(),  # type: ignore[no-untyped-call]
    )
    about = signers.PdfSignatureMetadata(field_name=FIELD, md_algorithm="sha256", reason="Report of the repair")
    out: Any = _beside(lambda: signers.sign_pdf(IncrementalPdfFileWriter(io.BytesIO(data)), about, signer=signer))
    return bytes(out.getvalue())


def read_signed_pdf(data: bytes) -> SignedPdf:
    """What a PDF's signature says of it. Raises BadInput for a file that is no signed PDF with a report in it."""
    from pyhanko.pdf_utils.reader import PdfFileReader
    from pyhanko.sign.validation import validate_pdf_signature
    from pyhanko_certvalidator import ValidationContext

    try:
        reader = PdfFileReader(io.BytesIO(data))
        signatures = list(reader.embedded_signatures)
        attached = _attached(reader)
        if len(signatures) != 1:
            return SignedPdf(False, "signature", "", attached)
        one = signatures[0]
        certificate = one.signer_cert
        trust = ValidationContext(trust_roots=[certificate], allow_fetching=False)
        status = _beside(lambda: validate_pdf_signature(one, trust))
        signer = certificate_fingerprint(certificate.dump())
        entire = status.coverage is not None and status.coverage.name == "ENTIRE_FILE"
        whole = bool(status.intact and status.valid and entire)
        return SignedPdf(whole, "" if whole else "pdf", signer, attached)
    except BadInput:
        raise
    except Exception as error:  # a mutated file may fail in any depth of the parser; none of it is a report that holds
        raise BadInput(f"{NO_PDF} ({type(error).__name__})", "no_report") from None


def _attached(reader: Any) -> bytes:
    names = reader.root["/Names"]["/EmbeddedFiles"]["/Names"]
    for n in range(0, len(names), 2):
        if str(names[n]) == ATTACHED:
            return bytes(names[n + 1].get_object()["/EF"]["/F"].get_object().data)
    raise BadInput(NO_PDF, "no_report")

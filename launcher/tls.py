"""A self-signed certificate, kept under var/."""

import subprocess
from pathlib import Path

from launcher.paths import PYTHON, VAR

_SCRIPT = """
import datetime, ipaddress, sys
from cryptography import x509
from cryptography.hazmat.primitives import hashes, serialization
from cryptography.hazmat.primitives.asymmetric import ec
host, key_file, certificate_file = sys.argv[1:]
key = ec.generate_private_key(ec.SECP256R1())
name = x509.Name([x509.NameAttribute(x509.NameOID.COMMON_NAME, "Clear Lens bench")])
now = datetime.datetime.now(datetime.timezone.utc)
certificate = (
    x509.CertificateBuilder().subject_name(name).issuer_name(name).public_key(key.public_key())
    .serial_number(x509.random_serial_number()).not_valid_before(now - datetime.timedelta(days=1))
    .not_valid_after(now + datetime.timedelta(days=365))
    .add_extension(x509.SubjectAlternativeName([
        x509.DNSName("localhost"), x509.IPAddress(ipaddress.ip_address("127.0.0.1")), x509.IPAddress(ipaddress.ip_address(host))]), False)
    .add_extension(x509.BasicConstraints(ca=True, path_length=0), True).sign(key, hashes.SHA256()))
open(key_file, "wb").write(key.private_bytes(
    serialization.Encoding.PEM, serialization.PrivateFormat.PKCS8, serialization.NoEncryption()))
open(certificate_file, "wb").write(certificate.public_bytes(serialization.Encoding.PEM))
"""


def make_certificate(host: str) -> tuple[Path, Path]:
    """Key and certificate for this address, made once."""
    folder = VAR / "tls"
    folder.mkdir(parents=True, exist_ok=True)
    folder.chmod(0o700)
    key, certificate = folder / f"{host}.key", folder / f"{host}.crt"
    if not (key.exists() and certificate.exists()):
        subprocess.run([str(PYTHON), "-c", _SCRIPT, host, str(key), str(certificate)], check=True)
        key.chmod(0o600)
    return key, certificate

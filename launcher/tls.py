"""Under which names this machine is reached, and a certificate for them: self-signed and kept under var/, or the shop's own."""

import ipaddress
import socket
import subprocess
from collections.abc import Sequence
from pathlib import Path
from typing import NamedTuple

from launcher.instance import make_private
from launcher.paths import PYTHON, VAR
from launcher.prepare import NotPrepared

_SCRIPT = """
import datetime, ipaddress, os, sys
from cryptography import x509
from cryptography.hazmat.primitives import hashes, serialization
from cryptography.hazmat.primitives.asymmetric import ec
from cryptography.x509.oid import ExtendedKeyUsageOID
what, key_file, certificate_file, *names = sys.argv[1:]
now = datetime.datetime.now(datetime.timezone.utc)

def entry(name):
    try:
        return x509.IPAddress(ipaddress.ip_address(name))
    except ValueError:
        return x509.DNSName(name)

def fits():
    # renewed a month before it ends, and when the machine has a name that it lacks
    try:
        told = x509.load_pem_x509_certificate(open(certificate_file, "rb").read())
        serialization.load_pem_private_key(open(key_file, "rb").read(), None)
    except (OSError, ValueError):
        return False
    there = set(told.extensions.get_extension_for_class(x509.SubjectAlternativeName).value)
    leaf = not told.extensions.get_extension_for_class(x509.BasicConstraints).value.ca
    return leaf and told.not_valid_after_utc - now > datetime.timedelta(days=30) and told.not_valid_before_utc < now and {*map(entry, names)} <= there

if what == "make" and not fits():
    key = ec.generate_private_key(ec.SECP256R1())
    name = x509.Name([x509.NameAttribute(x509.NameOID.COMMON_NAME, "Clear Lens bench")])
    usage = x509.KeyUsage(True, False, False, False, False, False, False, False, False)
    certificate = (
        x509.CertificateBuilder().subject_name(name).issuer_name(name).public_key(key.public_key())
        .serial_number(x509.random_serial_number()).not_valid_before(now - datetime.timedelta(days=1))
        .not_valid_after(now + datetime.timedelta(days=365)).add_extension(x509.SubjectAlternativeName([entry(n) for n in names]), False)
        .add_extension(x509.BasicConstraints(ca=False, path_length=None), True).add_extension(usage, True)
        .add_extension(x509.ExtendedKeyUsage([ExtendedKeyUsageOID.SERVER_AUTH]), False)
        .add_extension(x509.SubjectKeyIdentifier.from_public_key(key.public_key()), False).sign(key, hashes.SHA256()))
    private = key.private_bytes(serialization.Encoding.PEM, serialization.PrivateFormat.PKCS8, serialization.NoEncryption())
    os.umask(0o077)
    for path, data in ((key_file, private), (certificate_file, certificate.public_bytes(serialization.Encoding.PEM))):
        open(path + ".new", "wb").write(data)
        os.replace(path + ".new", path)
told = x509.load_pem_x509_certificate(open(certificate_file, "rb").read())
if told.not_valid_after_utc < now:
    sys.exit("The certificate has expired.")
print(told.fingerprint(hashes.SHA256()).hex(":").upper())
"""


class Names(NamedTuple):
    """``shown`` goes into addresses and QR codes; ``all`` are answered to."""

    shown: str
    all: tuple[str, ...]

    @classmethod
    def of_this_machine(cls, host: str, further: Sequence[str] = ()) -> "Names":
        found = [host, *further, "localhost", "127.0.0.1", "::1"]
        if host != "127.0.0.1":
            name = socket.gethostname().lower()
            found += [name, f"{name.partition('.')[0]}.local"]
        return cls(further[0] if further else host, tuple(dict.fromkeys(one for one in found if _is_name(one))))


def _is_name(name: str) -> bool:
    try:
        ipaddress.ip_address(name)
        return True
    except ValueError:
        return name.replace("-", "").replace(".", "").isalnum() and name.isascii()


def certificate_for(names: Names, own: str | None, own_key: str | None, name: str = "bench") -> tuple[Path, Path, str]:
    """Key, certificate and fingerprint. A self-signed one is a leaf with all names of this machine, made anew a month before it ends."""
    if own:
        if not own_key:
            raise NotPrepared("--cert needs --key FILE beside it.")
        key, certificate = Path(own_key), Path(own)
        for file in (key, certificate):
            if not file.is_file():
                raise NotPrepared(f"There is no file {file}.")
    else:
        folder = VAR / "tls"
        make_private(folder)
        key, certificate = folder / f"{name}.key", folder / f"{name}.crt"
    command = [str(PYTHON), "-c", _SCRIPT, "check" if own else "make", str(key), str(certificate), *names.all]
    done = subprocess.run(command, capture_output=True, text=True)
    if done.returncode:
        raise NotPrepared(f"The certificate cannot be used: {(done.stderr.strip().splitlines() or ['?'])[-1]}")
    return key, certificate, done.stdout.strip()

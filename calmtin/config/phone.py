"""Serve the phone by the stove: on the local network, over https with a certificate of this bench's own.

Nothing here runs unless it is asked for. The book's own server stays on this machine.
"""

from __future__ import annotations

import ipaddress
import logging
import socket
import threading
from collections.abc import Callable, Iterable
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Any, TextIO

import segno
from cheroot import wsgi
from cheroot.ssl.builtin import BuiltinSSLAdapter
from cryptography import x509
from cryptography.hazmat.primitives import hashes, serialization
from cryptography.hazmat.primitives.asymmetric import ec
from cryptography.x509.oid import ExtendedKeyUsageOID, NameOID

from calmtin.common.phone import ON_THE_PHONE

PORT, HTTP_PORT = 8443, 8080
THREADS = 4
IDLE_S = 30
# Phones refuse a server's certificate that is valid for longer than about 13 months.
SERVES, VOUCHES = timedelta(days=390), timedelta(days=3650)
RENEWED = timedelta(days=30)  # before its end
log = logging.getLogger("calmtin")
Key = ec.EllipticCurvePrivateKey


def lan_address() -> str | None:
    """Return this machine's address on the local network; None where it has none. Nothing is sent."""
    with socket.socket(socket.AF_INET, socket.SOCK_DGRAM) as probe:
        try:
            probe.connect(("192.0.2.1", 9))  # a network for examples: it only asks which way out there is
        except OSError:
            return None
        address: str = probe.getsockname()[0]
    return None if ipaddress.ip_address(address).is_loopback else address


def certificate(folder: Path, address: str, *, now: datetime | None = None) -> tuple[Path, Path]:
    """Return the files of the server's certificate, with its chain, and of its key, for `address`.

    They are made at the first start, and again where the address has changed or the end is near. What
    vouches for them, `bench.crt` in `folder`, stays the same, so that a phone has to take it in only once.
    """
    now = now or datetime.now(UTC)
    folder.mkdir(mode=0o700, parents=True, exist_ok=True)
    file, key_file = folder / "server.crt", folder / "server.key"
    if not _still_serves(file, address, now):
        vouching, vouching_key = _vouching(folder, now)
        key = ec.generate_private_key(ec.SECP256R1())
        made = (
            _begun("Calm Tin", key, vouching.subject, now, SERVES)
            .add_extension(x509.SubjectAlternativeName(_names(address)), critical=False)
            .add_extension(x509.BasicConstraints(ca=False, path_length=None), critical=True)
            .add_extension(x509.ExtendedKeyUsage([ExtendedKeyUsageOID.SERVER_AUTH]), critical=False)
            .sign(vouching_key, hashes.SHA256())
        )
        _write_key(key_file, key)
        file.write_bytes(_pem(made) + _pem(vouching))
    return file, key_file


def _names(address: str) -> list[x509.GeneralName]:
    try:
        return [x509.IPAddress(ipaddress.ip_address(address))]
    except ValueError:
        return [x509.DNSName(address)]


def _still_serves(file: Path, address: str, now: datetime) -> bool:
    if not file.exists() or not (file.parent / "bench.crt").exists():
        return False
    made = x509.load_pem_x509_certificate(file.read_bytes())
    names = made.extensions.get_extension_for_class(x509.SubjectAlternativeName).value
    return list(names) == _names(address) and made.not_valid_after_utc - RENEWED > now


def _vouching(folder: Path, now: datetime) -> tuple[x509.Certificate, Key]:
    """Return the bench's own certificate authority and its key; make them where there are none."""
    file, key_file = folder / "bench.crt", folder / "bench.key"
    if file.exists() and key_file.exists():
        made = x509.load_pem_x509_certificate(file.read_bytes())
        key = serialization.load_pem_private_key(key_file.read_bytes(), None)
        if isinstance(key, Key) and made.not_valid_after_utc - SERVES > now:
            return made, key
    key = ec.generate_private_key(ec.SECP256R1())
    name = x509.Name([x509.NameAttribute(NameOID.COMMON_NAME, "Calm Tin on this bench")])
    made = (
        _begun("Calm Tin on this bench", key, name, now, VOUCHES)
        .add_extension(x509.BasicConstraints(ca=True, path_length=0), critical=True)
        .sign(key, hashes.SHA256())
    )
    _write_key(key_file, key)
    file.write_bytes(_pem(made))
    return made, key


def _begun(
    name: str, key: Key, issuer: x509.Name, now: datetime, lasts: timedelta
) -> x509.CertificateBuilder:
    return (
        x509.CertificateBuilder()
        .subject_name(x509.Name([x509.NameAttribute(NameOID.COMMON_NAME, name)]))
        .issuer_name(issuer)
        .public_key(key.public_key())
        .serial_number(x509.random_serial_number())
        .not_valid_before(now - timedelta(days=1))  # a phone's clock may be behind
        .not_valid_after(now + lasts)
    )


def _pem(made: x509.Certificate) -> bytes:
    return made.public_bytes(serialization.Encoding.PEM)


def _write_key(file: Path, key: Key) -> None:
    file.touch(mode=0o600)
    file.write_bytes(
        key.private_bytes(
            serialization.Encoding.PEM,
            serialization.PrivateFormat.PKCS8,
            serialization.NoEncryption(),
        )
    )


def for_the_phone(application: Callable[..., Iterable[bytes]], *, is_secure: bool) -> Callable[..., Any]:
    """Return an application that knows what came over the network, and whose cookies are secure."""

    def served(environ: dict[str, Any], start_response: Callable[..., Any]) -> Iterable[bytes]:
        def start(status: str, headers: list[tuple[str, str]], *failed: Any) -> Any:
            if is_secure:
                headers = [
                    (name, f"{value}; Secure" if name.lower() == "set-cookie" else value)
                    for name, value in headers
                ]
            return start_response(status, headers, *failed)

        return application({**environ, ON_THE_PHONE: True}, start)

    return served


class _Server(wsgi.Server):
    def error_log(self, msg: str = "", level: int = logging.INFO, traceback: bool = False) -> None:
        """Put what the server says into Calm Tin's own log: a lost connection is no more than a remark."""
        log.log(level if traceback else logging.INFO, "phone: %s", msg, exc_info=traceback)


class PhoneServer:
    """A server on the local network, in threads of its own, beside the one on this machine."""

    def __init__(
        self, application: Callable[..., Any], address: str, port: int, *, tls: tuple[Path, Path] | None
    ) -> None:
        self.server = _Server(
            (address, port),
            for_the_phone(application, is_secure=tls is not None),
            numthreads=THREADS,
            server_name="Calm Tin",
            timeout=IDLE_S,
        )
        if tls is not None:
            self.server.ssl_adapter = BuiltinSSLAdapter(str(tls[0]), str(tls[1]))
        self._thread = threading.Thread(target=self.server.serve, name="phone", daemon=True)

    def start(self, *, most_bytes: int) -> int:
        """Listen, and return the port; raises `OSError` where that is taken."""
        self.server.max_request_body_size = most_bytes
        self.server.max_request_header_size = 64 * 1024
        self.server.prepare()
        self._thread.start()
        return int(self.server.bind_addr[1])

    def stop(self) -> None:
        """Let go of every connection."""
        self.server.stop()
        self._thread.join(timeout=5)


def show(address: str, out: TextIO) -> None:
    """Print an address and its QR code, for a phone to look at."""
    print(f"On your phone: {address}", file=out)
    segno.make(address, error="m").terminal(out=out, compact=True)
    out.flush()

"""Open the book, load the demo data where asked for, and serve with waitress."""

from __future__ import annotations

import argparse
import gc
import os
import signal
import sys
from typing import TYPE_CHECKING, Any, NoReturn

import django

if TYPE_CHECKING:
    from calmtin.config.phone import PhoneServer

# Python runs one thread at a time: with more of them, and with its usual turns of 5 ms, each call of the
# database waits for all others (20 makers: five times as long).
THREADS, TURN_S = 4, 0.0005
# A kitchen has a handful of tablets. What is slower or more than this is let go of.
CONNECTIONS, IDLE_S, SLOWEST_S = 100, 30, 20


def main(argv: list[str] | None = None) -> None:
    """Run the server until it is stopped; `argv` are its options."""
    os.umask(0o077)  # the book is nobody else's to read
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "calmtin.config.settings")
    sys.setswitchinterval(TURN_S)
    # The matrices are small: a second thread for each of them only waits for the first.
    os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")
    parser = argparse.ArgumentParser(prog="calmtin serve")
    parser.add_argument("--host", default="127.0.0.1")
    parser.add_argument("--port", type=int, default=8000)
    parser.add_argument("--phone", action="store_true", help="serve phones on the local network too")
    parser.add_argument("--phone-port", type=int, default=None, help="8443, or 8080 with --http")
    parser.add_argument("--phone-address", default=None, help="where this machine has several addresses")
    parser.add_argument("--http", action="store_true", help="with --phone: without a certificate")
    parser.add_argument("--fresh", action="store_true", help="start the demo data over")
    options = parser.parse_args(argv)
    django.setup()

    from django.conf import settings

    from calmtin.core.errors import CalmTinError
    from calmtin.exchange.backups import folder_alone

    if options.fresh and not settings.DEMO:
        parser.error("--fresh would delete a maker's own records; it works with the demo only")
    signal.signal(signal.SIGTERM, _stop)
    try:
        with folder_alone():
            _open_book(fresh=options.fresh)
            _serve(options)
    except CalmTinError as refused:
        sys.exit(str(refused))


def _stop(*_: object) -> NoReturn:
    raise SystemExit(0)


def _open_book(*, fresh: bool) -> None:
    """Check and migrate the database; a demo opens only a demo's database."""
    from django.conf import settings
    from django.core.management import CommandError, call_command

    from calmtin.core.errors import CalmTinError
    from calmtin.exchange import backups, restoring
    from calmtin.exchange.demo import load_demo, refuse_book

    if finished := restoring.finish_restore():
        print(finished, file=sys.stderr, flush=True)
    backups.tidy_modes()
    if not settings.DEMO:
        restoring.refuse_lost_book()
    backups.check_book()
    if settings.DEMO:
        refuse_book()
    if fresh:
        for file in settings.DATA_DIR.glob("calmtin.sqlite3*"):
            file.unlink()
    if not backups.database_file().exists():
        words = "the demo bench: a quarter of a minute, once." if settings.DEMO else "a new database."
        print(f"Creating {words}", file=sys.stderr, flush=True)
    try:
        call_command("migrate", verbosity=0)
    except CommandError as refused:
        raise CalmTinError(str(refused)) from None
    gather_static()
    if settings.DEMO:
        load_demo()
    backups.set_mark(backups.DEMO_MARK if settings.DEMO else backups.BOOK_MARK)
    restoring.mark_held()


def gather_static() -> None:
    """Put styles, scripts and fonts under their hashed names into the data folder."""
    from django.core.management import call_command

    # What a library brings for its own pages is not ours to serve.
    ours = {"clear": True, "ignore_patterns": ["django_htmx"], "interactive": False}
    call_command("collectstatic", verbosity=0, **ours)


def _serve_phones(options: argparse.Namespace) -> PhoneServer:
    """Serve the local network too, and print the address as a QR code."""
    from django.conf import settings

    from calmtin.common.phone import WITHOUT_HTTPS
    from calmtin.config import phone
    from calmtin.config.wsgi import application
    from calmtin.core.limits import BODY_BYTES

    address = options.phone_address or phone.lan_address()
    if address is None:
        sys.exit(
            "This machine is on no network. Join the Wi-Fi of your phone, or name the address with "
            "--phone-address."
        )
    settings.ALLOWED_HOSTS.append(address)
    tls = None if options.http else phone.certificate(settings.PHONE_FOLDER, address)
    usual = phone.HTTP_PORT if options.http else phone.PORT
    port = usual if options.phone_port is None else options.phone_port
    server = phone.PhoneServer(application, address, port, tls=tls)
    try:
        port = server.start(most_bytes=4 * BODY_BYTES)
    except OSError as error:
        sys.exit(
            f"Phones cannot be served on {address}, port {port} ({error.strerror}). Choose another with "
            "--phone-port."
        )
    settings.PHONE_ADDRESS = f"{'http' if options.http else 'https'}://{address}:{port}/"
    phone.show(settings.PHONE_ADDRESS, sys.stdout)
    if options.http:
        print(WITHOUT_HTTPS, flush=True)
    return server


def _serve(options: argparse.Namespace) -> None:
    import waitress
    from django.conf import settings

    from calmtin.config.wsgi import application
    from calmtin.core.limits import BODY_BYTES
    from calmtin.exchange.backups import checkpoint, tidy_modes
    from calmtin.exchange.upkeep import start_upkeep

    proxy: dict[str, Any] = {}
    if settings.TRUSTED_PROXY:
        proxy = {
            "trusted_proxy": settings.TRUSTED_PROXY,
            "trusted_proxy_headers": settings.TRUSTED_PROXY_HEADERS,
            "clear_untrusted_proxy_headers": True,
        }
    try:
        server = waitress.create_server(
            application,
            host=options.host,
            port=options.port,
            threads=THREADS,
            ident=None,
            connection_limit=CONNECTIONS,
            channel_timeout=IDLE_S,
            cleanup_interval=SLOWEST_S,
            # A body that is larger than this is not even read; Calm Tin says its own sentence before that.
            max_request_body_size=4 * BODY_BYTES,
            max_request_header_size=64 * 1024,
            # Lets a view see that its asker has gone.
            channel_request_lookahead=1,
            **proxy,
        )
    except OSError as error:
        sys.exit(f"Port {options.port} cannot be used ({error.strerror}). Choose another with --port.")
    # What is loaded by now stays: looking through it again for what nobody needs would hold all makers up.
    gc.collect()
    gc.freeze()
    gc.set_threshold(10_000, 20, 50)
    stop = start_upkeep()
    tidy_modes()
    print(f"Calm Tin is at http://{options.host}:{server.effective_port}/", flush=True)
    phones = None
    try:
        phones = _serve_phones(options) if options.phone else None
        server.run()
    finally:
        stop.set()
        if phones is not None:
            phones.stop()
        checkpoint()


if __name__ == "__main__":
    main()

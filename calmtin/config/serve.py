"""Migrate, load the demo data where asked for, and serve with waitress."""

import argparse
import os
import sys

import django


def main() -> None:
    """Run the server until it is stopped."""
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "calmtin.config.settings")
    parser = argparse.ArgumentParser(prog="script/serve")
    parser.add_argument("--host", default="127.0.0.1")
    parser.add_argument("--port", type=int, default=8000)
    parser.add_argument("--fresh", action="store_true", help="start the demo data over")
    options = parser.parse_args()
    django.setup()

    from django.conf import settings
    from django.core.management import call_command

    if options.fresh and not settings.DEMO:
        parser.error("--fresh would delete a maker's own book; it works with script/demo only")
    if options.fresh:
        for file in settings.DATA_DIR.glob("calmtin.sqlite3*"):
            file.unlink()
    call_command("migrate", verbosity=0)
    if settings.DEMO:
        call_command("load_demo")

    import waitress

    from calmtin.config.wsgi import application

    try:
        server = waitress.create_server(application, host=options.host, port=options.port, threads=8)
    except OSError as error:
        sys.exit(f"Port {options.port} cannot be used ({error.strerror}). Choose another with --port.")
    print(f"Calm Tin is at http://{options.host}:{options.port}/", flush=True)
    server.run()


if __name__ == "__main__":
    main()

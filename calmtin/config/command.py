"""The `calmtin` command: `calmtin demo`, `serve`, `backup FILE`, `predict formula.json` and the others."""

from __future__ import annotations

import os
import sys

from calmtin.config.folder import data_folder

USAGE = """\
calmtin demo     [--port N] [--fresh]    serve a bench with demo data, in a folder of its own
calmtin serve    [--port N] [--phone]    serve your own bench, with --phone on the local network too
calmtin backup   [FILE]                  write a verified copy of the whole book
calmtin restore  FILE                    check a copy and put it in the book's place
calmtin records  out|in MAKER FILE       export or import everything of one maker
calmtin makers   [...]                   list, add or remove makers, give a new password
calmtin predict | solve | plan | learn | read_recipe FILE    calculate without a database, as JSON
calmtin COMMAND --help says more; any command of Django's works too, such as calmtin migrate.
Your book is kept in {folder} (set CALMTIN_DATA for another folder)."""


def main(argv: list[str] | None = None) -> None:
    """Run the command that `argv` names, without the program's own name."""
    name, *rest = (sys.argv[1:] if argv is None else argv) or [""]
    os.umask(0o077)  # the book is nobody else's to read
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "calmtin.config.settings")
    if name == "demo":
        os.environ["CALMTIN_DEMO"] = "1"
        os.environ["CALMTIN_DATA"] = os.environ.get("CALMTIN_DEMO_DATA") or str(data_folder() / "demo")
    if name in ("demo", "serve"):
        from calmtin.config.serve import main as serve

        serve(rest)
    elif name in ("", "-h", "--help", "help"):
        print(USAGE.format(folder=data_folder()))
    else:
        from django.core.management import execute_from_command_line

        execute_from_command_line(["calmtin", name.replace("-", "_"), *rest])


if __name__ == "__main__":
    main()

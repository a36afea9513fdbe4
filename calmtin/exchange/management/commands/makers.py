"""script/manage makers: list, add, block, unblock and remove makers."""

from __future__ import annotations

import argparse
import getpass
import sys
from typing import Any

from django.core.management.base import BaseCommand, CommandError
from django.utils.translation import gettext

from calmtin.accounts import services
from calmtin.accounts.models import User
from calmtin.accounts.queries import makers, nobody_yet
from calmtin.core.errors import CalmTinError
from calmtin.core.messages import said
from calmtin.exchange.removing import holdings, remove_maker


class Command(BaseCommand):
    """Look after the makers of a household."""

    help = "List the makers; add NAME, password NAME, out NAME, in NAME, or remove NAME."

    def add_arguments(self, parser: argparse.ArgumentParser) -> None:
        """Take what to do and whom to do it to."""
        acts = ["list", "add", "password", "out", "in", "remove"]
        parser.add_argument("act", choices=acts, nargs="?", default="list")
        parser.add_argument("name", nargs="?", default="")
        parser.add_argument("--yes", action="store_true", help="remove without asking")

    def handle(self, *_: Any, **options: Any) -> None:
        """Do it, or refuse with one line and status 2."""
        act, name = options["act"], options["name"]
        if act != "list" and not name:
            raise CommandError(gettext("Whom? Give a name."), returncode=2)
        try:
            if act == "list":
                self._list()
            elif act == "add":
                if nobody_yet():
                    services.open_first_account(name, _password())
                else:
                    services.add_maker(None, name, _password())
                self.stdout.write(said("{name} now has their own bench.", name=name))
            else:
                self._change(act, self._maker(name), ask=not options["yes"])
        except CalmTinError as refused:
            raise CommandError(str(refused), returncode=2) from None

    def _list(self) -> None:
        for maker in makers():
            marks = [
                w for w, is_so in (("keeper", maker.is_staff), ("blocked", not maker.is_active)) if is_so
            ]
            self.stdout.write(f"{maker.username}{' (' + ', '.join(marks) + ')' if marks else ''}")

    def _maker(self, name: str) -> User:
        maker = makers().filter(username=name).first()
        if maker is None:
            raise CalmTinError(said("There is no maker called {name}.", name=name))
        return maker

    def _change(self, act: str, maker: User, *, ask: bool) -> None:
        if act == "password":
            services.give_password(None, maker, _password())
        elif act in ("in", "out"):
            services.set_active(None, maker, active=act == "in")
        else:
            held = ", ".join(f"{number} {name}" for name, number in holdings(maker).items() if number)
            self.stdout.write(
                said(
                    "With {username}, these are removed: {records}.",
                    username=maker.username,
                    records=held or gettext("nothing else"),
                )
            )
            if ask and input(f"Type {maker.username} to remove all of it for good: ") != maker.username:
                self.stdout.write(gettext("Nothing was changed."))
                return
            remove_maker(maker)
        self.stdout.write("Done.")


def _password() -> str:
    if not sys.stdin.isatty():
        return sys.stdin.readline().rstrip("\n")
    password = getpass.getpass("Password: ")
    if getpass.getpass("Again: ") != password:
        raise CalmTinError(gettext("The two passwords differ."))
    return password

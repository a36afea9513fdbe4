"""script/manage load_demo: build the demo bench, once."""

from typing import Any

from django.core.management.base import BaseCommand, CommandError

from calmtin.core.errors import CalmTinError
from calmtin.exchange.demo import load_demo


class Command(BaseCommand):
    """Build the demo bench unless it is there."""

    help = "Load the invented demo bench of Tern Quay, once."

    def handle(self, *_: Any, **__: Any) -> None:
        """Load the demo data and report on standard error."""
        try:
            self.stderr.write("Demo data loaded." if load_demo() else "Demo data was there already; kept.")
        except CalmTinError as refused:
            raise CommandError(str(refused), returncode=2) from None

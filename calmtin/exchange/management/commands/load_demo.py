"""script/manage load_demo: build the demo bench, once."""

from typing import Any

from django.core.management.base import BaseCommand

from calmtin.exchange.demo import load_demo


class Command(BaseCommand):
    """Build the demo bench unless it is there."""

    help = "Load the invented demo bench of Tern Quay, once."

    def handle(self, *args: Any, **options: Any) -> None:
        """Say what was done, on standard error."""
        self.stderr.write("Demo data loaded." if load_demo() else "Demo data was there already; kept.")

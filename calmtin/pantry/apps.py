from django.apps import AppConfig


class PantryConfig(AppConfig):
    name = "calmtin.pantry"

    def ready(self) -> None:
        """Let the settings show what a bench melts in."""
        from calmtin.accounts.queries import settings_lists
        from calmtin.pantry.queries.vessels import vessels_held

        settings_lists.add(vessels_held)

from django.apps import AppConfig


class ExchangeConfig(AppConfig):
    name = "calmtin.exchange"

    def ready(self) -> None:
        """Let the settings page say when the book was last copied."""
        from calmtin.accounts.queries import settings_notes
        from calmtin.exchange.backups import copy_notes

        if copy_notes not in settings_notes:
            settings_notes.append(copy_notes)

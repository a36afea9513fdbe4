from django.apps import AppConfig


class ExchangeConfig(AppConfig):
    name = "calmtin.exchange"

    def ready(self) -> None:
        """Let pages lead to files in and out, and the settings say when the book was last copied."""
        from calmtin.accounts.queries import settings_notes
        from calmtin.common.actions import Action, register
        from calmtin.exchange.backups import copy_notes

        register(
            Action("formula whole", "File", "exchange:formula_file", takes=2),
            Action("formula whole", "CSV", "exchange:formula_csv", takes=2),
            Action("settings", "Your records", "exchange:records"),
            Action("formulas", "Import a file", "exchange:formula_import"),
            Action("pantry", "Import and export", "exchange:pantry_import", tab="csv"),
        )
        if copy_notes not in settings_notes:
            settings_notes.append(copy_notes)

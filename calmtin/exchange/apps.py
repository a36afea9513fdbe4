from django.apps import AppConfig
from django.utils.translation import gettext_lazy


class ExchangeConfig(AppConfig):
    name = "calmtin.exchange"

    def ready(self) -> None:
        """Register the links to imports and exports, and the note on the last backup."""
        from calmtin.accounts.queries import settings_notes
        from calmtin.common.actions import Action, register
        from calmtin.exchange.backups import copy_notes

        register(
            Action("formula whole", gettext_lazy("File"), "exchange:formula_file", takes=2),
            Action("formula whole", gettext_lazy("CSV"), "exchange:formula_csv", takes=2),
            Action("pours", gettext_lazy("Import past pours (CSV)"), "exchange:pours_import"),
            Action("nothing yet", gettext_lazy("Import a bench"), "exchange:records"),
            Action("settings", gettext_lazy("Your records"), "exchange:records"),
            Action("formulas", gettext_lazy("Import a file"), "exchange:formula_import"),
            Action("pantry", gettext_lazy("Import and export"), "exchange:pantry_import", tab="csv"),
        )
        if copy_notes not in settings_notes:
            settings_notes.append(copy_notes)

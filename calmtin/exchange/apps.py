from django.apps import AppConfig
from django.utils.translation import gettext_lazy


class ExchangeConfig(AppConfig):
    name = "calmtin.exchange"

    def ready(self) -> None:
        """Register the links to imports and exports, and the note on the last backup."""
        from calmtin.accounts.queries import settings_notes
        from calmtin.common.actions import Action, register, register_sections
        from calmtin.exchange.backups import copy_notes

        register_sections("pantry", "exchange:pantry_import")
        register_sections("pours", "exchange:pours_import")
        register_sections("", "exchange:records")
        register_sections("formulas", "exchange:formula_import")
        register(
            Action("formula whole", gettext_lazy("File"), "exchange:formula_file", takes=2),
            Action("formula whole", gettext_lazy("CSV"), "exchange:formula_csv", takes=2),
            Action("pours", gettext_lazy("Import past pours (CSV)"), "exchange:pours_import"),
            Action("nothing yet", gettext_lazy("Import a bench"), "exchange:records"),
            Action("settings", gettext_lazy("Your records"), "exchange:records"),
            Action("formulas", gettext_lazy("Import a file"), "exchange:formula_import"),
            Action("pantry", gettext_lazy("Import and export"), "exchange:pantry_import", tab="csv"),
        )
        settings_notes.add(copy_notes)

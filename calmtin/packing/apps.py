from django.apps import AppConfig
from django.utils.translation import gettext_lazy


class PackingConfig(AppConfig):
    name = "calmtin.packing"

    def ready(self) -> None:
        """Add labels, pieces and batch cards to the pages of lower apps."""
        from calmtin.common.actions import Action, register, register_sections

        register_sections("pours", "packing")
        register_sections("pantry", "packing:of_lot", "packing:items")
        register_sections("", "packing:rules", "packing:label_sheets")
        register(
            Action("pours", gettext_lazy("Deadlines"), "packing:deadlines"),
            Action("pantry", gettext_lazy("Packing"), "packing:items", tab="packing"),
            Action("pour", gettext_lazy("Labels"), "packing:labels", takes=1),
            Action("pour", gettext_lazy("Pieces"), "packing:pieces", takes=1),
            Action("pour", gettext_lazy("Batch card"), "packing:card", takes=1),
            Action("settings more", gettext_lazy("Sheets of labels of your own"), "packing:label_sheets"),
            Action(
                "settings more",
                gettext_lazy("What usually has to be on a label, and who decides"),
                "packing:rules",
            ),
            Action("help label", gettext_lazy("What the law requires"), "packing:rules"),
            Action("lot", gettext_lazy("Pours with it"), "packing:of_lot", takes=1),
        )

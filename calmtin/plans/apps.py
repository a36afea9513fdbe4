from django.apps import AppConfig
from django.utils.translation import gettext_lazy


class PlansConfig(AppConfig):
    name = "calmtin.plans"

    def ready(self) -> None:
        """Let a formula's page lead to the plan of its next pour."""
        from calmtin.common.actions import Action, register, register_sections

        register_sections("pours", "plans")
        register_sections("formulas", "plans:fill", "plans:vary", "plans:series")
        register(
            Action("formula", gettext_lazy("Fill plan"), "plans:fill", takes=2, key="f"),
            Action("formula", gettext_lazy("Try several"), "plans:series", takes=2),
            Action(
                "formula",
                gettext_lazy("Pour"),
                "plans:fill",
                takes=2,
                key="p",
                anchor="#start",
                is_main=True,
            ),
        )

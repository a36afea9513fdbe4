from django.apps import AppConfig
from django.utils.translation import gettext_lazy


class OverviewConfig(AppConfig):
    name = "calmtin.overview"

    def ready(self) -> None:
        """Let lower apps lead to Today and to the calendar."""
        from calmtin.common.actions import Action, register, register_sections

        register_sections("today", "overview")
        register(
            Action("home", gettext_lazy("Today"), "overview:today"),
            Action("calendar", gettext_lazy("Download calendar (.ics)"), "overview:calendar"),
        )

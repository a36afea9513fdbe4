from django.apps import AppConfig
from django.utils.translation import gettext_lazy


class ChecksConfig(AppConfig):
    name = "calmtin.checks"

    def ready(self) -> None:
        """Provide what checks have taught, and add checks to the pages of lower apps."""
        from calmtin.accounts.models import learned, suspected
        from calmtin.checks.queries.calibration import prior_for
        from calmtin.checks.queries.due import checks_panel, due_of_formulas
        from calmtin.checks.queries.reactions import reaction_panel, suspects_for
        from calmtin.common.actions import Action, Panel, register, register_panels, register_sections
        from calmtin.formulas.queries.lists import due_sources

        learned.provide(prior_for)
        suspected.provide(suspects_for)
        due_sources.add(due_of_formulas)
        register_sections("pours", "checks")
        register_sections("formulas", "checks:history", "checks:next", "checks:story")
        register_panels(
            Panel("pour", "checks/_of_a_pour.html", checks_panel),
            Panel("flare-up", "checks/_flare_up.html", reaction_panel),
        )
        register(
            Action("pours", gettext_lazy("Calibration"), "checks:calibration"),
            Action("comparison", gettext_lazy("Compare"), "checks:compare"),
            Action("history", gettext_lazy("Compare"), "checks:history", takes=1),
            Action("check", gettext_lazy("Check this pour"), "checks:check", takes=1),
            Action("photo", gettext_lazy("Photo"), "checks:photo", takes=1),
            Action("calibration", gettext_lazy("Calibration"), "checks:calibration"),
            Action(
                "calibration switch", gettext_lazy("Use standard figures"), "checks:calibration_figures"
            ),
            Action("formula", gettext_lazy("Pours"), "checks:history", takes=1),
            Action("try several", gettext_lazy("Next pour"), "checks:next", takes=1),
        )

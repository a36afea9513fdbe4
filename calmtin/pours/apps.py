from django.apps import AppConfig
from django.utils.translation import gettext_lazy


class PoursConfig(AppConfig):
    name = "calmtin.pours"

    def ready(self) -> None:
        """Provide what plans need of pours, and add pours to the pages of lower apps."""
        from calmtin.common.actions import Action, Panel, register, register_panels
        from calmtin.formulas.queries.firmness_map import mark_sources
        from calmtin.formulas.queries.formula import pin_sources
        from calmtin.formulas.queries.lists import outcome_sources
        from calmtin.formulas.services.lifecycle import before_deleting
        from calmtin.pantry.queries.ledger import cause_sources
        from calmtin.pantry.services.correcting import users
        from calmtin.plans.pour_day import pour_day
        from calmtin.pours import pour_day as pours
        from calmtin.pours.queries.history import (
            marks_for,
            pins_for,
            pours_into,
            with_outcome_of_formulas,
        )
        from calmtin.pours.queries.leftovers import lot_panel
        from calmtin.pours.queries.stages import stove_panel
        from calmtin.pours.queries.withdrawal_causes import causes_of
        from calmtin.pours.services.rehearsing import delete_rehearsals_of

        pour_day.provide(pours)
        register(Action("sheet", gettext_lazy("Weigh sheet"), "pours:pour", takes=1))
        register_panels(
            Panel("stove", "pours/_stove.html", stove_panel),
            Panel("lot", "pours/_of_a_lot.html", lot_panel),
        )
        cause_sources.add(causes_of)
        users.add(pours_into)
        before_deleting.add(delete_rehearsals_of)
        outcome_sources.add(with_outcome_of_formulas)
        pin_sources.add(pins_for)
        mark_sources.add(marks_for)

from django.apps import AppConfig
from django.utils.translation import gettext_lazy


class PoursConfig(AppConfig):
    name = "calmtin.pours"

    def ready(self) -> None:
        """Register the links and pins of pours on the pages of lower apps."""
        from calmtin.accounts.models import prior_providers
        from calmtin.common.actions import Action, register
        from calmtin.formulas.queries.firmness_map import mark_sources
        from calmtin.formulas.queries.formula import pin_sources
        from calmtin.formulas.queries.lists import due_sources, outcome_sources
        from calmtin.formulas.services.lifecycle import before_deleting
        from calmtin.pantry.queries.ledger import cause_sources
        from calmtin.pantry.services.correcting import users
        from calmtin.pours.queries.calibration import prior_for
        from calmtin.pours.queries.checks import due_of_formulas
        from calmtin.pours.queries.history import (
            marks_for,
            pins_for,
            pours_into,
            with_outcome_of_formulas,
        )
        from calmtin.pours.queries.withdrawal_causes import causes_of
        from calmtin.pours.services.rehearsing import delete_rehearsals_of

        register(
            Action("settings more", gettext_lazy("Sheets of labels of your own"), "pours:label_sheets"),
            Action(
                "settings more",
                gettext_lazy("What usually has to be on a label, and who decides"),
                "pours:rules",
            ),
            Action("calibration", gettext_lazy("Calibration"), "pours:calibration"),
            Action("calibration switch", gettext_lazy("Use standard figures"), "pours:calibration_figures"),
            Action("help label", gettext_lazy("What the law requires"), "pours:rules"),
            Action("lot", gettext_lazy("Pours with it"), "pours:of_lot", takes=1),
            Action("formula", gettext_lazy("Pours"), "pours:history", takes=1),
            Action("formula", gettext_lazy("Next pour"), "pours:next", takes=1),
            Action("formula", gettext_lazy("Fill plan"), "pours:fill", takes=2, key="f"),
            Action(
                "formula",
                gettext_lazy("Pour"),
                "pours:fill",
                takes=2,
                key="p",
                anchor="#start",
                is_main=True,
            ),
        )
        if causes_of not in cause_sources:
            cause_sources.append(causes_of)
        if pours_into not in users:
            users.append(pours_into)
        if delete_rehearsals_of not in before_deleting:
            before_deleting.append(delete_rehearsals_of)
        if with_outcome_of_formulas not in outcome_sources:
            outcome_sources.append(with_outcome_of_formulas)
        if due_of_formulas not in due_sources:
            due_sources.append(due_of_formulas)
        if prior_for not in prior_providers:
            prior_providers.append(prior_for)
        if pins_for not in pin_sources:
            pin_sources.append(pins_for)
        if marks_for not in mark_sources:
            mark_sources.append(marks_for)

from django.apps import AppConfig


class PoursConfig(AppConfig):
    name = "calmtin.pours"

    def ready(self) -> None:
        """Let the formula's ladder and trio map show what came of its pours."""
        from calmtin.formulas.queries.formula import pin_sources
        from calmtin.formulas.queries.trio import mark_sources
        from calmtin.pours.queries.history import marks_for, pins_for

        if pins_for not in pin_sources:
            pin_sources.append(pins_for)
        if marks_for not in mark_sources:
            mark_sources.append(marks_for)

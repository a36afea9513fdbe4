from django.apps import AppConfig


class PoursConfig(AppConfig):
    name = "calmtin.pours"

    def ready(self) -> None:
        """Let the formula's ladder show what was felt."""
        from calmtin.formulas.queries import pin_sources
        from calmtin.pours.queries import pins_for

        if pins_for not in pin_sources:
            pin_sources.append(pins_for)

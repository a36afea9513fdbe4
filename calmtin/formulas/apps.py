from django.apps import AppConfig


class FormulasConfig(AppConfig):
    name = "calmtin.formulas"

    def ready(self) -> None:
        """Let a material's page say which formulas use it."""
        from calmtin.formulas.queries.lists import formulas_using
        from calmtin.pantry.queries.material import usage_sources

        if formulas_using not in usage_sources:
            usage_sources.append(formulas_using)

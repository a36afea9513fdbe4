from django.apps import AppConfig


class FormulasConfig(AppConfig):
    name = "calmtin.formulas"

    def ready(self) -> None:
        """Let a material's page say which formulas use it."""
        from calmtin.formulas.queries.lists import formulas_using, lines_with
        from calmtin.pantry.queries.material import usage_sources
        from calmtin.pantry.services.correcting import users

        users.add(lines_with)
        usage_sources.add(formulas_using)

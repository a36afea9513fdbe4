from django.apps import AppConfig


class PantryConfig(AppConfig):
    name = "calmtin.pantry"

    def ready(self) -> None:
        """Let the settings lead to what a bench melts in and pours into."""
        from calmtin.common.actions import Action, register

        register(Action("settings more", "Containers, pots, bowls and jugs", "pantry:containers"))

from django.apps import AppConfig
from django.utils.translation import gettext_lazy


class HelpConfig(AppConfig):
    name = "calmtin.help"

    def ready(self) -> None:
        """Let every page lead to the answer of a question: `{% ask "grain" %}`."""
        from calmtin.common.actions import Action, register, register_sections
        from calmtin.common.help_links import register_topics
        from calmtin.help.topics import TOPICS

        register_topics("help:topic", TOPICS)
        register_sections("", "help")
        register(Action("settings more", gettext_lazy("Help"), "help:index"))

from django.apps import AppConfig
from django.db.models.signals import post_migrate, pre_migrate


class CommonConfig(AppConfig):
    name = "calmtin.common"

    def ready(self) -> None:
        """Give the core Django's look-up for its sentences; renew the triggers after migrations."""
        from django.utils.translation import gettext

        from calmtin.common.triggers import drop_guards, lay_guards
        from calmtin.core.messages import look_up_with

        look_up_with(gettext)

        pre_migrate.connect(drop_guards, dispatch_uid="calmtin.guards")
        post_migrate.connect(lay_guards, dispatch_uid="calmtin.guards")

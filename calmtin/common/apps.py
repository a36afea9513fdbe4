from django.apps import AppConfig
from django.db.models.signals import post_migrate, pre_migrate


class CommonConfig(AppConfig):
    name = "calmtin.common"

    def ready(self) -> None:
        """Lay the guards of the database anew around every migration."""
        from calmtin.common.guards import drop_guards, lay_guards

        pre_migrate.connect(drop_guards, dispatch_uid="calmtin.guards")
        post_migrate.connect(lay_guards, dispatch_uid="calmtin.guards")

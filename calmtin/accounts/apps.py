from django.apps import AppConfig


class AccountsConfig(AppConfig):
    name = "calmtin.accounts"

    def ready(self) -> None:
        """Note when, and on which device, a maker signs in."""
        from django.contrib.auth.signals import user_logged_in

        from calmtin.accounts.sessions import note_sign_in

        user_logged_in.connect(note_sign_in, dispatch_uid="note_sign_in")

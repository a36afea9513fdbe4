"""A link that signs a phone in without a password: it works once, and for five minutes."""

from __future__ import annotations

from typing import Any

from django.contrib.auth.tokens import PasswordResetTokenGenerator

from calmtin.accounts.models import User


class PairingTokens(PasswordResetTokenGenerator):
    """Tokens that end with any later sign-in of their maker, to the microsecond.

    How long one holds is `PASSWORD_RESET_TIMEOUT`.
    """

    key_salt = "calmtin.accounts.pairing"

    def _make_hash_value(self, user: Any, timestamp: int) -> str:
        return f"{user.pk}{user.password}{user.last_login}{user.is_active}{timestamp}"


tokens = PairingTokens()


def maker_of_link(pk: int, token: str) -> User | None:
    """Return the maker whose link this is; None once it was used, is too old, or was never one."""
    user = User.objects.filter(pk=pk, is_active=True).first()
    return user if user is not None and tokens.check_token(user, token) else None

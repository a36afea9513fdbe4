"""What a maker does about their account."""

from __future__ import annotations

from django.db import transaction

from calmtin.accounts.models import Bench, User
from calmtin.accounts.queries import nobody_yet
from calmtin.core.errors import CalmTinError

DEMO_USER = "tern_quay"


@transaction.atomic
def open_first_account(username: str, password: str) -> User:
    """Create the first account of this installation, and its bench.

    Raises `CalmTinError` when there already is one: further accounts are made by
    whoever runs the installation, with `script/manage createsuperuser`.
    """
    if not nobody_yet():
        raise CalmTinError("This bench has an account already. Sign in instead.", field="username")
    user = User.objects.create_user(username=username, password=password)
    Bench.objects.create(user=user)
    return user

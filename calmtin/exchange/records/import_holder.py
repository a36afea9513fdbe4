"""An import holder: a hidden maker who owns the rows of a file until all of them are in.

One transaction that writes a whole bench would hold other makers up. Its rows come in under a porter
instead, in many short ones, and are handed over in a last one. A server that dies in between leaves a
porter behind; the upkeep dismisses it an hour later.
"""

from __future__ import annotations

import time
import uuid
from datetime import timedelta

from django.core.files.storage import default_storage
from django.utils import timezone

from calmtin.accounts.models import PORTER, User
from calmtin.common.triggers import guards_open
from calmtin.exchange.records.staging import AT_ONCE, BREATH_S
from calmtin.exchange.records.tables import TABLES
from calmtin.pours.models import CheckPhoto

FORGOTTEN_AFTER = timedelta(hours=1)  # a file takes a minute


def hire() -> User:
    """Return a new import holder, whose name nobody can choose or sign in with."""
    return User.objects.create_user(username=f"{PORTER}{uuid.uuid4().hex}", is_active=False)


def hand_over(porter: User, user: User) -> None:
    """Give all rows of an import holder to `user`, dependent rows included."""
    with guards_open(f"handing over to {user.pk}"):
        for table in TABLES:
            if table.model.OWNER_PATH == "owner":
                table.model.every().of(porter).update(owner=user)


def dismiss(porter: User) -> None:
    """Remove a porter and whatever was not handed over, in short transactions."""
    for name in CheckPhoto.every().of(porter).values_list("image", flat=True):
        default_storage.delete(name)
    for table in reversed(TABLES):
        held = table.model.every().of(porter).order_by("-pk").values("pk")[:AT_ONCE]
        while held.exists():
            with guards_open(f"dismissing porter {porter.pk}"):
                removed = table.model._base_manager.filter(pk__in=held)._raw_delete(using="default")
            if removed == AT_ONCE:
                time.sleep(BREATH_S)
    User._base_manager.filter(pk=porter.pk)._raw_delete(using="default")


def dismiss_forgotten() -> None:
    """Dismiss the porters of servers that died while a file came in."""
    since = timezone.now() - FORGOTTEN_AFTER
    for porter in User._base_manager.filter(username__startswith=PORTER, date_joined__lt=since):
        dismiss(porter)

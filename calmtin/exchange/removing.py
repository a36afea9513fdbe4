"""Remove a maker and everything that is theirs: the one place where records end."""

from __future__ import annotations

from django.apps import apps

from calmtin.accounts.models import User
from calmtin.common.owned import Owned
from calmtin.common.triggers import guards_open


def _owned() -> list[type[Owned]]:
    """Return every model that belongs to a maker, dependent ones first."""
    found = [model for model in apps.get_models() if issubclass(model, Owned)]
    return sorted(found, key=lambda model: -model.OWNER_PATH.count("__"))


def holdings(maker: User) -> dict[str, int]:
    """Return how many rows of each kind are a maker's."""
    return {str(m._meta.verbose_name_plural): m.every().of(maker).count() for m in _owned()}


def remove_maker(maker: User) -> None:
    """Remove a maker with all that is theirs, in one transaction. There is no way back but a backup."""
    with guards_open(f"removing {maker.pk}"):
        for model in _owned():
            rows = model.every().of(maker).values_list("pk", flat=True)
            model._base_manager.filter(pk__in=list(rows))._raw_delete(using="default")
        User.objects.filter(pk=maker.pk)._raw_delete(using="default")

"""What an upper app lets a maker do from a lower app's page: registered above, shown below."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

from django.urls import reverse

if TYPE_CHECKING:
    from django_stubs_ext import StrOrPromise


@dataclass(frozen=True)
class Action:
    """A link on a lower app's page; the first `takes` keys of that page are part of its address."""

    place: str
    label: StrOrPromise
    view: str
    takes: int = 0
    key: str = ""
    anchor: str = ""
    is_main: bool = False
    tab: str = ""

    def address(self, *keys: int) -> str:
        """Return where it leads from a page with these keys: a formula's pk, a version's number."""
        return reverse(self.view, args=keys[: self.takes]) + self.anchor


_registered: list[Action] = []


def register(*actions: Action) -> None:
    """Add actions to their pages, in this order; once, however often an app gets ready."""
    _registered.extend(action for action in actions if action not in _registered)


def actions_at(place: str, *keys: int) -> list[tuple[Action, str]]:
    """Return the actions of a place with their addresses."""
    return [(action, action.address(*keys)) for action in _registered if action.place == place]

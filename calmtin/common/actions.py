"""What an upper app adds to a lower app's page, links and panels: registered above, shown below."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import TYPE_CHECKING, Any

from django.urls import reverse

from calmtin.common.registry import Sources

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


@dataclass(frozen=True)
class Panel:
    """A part of a lower app's page: a template, and what `of` makes of the row that the page is about."""

    place: str
    template: str
    of: Callable[[Any], dict[str, Any]]


_actions: Sources[Action] = Sources()
_panels: Sources[Panel] = Sources()
_sections: dict[str, str] = {}


def register(*actions: Action) -> None:
    """Add actions to their pages, in this order; once, however often an app gets ready."""
    _actions.add(*actions)


def register_panels(*panels: Panel) -> None:
    """Add panels to their pages, in this order."""
    _panels.add(*panels)


def panels_at(place: str) -> list[Panel]:
    """Return the panels of a place."""
    return [panel for panel in _panels if panel.place == place]


def register_sections(section: str, *names: str) -> None:
    """Say that these views, or all views of these apps, belong to a section of the navigation."""
    _sections.update(dict.fromkeys(names, section))


def section_of(view: str) -> str:
    """Return the section of the navigation that a view belongs to: by default that of its app."""
    app = view.partition(":")[0]
    return _sections.get(view, _sections.get(app, app))


def actions_at(place: str, *keys: int) -> list[tuple[Action, str]]:
    """Return the actions of a place with their addresses."""
    return [(action, action.address(*keys)) for action in _actions if action.place == place]


def address_at(place: str, *keys: int) -> str:
    """Return the address of the one thing that an app above does at a place; empty without one."""
    return next((address for _, address in actions_at(place, *keys)), "")

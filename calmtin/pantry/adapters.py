"""What a maker can reach for: materials and containers, as the core knows them."""

from __future__ import annotations

from typing import Any

from calmtin.core.data.loader import containers, library
from calmtin.core.errors import CalmTinError
from calmtin.core.fill import Container
from calmtin.core.materials import Shelf


def shelf_for(user: Any) -> Shelf:
    """Return every material that `user` can put in a formula."""
    return library()


def container_for(user: Any, slug: str) -> Container:
    """Return one container by its slug, or refuse with `CalmTinError`."""
    try:
        return containers_for(user)[slug]
    except KeyError:
        raise CalmTinError("Choose a container from the list.", field="container") from None


def containers_for(user: Any) -> dict[str, Container]:
    """Return the containers that `user` can fill and whose size is known, by slug."""
    return dict(containers())

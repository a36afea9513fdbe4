"""The kinds of container: what closes each, how it is drawn, and which label suits it."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from types import MappingProxyType
from typing import Literal

from calmtin.core.messages import gettext_noop


@dataclass(frozen=True)
class Closure:
    """What a container needs beside its label; what may tear as it is put on is laid out with a spare."""

    words: str
    tears: bool = False


@dataclass(frozen=True)
class ContainerKind:
    """A kind of container: its closures, height over width, the label that suits it, how it is filled."""

    closures: tuple[Closure, ...]
    tall: float
    label: Literal["round", "rectangle", "wrap"]
    is_tube: bool = False
    is_mould: bool = False


_BAND = Closure(gettext_noop("shrink band"), tears=True)
OWN = ContainerKind(
    (Closure(gettext_noop("lid")), Closure(gettext_noop("tamper seal"), tears=True)), 0.42, "round"
)
KINDS: Mapping[str, ContainerKind] = MappingProxyType(
    {
        "tin": ContainerKind(
            (Closure(gettext_noop("tamper seal across the lid"), tears=True),), 0.42, "round"
        ),
        "jar": ContainerKind((Closure(gettext_noop("lid liner")), _BAND), 0.95, "round"),
        "tube": ContainerKind((Closure(gettext_noop("cap")), _BAND), 3.6, "wrap", is_tube=True),
        "gloss_tube": ContainerKind(
            (Closure(gettext_noop("wiper and wand")), _BAND), 4.2, "wrap", is_tube=True
        ),
        "paper_tube": ContainerKind(
            (
                Closure(gettext_noop("paper cap")),
                Closure(gettext_noop("tamper seal across the cap"), tears=True),
            ),
            3.2,
            "wrap",
            is_tube=True,
        ),
        "bottle": ContainerKind((Closure(gettext_noop("cap or dropper")), _BAND), 2.6, "rectangle"),
        "mould_cavity": ContainerKind(
            (
                Closure(gettext_noop("wrap of waxed paper")),
                Closure(gettext_noop("band or box"), tears=True),
            ),
            0.5,
            "rectangle",
            is_mould=True,
        ),
    }
)


def container_kind(slug: str) -> ContainerKind:
    """Return the kind that `slug` names; a maker's own container is of no listed kind.

    >>> container_kind("gloss_tube").is_tube, container_kind("your own").label
    (True, 'round')
    """
    return KINDS.get(slug, OWN)

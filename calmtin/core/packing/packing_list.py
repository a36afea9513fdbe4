"""What it takes to pack a pour: what closes each piece, what shows that nobody opened it, labels, slips."""

from __future__ import annotations

from collections.abc import Iterable

from calmtin.core.messages import gettext_noop

# By the kind of container: what each needs beside its label.
CLOSED_BY: dict[str, tuple[str, ...]] = {
    "tin": (gettext_noop("tamper seal across the lid"),),
    "jar": (gettext_noop("lid liner"), gettext_noop("shrink band")),
    "tube": ("cap", gettext_noop("shrink band")),
    "gloss_tube": (gettext_noop("wiper and wand"), gettext_noop("shrink band")),
    "paper_tube": (gettext_noop("paper cap"), gettext_noop("tamper seal across the cap")),
    "bottle": (gettext_noop("cap or dropper"), gettext_noop("shrink band")),
    "mould_cavity": (gettext_noop("wrap of waxed paper"), gettext_noop("band or box")),
}
USUAL = ("lid", gettext_noop("tamper seal"))


def packing_list(
    filled: Iterable[tuple[str, str, int]], *, slips: int = 0, spare: float = 0.05
) -> list[tuple[str, int]]:
    """Return what to lay out and how many, from (name, kind, count) of what was filled.

    Labels and what can tear while it is put on have 5 % more, at least one.

    >>> packing_list([("1 oz tin", "tin", 12)])
    [('1 oz tin', 12), ('tamper seal across the lid', 13), ('label', 13)]
    """
    needed: dict[str, int] = {}
    whole = 0
    for name, kind, count in filled:
        if kind != "mould_cavity":
            needed[name] = needed.get(name, 0) + count
        whole += count
        for what in CLOSED_BY.get(kind, USUAL):
            tears = "band" in what or "seal" in what
            needed[what] = needed.get(what, 0) + (_with_spare(count, spare) if tears else count)
    needed["label"] = _with_spare(whole, spare)
    if slips:
        needed["slip with the ingredients"] = slips
    return list(needed.items())


def _with_spare(count: int, spare: float) -> int:
    return count + max(round(count * spare), 1) if count else 0

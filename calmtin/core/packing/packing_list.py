"""The packing list: closures, seals, labels and slips for what was filled."""

from __future__ import annotations

from collections.abc import Iterable

from calmtin.core.containers import container_kind
from calmtin.core.messages import said


def packing_list(
    filled: Iterable[tuple[str, str, int]], *, slips: int = 0, spare: float = 0.05
) -> list[tuple[str, int]]:
    """Return the items to lay out with their counts, from (name, kind, count) of the filled containers.

    Labels and what can tear while it is put on have 5 % more, at least one.

    >>> packing_list([("1 oz tin", "tin", 12)])
    [('1 oz tin', 12), ('tamper seal across the lid', 13), ('label', 13)]
    """
    needed: dict[str, int] = {}
    whole = 0
    for name, kind, count in filled:
        if not container_kind(kind).is_mould:
            needed[name] = needed.get(name, 0) + count
        whole += count
        for closure in container_kind(kind).closures:
            what = said(closure.words)
            needed[what] = needed.get(what, 0) + (_with_spare(count, spare) if closure.tears else count)
    needed[said("label")] = _with_spare(whole, spare)
    if slips:
        needed[said("slip with the ingredients")] = slips
    return list(needed.items())


def _with_spare(count: int, spare: float) -> int:
    return count + max(round(count * spare), 1) if count else 0

"""What a pour filled: its pieces, and what they are made of."""

from __future__ import annotations

from dataclasses import dataclass

from django.utils.translation import gettext

from calmtin.core.errors import CalmTinError
from calmtin.core.materials import Material, Shelf
from calmtin.core.packing.label import net_weight
from calmtin.core.packing.pieces import weigh_up
from calmtin.core.process.fill import Container
from calmtin.pantry.adapters import containers_for
from calmtin.pours.adapters.closed import container_at
from calmtin.pours.adapters.pot import dry_parts, newest_yield, weights_of
from calmtin.pours.models import Pour


@dataclass(frozen=True)
class Filled:
    """Filled pieces of one kind: count, net weight of one, and whether it was weighed.

    `light` are too light for what was planned; they are set aside.
    """

    position: int
    container: Container | None
    name: str
    finish: str
    count: int
    net_g: float
    weighed: int
    light: tuple[float, ...]

    @property
    def kind(self) -> str:
        """What kind of container it is; a name that no list has any more is a plain one."""
        return self.container.kind if self.container else ""


def filled_of(pour: Pour) -> list[Filled]:
    """Return the filled pieces by kind; planned figures where nothing was counted or weighed."""
    known = containers_for(pour.owner)
    given = newest_yield(pour)
    weighed = weights_of(given) if given else {}
    counts = {place: int(count) for place, count in given.counts} if given else {}
    found: list[Filled] = []
    for f in pour.fillings.all():
        weights, planned = weighed.get(f.position, []), float(f.each_g)
        light = weigh_up(weights, planned).light if weights else ()
        found.append(
            Filled(
                f.position,
                container_at(pour, len(found), known.get(f.container_slug)),
                f.container_name,
                f.finish,
                counts.get(f.position, f.count),
                net_weight(weights, light, planned),
                len(weights),
                light,
            )
        )
    if not found:  # poured before a plan had several kinds
        each = float(pour.batch_g) * (1.0 - pour.loss) / pour.count
        container = container_at(pour, 0, known.get(pour.container_slug))
        found.append(Filled(0, container, pour.container_name, "", pour.count, each, 0, ()))
    return found


def filled_at(pour: Pour, position: int) -> Filled:
    """Return the pieces of one filling of a pour that was made, or refuse with `CalmTinError`."""
    if pour.is_weighing or pour.called_off_at is not None:
        raise CalmTinError(gettext("Finish the pour before you record pieces."), field="position")
    found = next((filled for filled in filled_of(pour) if filled.position == position), None)
    if found is None:
        raise CalmTinError(gettext("Choose a kind of piece."), field="position")
    return found


def parts_by_finish(pour: Pour, shelf: Shelf) -> dict[str, list[tuple[Material, float]]]:
    """Return what the products of a pour are made of, by finish, or the plain pot."""
    base = dry_parts(pour, shelf)
    whole = sum(grams for _, grams in base) or 1.0
    on_top: dict[str, list[tuple[Material, float]]] = {f.finish: [] for f in pour.fillings.all()}
    for part in pour.finish_parts.all():
        share = whole * float(part.percent) / 100.0
        on_top.setdefault(part.finish, []).append((shelf[part.material], share))
    return {finish: [*base, *parts] for finish, parts in (on_top or {"": []}).items()}

"""A maker's own route: the computed run sheet, reordered, renamed, with steps left out and added."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

from calmtin.core.errors import CalmTinError
from calmtin.core.messages import said
from calmtin.core.process.steps import Step

ALWAYS = ("weigh", "fill")  # without these there is no pour
OWN = "own-"  # how the key of an added step begins
MOST_OWN = 20


@dataclass(frozen=True, slots=True)
class OwnStep:
    """A step as a maker wants it: its key, another title (or none), and whether it is left out."""

    key: str
    title: str = ""
    is_skipped: bool = False

    @property
    def is_added(self) -> bool:
        """Whether the maker added it; nothing computes it then."""
        return self.key.startswith(OWN)


def arranged(steps: Sequence[Step], own: Sequence[OwnStep]) -> list[Step]:
    """Return `steps` in the maker's own order, with their titles, added steps and without skipped ones.

    What a formula has no step for is passed over; a step that `own` does not know yet follows the
    one that it follows in `steps`.
    """
    computed = {step.key: step for step in steps}
    known = {step.key for step in own}
    order: list[OwnStep] = [step for step in own if step.is_added or step.key in computed]
    before = ""
    for step in steps:
        if step.key not in known:
            place = next((n + 1 for n, mine in enumerate(order) if mine.key == before), 0)
            order.insert(place, OwnStep(step.key))
        before = step.key
    return [_as_told(mine, computed) for mine in order if not mine.is_skipped or mine.key in ALWAYS]


def _as_told(mine: OwnStep, computed: dict[str, Step]) -> Step:
    if mine.is_added:
        return Step(mine.key, mine.title, "")
    step = computed[mine.key]
    return replace(step, title=mine.title) if mine.title else step


def moved(own: Sequence[OwnStep], key: str, by: int) -> list[OwnStep]:
    """Return the steps with one of them `by` places further down (up where negative)."""
    order = list(own)
    at = next((n for n, step in enumerate(order) if step.key == key), None)
    if at is None:
        raise CalmTinError(said("This step is not on the sheet any more. Reload the page."), field="page")
    step = order.pop(at)
    order.insert(min(max(at + by, 0), len(order)), step)
    return order


def added(own: Sequence[OwnStep], title: str) -> list[OwnStep]:
    """Return the steps with one more of the maker's own at the end.

    Raises `CalmTinError` without a title, and for too many.
    """
    if not title.strip():
        raise CalmTinError(said("Name the step, such as: switch the fan off."), field="title")
    numbers = [int(step.key.removeprefix(OWN)) for step in own if step.is_added]
    if len(numbers) >= MOST_OWN:
        raise CalmTinError(
            said("You can add up to {most_own} steps of your own.", most_own=MOST_OWN), field="title"
        )
    return [*own, OwnStep(f"{OWN}{max(numbers, default=0) + 1}", title.strip())]

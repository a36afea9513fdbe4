"""The steps of a run sheet, and what they are worked out from."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Literal, TypedDict, get_args

from calmtin.core.cautions.ceilings import ScentFacts
from calmtin.core.materials import Material
from calmtin.core.messages import Message, Words, gettext_noop
from calmtin.core.process.fill import POUR_MARGIN_C
from calmtin.core.process.grain import Cooling
from calmtin.core.process.tincture import TINCTURE
from calmtin.core.process.weighing import stays_cool
from calmtin.core.quantities import Mass, Temperature

Route = Literal["pour", "whip", "cold_whip"]
# Whether waxes, butters and oils are melted one after the other, or all at once in one jug.
Melting = Literal["staged", "together"]
MELTINGS: tuple[Melting, ...] = get_args(Melting)
MELTING_NAMES: dict[Melting, str] = {
    "staged": gettext_noop("one after the other"),
    "together": gettext_noop("all together in one jug"),
}

AT_THE_SCALE = ("ready", "weigh")  # the steps that are done once the weigh sheet is closed
FILL = "fill"  # the step after which it is in its containers
BATH = "bath"  # back to the bath: no step of the sheet, but done on it
JUST_ABOVE_C = 4.0  # above the lowest temperature, for what should stay cooler still


@dataclass(frozen=True, slots=True)
class Step:
    """One thing to do: what, in which temperatures, C, for how long, min, why, and when it is done.

    `materials` are what goes in with it, g; `collision` says that its window does not exist;
    `finish` names the ending of the pot that it makes.
    """

    key: str
    title: str
    words: Words
    done_when: Words = ""
    why: Words = ""
    low_c: float | None = None
    high_c: float | None = None
    minutes: tuple[float, float] | None = None
    materials: tuple[tuple[Material, float], ...] = ()
    collision: Words = ""
    caution: Words = ""
    finish: str = ""


@dataclass(frozen=True, slots=True)
class Finish:
    """One finish of a split pot: its share in g, what is added, g, and what it fills."""

    name: str
    grams: float
    parts: tuple[tuple[Material, float], ...]
    into: str


@dataclass(frozen=True, slots=True)
class Batch:
    """What a run sheet is worked out from: the parts, g, how it is made, and its temperatures, C."""

    parts: Sequence[tuple[Material, float]]
    kind: str
    cooling: Cooling
    overrun: float
    set_c: float | None
    scents: Mapping[str, ScentFacts]
    alcohol_pct: float | None = None
    is_mould: bool = False
    is_tube: bool = False
    finishes: tuple[Finish, ...] = ()
    melting: Melting = "staged"
    each_g: float = 0.0  # in the largest container, where that is known

    @property
    def route(self) -> Route:
        """The way it is made."""
        if self.cooling == "never_melted" and self.of("butter", "soft_fat"):
            return "cold_whip"
        return "whip" if self.overrun > 0.0 else "pour"

    @property
    def is_cold(self) -> bool:
        """Whether nothing in it is melted at all."""
        return self.route == "cold_whip" and not self.of("wax") and not self.tincture

    @property
    def whole_g(self) -> float:
        """All that is in it, g."""
        return sum(grams for _, grams in self.parts)

    @property
    def leaves_lumps(self) -> bool:
        """Whether the butters are only partly melted, so that the last lumps seed the rest."""
        return self.cooling == "lumps_left" and bool(self.of("butter"))

    def of(self, *groups: str) -> list[tuple[Material, float]]:
        """Return the parts of some groups, what melts last first."""
        found = [(m, grams) for m, grams in self.parts if m.group in groups and grams > 0]
        return sorted(found, key=lambda part: -(part[0].melt_high_c or 0.0))

    @property
    def tincture(self) -> list[tuple[Material, float]]:
        """The parts that leave spirit and water in the warm oil."""
        return [(m, grams) for m, grams in self.of("water_bearing") if m.slug == TINCTURE]

    @property
    def delicate(self) -> list[tuple[Material, float]]:
        """The oils that like to stay below the temperature at which the pot would set."""
        found = [part for part in self.of("oil") if stays_cool(part[0], self.pour_c)]
        # A tincture needs an oil to leave its water in.
        return [] if self.tincture and found == self.of("oil") else found

    @property
    def oils(self) -> list[tuple[Material, float]]:
        """The oils that are warmed with the rest."""
        return [part for part in self.of("oil") if part not in self.delicate]

    @property
    def melted_oils(self) -> list[tuple[Material, float]]:
        """The oils that go into the melt; with a tincture they are in the pot before it."""
        return [] if self.tincture else self.oils

    @property
    def late(self) -> list[tuple[Material, float]]:
        """The heat-sensitive parts, and those with water if the maker uses them anyway."""
        wet = [part for part in self.of("water_bearing") if part not in self.tincture]
        return [*self.delicate, *self.of("antioxidant", "other"), *wet]

    @property
    def pour_c(self) -> float | None:
        """The lowest temperature at which it is poured: the first haze and a margin."""
        return None if self.set_c is None else self.set_c + POUR_MARGIN_C


def named(parts: Sequence[tuple[Material, float]]) -> Words:
    """Return parts with their weights as a sentence."""
    values = {f"g{n}": Mass(grams, 1) for n, (_, grams) in enumerate(parts)}
    names = ", ".join(f"{m.in_words} {{g{n}}}" for n, (m, _) in enumerate(parts))
    return Message(f"{names[:1].upper()}{names[1:]}.", **values)


class Window(TypedDict):
    """The temperatures of a step, C, and how it is solved where they collide."""

    low_c: float | None
    high_c: float | None
    collision: Words


def ceiling_c(parts: Sequence[tuple[Material, float]]) -> float | None:
    """Return the heat that none of these likes to be above, C."""
    return min((m.max_heat_c for m, _ in parts if m.max_heat_c is not None), default=None)


def below(parts: Sequence[tuple[Material, float]], temp_c: float) -> str:
    """Return the names of those that like to stay below `temp_c`, C."""
    return ", ".join(m.in_words for m, _ in parts if m.max_heat_c is not None and m.max_heat_c < temp_c)


def window_of(
    parts: Sequence[tuple[Material, float]], *, melts_c: float | None, sets_c: float | None
) -> Window:
    """Return the temperatures of a step that stirs `parts` into a pot.

    They are clear from `melts_c`, C; the pot as it is sets below `sets_c`. Where a part would rather stay
    cooler than that, the step names the part and says how it goes in all the same.
    """
    low_c = max((c for c in (melts_c, sets_c) if c is not None), default=None)
    high_c = ceiling_c(parts)
    if low_c is None or high_c is None or high_c >= low_c:
        return {"low_c": low_c, "high_c": high_c, "collision": ""}
    names = below(parts, low_c)
    values = {"most": Temperature(high_c), "low": Temperature(low_c), "sensitive": names}
    if melts_c is not None and high_c < melts_c:
        words = Message(
            "Part of this melts only above {most}, which is too hot for {sensitive}. Melt the hardest "
            "first, add the rest as soon as it is clear, and take it off the heat at once.",
            **values,
        )
    else:
        words = Message(
            "What is in the pot sets below {low}, and {sensitive} would rather stay below {most}. Take the "
            "pot off the heat, stir it in at {low}, and go on at once.",
            **values,
        )
    return {"low_c": low_c, "high_c": low_c + JUST_ABOVE_C, "collision": words}

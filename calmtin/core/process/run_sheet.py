"""What to do on pour day, in order: worked out from the formula, the plan and the route."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Literal, TypedDict

from calmtin.core.cautions.ceilings import ScentFacts
from calmtin.core.materials import Material
from calmtin.core.messages import Message, Words, gettext_noop, joined, said
from calmtin.core.process.fill import POUR_MARGIN_C
from calmtin.core.process.grain import COOLING_NAMES, Cooling
from calmtin.core.process.tincture import TINCTURE, tincture
from calmtin.core.quantities import Mass, Temperature

Route = Literal["pour", "whip", "cold_whip"]

AT_THE_SCALE = ("ready", "weigh")  # the steps that are done once the weigh sheet is closed
FILL = "fill"  # the step after which it is in its containers
BATH = "bath"  # back to the bath: no step of the sheet, but done on it
SCENT_LOSS_C = 65.0  # above this a scent boils off while it is stirred
BELOW_FLASH_C = 5.0
HEAT_SENSITIVE_C = 60.0
POWDER_PORTION_G = 10.0
WAX_MINUTES = (20.0, 40.0)  # to melt in a water bath: a little, and a kilo
MELT_ABOVE_C = 5.0  # how far above its melting range a part is clear
BURNS = gettext_noop(
    "Hot wax can burn you and catch fire. Use a water bath, never leave it alone, never put water on "
    "a wax fire, and keep a lid at hand to smother it."
)
JUST_ABOVE_C = 4.0  # above the lowest temperature, for what should stay cooler still
NEAR_C = 1.0  # from a window that a kitchen thermometer cannot tell from inside it
SCENT_LOST = gettext_noop(
    "Much of the scent evaporates at that temperature. Let the pot cool to the right temperature, "
    "smell it, and add more by the drop under “Add by feel”."
)
# What to do once a step was done too hot or too cold, by how its key begins.
TOO_HOT = {
    "melt_wax": gettext_noop(
        "Wax darkens and smells burnt at that temperature. Take it off the heat, and mark the tin "
        "as a test."
    ),
    "late": gettext_noop(
        "Heat-sensitive ingredients have been damaged. Let the pot cool before you add anything else."
    ),
    "scent": SCENT_LOST,
    "finish": SCENT_LOST,
    "fill": gettext_noop("It will shrink more as it sets. Keep some of the batch warm to top up the tins."),
}
TOO_COLD = {
    "melt_wax": gettext_noop("It isn’t fully melted. Put it back in the bath until it is clear."),
    "melt_butter": gettext_noop("It isn’t fully melted. Put it back in the bath until it is clear."),
    "scent": gettext_noop(
        "Part of it has set, so the scent won’t spread evenly. Warm the pot until it is clear, then stir."
    ),
    "finish": gettext_noop("Part of it has set. Warm the pot until it is clear, then split it."),
    "fill": gettext_noop(
        "Part of it had set, so it will be in layers. Scrape it back, warm it until it is clear, and "
        "pour again."
    ),
}
# How long until it can be moved, minutes: thin tubes first, whipped jars at once.
SETS_IN = {
    "gloss": (0.0, 30.0),
    "whipped_butter": (0.0, 60.0),
    "poured_butter": (120.0, 1440.0),
    "soft_salve": (60.0, 360.0),
    "firm_salve": (45.0, 240.0),
    "lip_balm": (30.0, 120.0),
    "lotion_bar": (60.0, 480.0),
    "massage_bar": (60.0, 480.0),
}


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

    @property
    def route(self) -> Route:
        """The way it is made."""
        if self.overrun <= 0.0:
            return "pour"
        return "cold_whip" if self.cooling == "never_melted" else "whip"

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
        if self.route != "pour" or self.pour_c is None or self.tincture:
            return []
        return [
            (m, g) for m, g in self.of("oil") if m.max_heat_c is not None and m.max_heat_c < self.pour_c
        ]

    @property
    def late(self) -> list[tuple[Material, float]]:
        """The heat-sensitive parts, and those with water if the maker uses them anyway."""
        wet = [part for part in self.of("water_bearing") if part not in self.tincture]
        return [*self.delicate, *self.of("antioxidant", "other"), *wet]

    @property
    def pour_c(self) -> float | None:
        """The lowest temperature at which it is poured: the first haze and a margin."""
        return None if self.set_c is None else self.set_c + POUR_MARGIN_C


def run_sheet(batch: Batch) -> list[Step]:
    """Return the steps of a pour, in order.

    Waxes melt first, then butters, oils are warmed last so that nothing seizes; a tincture leaves
    its water before any wax goes in; powders go into the hot oil in portions, scents below their
    loss and flash point and above the pour, and where there is no such window the step says so.
    """
    return [*_begin(), *_heat(batch), *_cool(batch), *_set(batch)]


def _begin() -> Iterator[Step]:
    yield Step(
        "ready",
        said("Get ready"),
        said(
            "Clean and dry the surfaces, pot, spatula and containers. Tie your hair back; put on gloves "
            "and goggles. Use only one sanitiser. Put 2 to 3 cm of water in the bath and keep its lid at "
            "hand. Get out lids, tray, scraper and labels, and a towel to dry the outside of the jug."
        ),
        said("Everything you need is within reach."),
        caution=said("Never mix bleach with alcohol or an acid."),
    )
    yield Step(
        "weigh",
        said("Weigh"),
        said("Weigh every ingredient on the weigh sheet."),
        said("The weigh sheet is closed."),
    )


def _wet(batch: Batch) -> Iterator[Step]:
    """Yield the tincture's step: it leaves its spirit and water in the warm oil before any wax goes in."""
    for material, grams in batch.tincture:
        gone = tincture(grams, 50.0 if batch.alcohol_pct is None else batch.alcohol_pct).to_lose_g
        oils = batch.of("oil")
        pot = grams + sum(g for _, g in oils)
        yield Step(
            "wet",
            said("The tincture first, with the oil"),
            Message(
                "Warm only the oil and tincture in the bath, uncovered, until the pot is {gone} "
                "lighter; the contents then weigh {left}.",
                gone=Mass(gone, 1),
                left=Mass(pot - gone, 1),
            ),
            Message("The scale shows {left} and nothing bubbles.", left=Mass(pot - gone, 1)),
            said("Any water left would form drops in the balm, where mould can grow."),
            high_c=85.0,
            materials=((material, grams), *oils),
            caution=said("Alcohol burns. Keep flames away and air the room."),
        )


def _soften(batch: Batch) -> Iterator[Step]:
    """Yield what comes before whipping butters that are not melted; a wax melts in the oil, by itself."""
    waxes, oils = batch.of("wax"), batch.of("oil")
    if waxes:
        warm = oils if not batch.tincture else []
        yield Step(
            "melt_wax",
            said("Melt the wax in the oil"),
            Message(
                "{parts} Let it cool to room temperature, stirring, before it meets the butter.",
                parts=_named([*waxes, *warm]),
            ),
            said("A soft, smooth paste."),
            said("If it is hot, it melts the butter."),
            **_window(max((m.melt_high_c or 65.0) for m, _ in waxes) + MELT_ABOVE_C, [*waxes, *warm]),
            minutes=WAX_MINUTES,
            materials=(*waxes, *warm),
            caution=BURNS,
        )
    yield Step(
        "soften",
        said("Let it soften"),
        said("Let the butters come to room temperature and cut them small. Don’t melt them."),
        said("A finger sinks in easily."),
        said("Butter that was never melted keeps its crystals and firms up again within two days."),
        materials=tuple(batch.of("butter", "soft_fat")),
    )


def _heat(batch: Batch) -> Iterator[Step]:
    yield from _wet(batch)
    if batch.route == "cold_whip":
        yield from _soften(batch)
        return
    waxes, butters = batch.of("wax"), batch.of("butter", "soft_fat")
    if waxes:
        grams = sum(g for _, g in waxes)
        usual = WAX_MINUTES[0] + (WAX_MINUTES[1] - WAX_MINUTES[0]) * min(grams / 500.0, 1.0)
        clear = max((m.melt_high_c or 65.0) for m, _ in waxes) + MELT_ABOVE_C
        yield Step(
            "melt_wax",
            said("Melt the wax"),
            Message("In the water bath, covered loosely. {parts}", parts=_named(waxes)),
            said("The melt is clear, with nothing grainy at the bottom. Cloudy means not melted."),
            said(
                "The wax with the highest melting point goes first, so that the rest is hot for the "
                "shortest time."
            ),
            **_window(clear, waxes),
            minutes=(usual, usual * 1.5),
            materials=tuple(waxes),
            caution=BURNS,
        )
    if butters:
        yield Step(
            "melt_butter",
            said("Add the butters"),
            _named(butters),
            said("The melt is clear again."),
            said("They melt in the hot wax."),
            **_window(max((m.melt_high_c or 40.0) for m, _ in butters) + MELT_ABOVE_C, butters),
            minutes=(5.0, 12.0),
            materials=tuple(butters),
        )
    delicate = batch.delicate
    oils = [] if batch.tincture else [part for part in batch.of("oil") if part not in delicate]
    if oils:
        yield Step(
            "oils",
            said("Warm the oils and stir them in"),
            Message(
                "{parts} Warm them to the temperature of the pot first, or the wax seizes.",
                parts=_named(oils),
            )
            if waxes
            else _named(oils),
            said("The melt is clear, with no threads of wax."),
            high_c=_ceiling(oils),
            minutes=(3.0, 8.0),
            materials=tuple(oils),
        )
    powders = batch.of("powder", "colour")
    if powders and batch.route == "pour":
        grams = sum(g for _, g in powders)
        portions = max(1, -(-int(grams * 10) // int(POWDER_PORTION_G * 10)))
        yield Step(
            "powder",
            said("Stir in the powder"),
            Message(
                "{parts} Sieve it in {count} portions and stir each until smooth."
                if portions > 1
                else "{parts} Sieve it in and stir until smooth.",
                parts=_named(powders),
                count=portions,
            ),
            said("There are no lumps under the spatula."),
            said("Hot, thin oil wets the powder; later it clumps."),
            minutes=(3.0, 3.0 * portions + 3.0),
            materials=tuple(powders),
        )


def _cool(batch: Batch) -> Iterator[Step]:
    late = batch.late
    if batch.route == "cold_whip":
        yield from _whip(batch)
        return
    if batch.route == "whip":
        if batch.cooling == "rest_then_chill":
            yield Step(
                "rest",
                said("Let it rest"),
                said("Take it off the heat, dry the outside, cover it and leave it at room temperature."),
                said("The pot is hand-warm and still clear."),
                said("The first crystals form small and even, so it doesn’t go sandy."),
                minutes=(10.0, 15.0),
            )
        yield Step(
            "chill",
            said("Chill it"),
            said("Cover it and put it in the fridge, or in the freezer for a shorter time."),
            said("A finger dents it and the edge is firm."),
            said("If it is too warm it won’t whip; if it is too cold it crumbles."),
            minutes=(20.0, 60.0),
        )
        yield from _whip(batch)
        return
    low = batch.pour_c
    if late:
        top = min([HEAT_SENSITIVE_C, *(m.max_heat_c for m, _ in late if m.max_heat_c)])
        yield Step(
            "late",
            said("Off the heat: add heat-sensitive ingredients"),
            Message("Dry the outside of the pot. {parts}", parts=_named(late)),
            said("It is stirred in."),
            low_c=low,
            high_c=top if low is None or top > low else low + JUST_ABOVE_C,
            materials=tuple(late),
            caution=_too_hot_for(batch),
        )
    yield from _scents(batch)
    yield Step(
        "test",
        said("Set test"),
        said(
            "Put a drop on a cold lid or spoon and chill it for a minute. Press it with your thumb and "
            "choose the word that fits."
        ),
        said("You know whether it is too soft or too hard while you can still add wax or oil."),
        minutes=(1.0, 3.0),
    )
    yield from _finishes(batch)
    words = said(
        "Put the containers close together. Fill to the line first, then top up as the surfaces sink."
    )
    if batch.is_tube:
        words = said(
            "Put the tubes close together in their tray. Overfill slightly, scrape level once set, "
            "and melt the scrapings again."
        )
    if batch.is_mould:
        words = said("Fill the cavities to the top. Scrape off the excess and return it to the pot.")
    if batch.finishes:
        words = f"{said('Use the rest of the batch, if you kept any without a finish.')} {words}"
    yield Step(
        FILL,
        said("Pour"),
        words,
        said("All are filled before a skin forms in the jug."),
        said("The cooler you pour, the less it sinks.") if low is not None else "",
        low_c=low,
        high_c=None if low is None else low + 12.0,
        caution=said("If it sets in the jug, put it back in the bath; the time to pour starts again."),
    )


def _finishes(batch: Batch) -> Iterator[Step]:
    """Yield a step for each ending of the pot: split off, finished and filled before the next."""
    for number, finish in enumerate(batch.finishes, start=1):
        scents = [m for m, _ in finish.parts if m.group == "scent"]
        top = scent_top_c(scents, batch.scents) if scents else None
        low = batch.pour_c
        yield Step(
            f"finish-{number}",
            said("Finish: {name}", name=finish.name),
            Message(
                "Pour {share} of the batch into a warm jug. {parts} Stir it in. Fill {into}."
                if finish.parts
                else "Pour {share} of the batch into a warm jug. Fill {into}.",
                share=Mass(finish.grams, 1),
                parts=_named(finish.parts),
                into=finish.into,
            ),
            said("They are filled, and the rest of the batch is still clear."),
            said("Keep the pot in the warm bath meanwhile, or it sets too early."),
            low_c=low,
            high_c=None if top is None else max(top, low or top),
            materials=finish.parts,
            finish=finish.name,
        )


def _scents(batch: Batch) -> Iterator[Step]:
    scents = batch.of("scent")
    if not scents:
        return
    low, top = batch.pour_c, scent_top_c([m for m, _ in scents], batch.scents)
    collision: Words = ""
    if low is not None and low > top:
        collision = Message(
            "It sets at {set}, so you must pour above {low}, but scent is lost above {top}. Stir it "
            "in at the last moment and pour at once, accept a fainter scent, or use less of the wax "
            "with the highest melting point.",
            set=Temperature(low if batch.set_c is None else batch.set_c),
            low=Temperature(low),
            top=Temperature(top),
        )
    yield Step(
        "scent",
        said("Add the scent last"),
        _named(scents),
        said("The scent is even over the whole pot."),
        said("If it is hotter, scent evaporates; if it is cooler, the pot sets."),
        low_c=low,
        high_c=max(top, low or top),
        materials=tuple(scents),
        collision=collision,
    )


def wait_for(step: Step, temp_c: float) -> Words:
    """Return what to wait for before a step is done in a pot of `temp_c`, C; nothing where it is right."""
    if step.high_c is not None and temp_c > step.high_c + NEAR_C:
        return Message(
            "The pot is at {now}. Wait until it is at {wanted}.",
            now=Temperature(temp_c),
            wanted=Temperature(step.high_c),
        )
    if step.low_c is not None and temp_c < step.low_c - NEAR_C:
        return Message(
            "The pot is at {now}. Warm it to {wanted} first.",
            now=Temperature(temp_c),
            wanted=Temperature(step.low_c),
        )
    return ""


def done_wrong(step: Step, temp_c: float) -> Words:
    """Return what a step that was done at `temp_c`, C, outside its window, asks for now; else nothing."""
    if step.high_c is not None and temp_c > step.high_c + NEAR_C:
        return _it_was("above", temp_c, step.high_c, TOO_HOT.get(step.key.partition("-")[0], ""))
    if step.low_c is not None and temp_c < step.low_c - NEAR_C:
        return _it_was("below", temp_c, step.low_c, TOO_COLD.get(step.key.partition("-")[0], ""))
    return ""


def _it_was(side: str, temp_c: float, wanted_c: float, after: str) -> Words:
    if not after:
        return ""
    told = {"was": Temperature(temp_c), "wanted": Temperature(wanted_c), "after": after}
    return Message(
        "It was {was}, above {wanted}. {after}"
        if side == "above"
        else "It was {was}, below {wanted}. {after}",
        **told,
    )


def scent_top_c(scents: Sequence[Material], facts: Mapping[str, ScentFacts]) -> float:
    """Return the highest temperature for these scents, C: no loss, and 5 C under every flash point."""
    flashes = [f.flash_c for m in scents if (f := facts.get(m.slug)) is not None and f.flash_c is not None]
    return min([SCENT_LOSS_C, *(flash - BELOW_FLASH_C for flash in flashes)])


WHIP_IT = Message(
    "Whip slowly at first, then fast. Scrape down every few minutes. If it turns liquid, "
    "chill it for five minutes."
)


def _whip(batch: Batch) -> Iterator[Step]:
    parts = batch.late
    if batch.route == "cold_whip" and not batch.tincture and not batch.of("wax"):
        parts = [*batch.of("oil"), *parts]
    yield Step(
        "whip",
        said("Whip it"),
        joined([*([_named(parts)] if parts else []), WHIP_IT], " "),
        said("It holds peaks, with about {overrun:.0f} % more volume.", overrun=100 * batch.overrun),
        minutes=(10.0, 20.0),
        materials=tuple(parts),
    )
    powders = batch.of("powder", "colour")
    if powders:
        yield Step(
            "powder",
            said("Add powder to feel"),
            Message(
                "{parts} Add the weighed powder first, then more by the half teaspoon until it no "
                "longer feels greasy. Record each half teaspoon.",
                parts=_named(powders),
            ),
            said("It feels dry enough on the back of your hand."),
            materials=tuple(powders),
        )
    yield from _scents(replace(batch, set_c=None))  # it is filled cold
    yield Step(
        FILL,
        said("Fill"),
        said("Use a spoon, or a bag with a corner cut off. Tap the jar to remove air pockets."),
        said("The jars are full. Weigh one to see how much air is in it."),
    )


def _set(batch: Batch) -> Iterator[Step]:
    yield Step(
        "cool",
        said("Let it set: {cooling_names}", cooling_names=COOLING_NAMES[batch.cooling]),
        said(
            "Keep them level and out of draughts. Leave the lids off until they are cold, or water "
            "collects under them."
        ),
        said("It is cold to the touch, and nothing moves when you tilt it."),
        minutes=SETS_IN.get(batch.kind, (60.0, 480.0)),
    )
    if batch.is_mould:
        yield Step(
            "unmould",
            said("Unmould and weigh the pieces"),
            said("Set light ones aside for yourself."),
            said("Each one has the right weight."),
        )
    yield Step(
        "clean",
        said("Clean up, label, count"),
        said(
            "Wipe out the pot while it is warm; put wax in the bin, never down the sink. Put on lids and "
            "labels."
        ),
        said("The pieces and the leftovers are counted."),
        caution=said("Patch test first, and think of who it is for."),
    )


def _named(parts: Sequence[tuple[Material, float]]) -> Words:
    values = {f"g{n}": Mass(grams, 1) for n, (_, grams) in enumerate(parts)}
    names = ", ".join(f"{m.in_words} {{g{n}}}" for n, (m, _) in enumerate(parts))
    return Message(f"{names[:1].upper()}{names[1:]}.", **values)


class _Window(TypedDict):
    low_c: float
    high_c: float | None
    collision: Words


def _window(low_c: float, parts: Sequence[tuple[Material, float]]) -> _Window:
    """Return the temperatures of a step that melts `parts`, and how it is solved where they collide."""
    high_c = _ceiling(parts)
    if high_c is None or high_c >= low_c:
        return {"low_c": low_c, "high_c": high_c, "collision": ""}
    sensitive = ", ".join(m.in_words for m, _ in parts if m.max_heat_c is not None and m.max_heat_c < low_c)
    words = Message(
        "Part of this melts only above {most}, which is too hot for {sensitive}. Melt the hardest first, "
        "add the rest as soon as it is clear, and take it off the heat at once.",
        most=Temperature(high_c),
        sensitive=sensitive,
    )
    return {"low_c": low_c, "high_c": low_c + JUST_ABOVE_C, "collision": words}


def _too_hot_for(batch: Batch) -> Words:
    """Return how to add oils that should stay cooler than this pot can be without setting."""
    if not batch.delicate or batch.pour_c is None:
        return ""
    names = ", ".join(m.in_words for m, _ in batch.delicate)
    return Message(
        "{parts} would rather stay below {most}, but this pot sets below {low}. Warm it to {most} by "
        "itself, stir it in off the heat, and pour soon.",
        parts=names[:1].upper() + names[1:],
        most=Temperature(min(m.max_heat_c for m, _ in batch.delicate if m.max_heat_c is not None)),
        low=Temperature(batch.pour_c),
    )


def _ceiling(parts: Sequence[tuple[Material, float]]) -> float | None:
    """Return the heat that none of these likes to be above, C."""
    return min((m.max_heat_c for m, _ in parts if m.max_heat_c is not None), default=None)

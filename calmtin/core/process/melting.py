"""The steps of a run sheet on the heat: what melts in which order, how hot, and how long it takes."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from calmtin.core.engine.blend import blend
from calmtin.core.engine.firmness import set_point_c
from calmtin.core.materials import FORMS, Form, Material
from calmtin.core.messages import Message, Words, gettext_noop, said
from calmtin.core.process.heat import ROOM_C, bath_minutes, likely_minutes
from calmtin.core.process.steps import Batch, Step, below, named, window_of
from calmtin.core.process.tincture import tincture
from calmtin.core.quantities import Mass

Part = tuple[Material, float]

TINCTURE_C = 85.0  # warm enough for spirit and water to leave an oil
MELT_ABOVE_C = 5.0  # how far above its melting range a part is clear
POWDER_PORTION_G = 10.0
POWDER_PORTION = 0.05  # of the batch, where that is more
POWDER_MINUTES = 1.0  # to stir one portion smooth
# What a material comes as, unless a maker says otherwise.
USUAL_FORM: dict[str, Form] = {"wax": "pellets", "butter": "chopped", "soft_fat": "chopped"}
BURNS = gettext_noop(
    "Hot wax can burn you and catch fire. Use a water bath, never leave it alone, never put water on "
    "a wax fire, and keep a lid at hand to smother it."
)


class Pot:
    """What is in the pot so far and how warm it is, C, while a run sheet is worked out."""

    def __init__(self, batch: Batch) -> None:
        self.batch, self.temp_c = batch, ROOM_C
        self.parts: list[Part] = []

    @property
    def sets_c(self) -> float | None:
        """Below what it would set as it is, C; none where nothing in it sets."""
        return set_point_c(blend(self.parts)) if any(grams > 0 for _, grams in self.parts) else None

    def minutes_with(self, added: Sequence[Part], to_c: float) -> tuple[float, float]:
        """Return how long the bath takes until `added` is in and at `to_c`, C; it is in afterwards."""
        minutes = bath_minutes(self.parts, self.temp_c, added, to_c, form=self._slowest(added))
        self.parts, self.temp_c = [*self.parts, *added], max(to_c, self.temp_c)
        return likely_minutes(minutes)

    def _slowest(self, added: Sequence[Part]) -> Form:
        told = [m.form or USUAL_FORM.get(m.group, "shavings") for m, _ in added]
        return max(told, key=FORMS.index, default="shavings")


def clear_c(parts: Sequence[Part], otherwise_c: float) -> float:
    """Return from when `parts` are clear, C: a little above the highest end of their melting ranges."""
    return max((m.melt_high_c or otherwise_c for m, _ in parts), default=otherwise_c) + MELT_ABOVE_C


def heat_steps(batch: Batch) -> Iterator[Step]:
    """Yield the steps until everything that melts is clear."""
    pot = Pot(batch)
    yield from _tincture(batch, pot)
    if batch.route == "cold_whip":
        yield from _softened(batch, pot)
        return
    if batch.melting == "together":
        yield from _all_at_once(batch, pot)
    else:
        yield from _waxes(batch, pot)
        yield from _butters(batch, pot)
        yield from _oils(batch, pot)
    if batch.route == "pour":
        yield from _powders(batch)


def _tincture(batch: Batch, pot: Pot) -> Iterator[Step]:
    """Yield the tincture's step: it leaves its spirit and water in the warm oil before any wax goes in."""
    wet = batch.tincture
    if not wet:
        return
    grams, oils = sum(g for _, g in wet), batch.oils
    gone = tincture(grams, batch.alcohol_pct).to_lose_g
    left = Mass(grams + sum(g for _, g in oils) - gone, 1)
    yield Step(
        "wet",
        said("The tincture first, with the oil"),
        Message(
            "Warm only the oil and tincture in the bath, uncovered, until the pot is {gone} "
            "lighter; the contents then weigh {left}.",
            gone=Mass(gone, 1),
            left=left,
        ),
        Message("The scale shows {left} and nothing bubbles.", left=left),
        said("Any water left would form drops in the balm, where mould can grow."),
        high_c=TINCTURE_C,
        materials=(*wet, *oils),
        caution=said("Alcohol burns. Keep flames away and air the room."),
    )
    pot.parts, pot.temp_c = [*oils], TINCTURE_C if oils else ROOM_C


def _softened(batch: Batch, pot: Pot) -> Iterator[Step]:
    """Yield what comes before whipping butters that are not melted; a wax melts in the oil, by itself."""
    waxes = batch.of("wax")
    if waxes:
        with_it = [*waxes, *batch.melted_oils]
        melts_c = clear_c(waxes, 65.0)
        yield Step(
            "melt_wax",
            said("Melt the wax in the oil"),
            Message(
                "{parts} Let it cool to room temperature, stirring, before it meets the butter.",
                parts=named(with_it),
            ),
            said("A soft, smooth paste."),
            said("If it is hot, it melts the butter."),
            **window_of(with_it, melts_c=melts_c, sets_c=None),
            minutes=pot.minutes_with(with_it, melts_c),
            materials=tuple(with_it),
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


def _all_at_once(batch: Batch, pot: Pot) -> Iterator[Step]:
    """Yield one step for all that melts: most kitchen makers put it all into one jug."""
    parts = [*batch.of("wax", "butter", "soft_fat"), *batch.melted_oils]
    if not parts:
        return
    melting = batch.of("wax", "butter", "soft_fat")
    melts_c = clear_c(melting, 40.0) if melting else None
    yield Step(
        "melt_all",
        said("Melt everything together"),
        Message("All in one jug in the water bath, covered loosely. {parts}", parts=named(parts)),
        _clear(
            batch, said("The melt is clear, with nothing grainy at the bottom. Cloudy means not melted.")
        ),
        _cost_of_one_jug(batch, parts),
        **window_of(parts, melts_c=None if batch.leaves_lumps else melts_c, sets_c=None),
        minutes=pot.minutes_with(parts, melts_c or ROOM_C + MELT_ABOVE_C),
        materials=tuple(parts),
        caution=BURNS if batch.of("wax") else "",
    )


def _cost_of_one_jug(batch: Batch, parts: Sequence[Part]) -> Words:
    """Return in one line what melting all at once costs this batch."""
    waxes = batch.of("wax")
    if not waxes:
        return said("Nothing in it needs much heat, so one jug does as well.")
    sensitive = below(parts, clear_c(waxes, 65.0))
    if sensitive:
        return said(
            "One jug is simpler, but everything stays hot until the wax is clear: {sensitive} would "
            "rather stay cooler.",
            sensitive=sensitive,
        )
    return said(
        "One jug is simpler; the oils and butters stay hot until the wax is clear, which ages them."
    )


def _waxes(batch: Batch, pot: Pot) -> Iterator[Step]:
    waxes = batch.of("wax")
    if not waxes:
        return
    melts_c = clear_c(waxes, 65.0)
    yield Step(
        "melt_wax",
        said("Melt the wax"),
        Message(
            "In the warm oil, in the water bath. {parts}"
            if pot.parts
            else "In the water bath, covered loosely. {parts}",
            parts=named(waxes),
        ),
        said("The melt is clear, with nothing grainy at the bottom. Cloudy means not melted."),
        said(
            "The wax with the highest melting point goes first, so that the rest is hot for the "
            "shortest time."
        ),
        **window_of(waxes, melts_c=melts_c, sets_c=None),
        minutes=pot.minutes_with(waxes, melts_c),
        materials=tuple(waxes),
        caution=BURNS,
    )


def _butters(batch: Batch, pot: Pot) -> Iterator[Step]:
    butters = batch.of("butter", "soft_fat")
    if not butters:
        return
    melts_c, is_hot = clear_c(butters, 40.0), bool(pot.parts)
    sets_c = pot.sets_c
    wanted_c = max(melts_c, sets_c or melts_c)
    yield Step(
        "melt_butter",
        said("Add the butters") if is_hot else said("Melt the butters"),
        named(butters) if is_hot else Message("In the water bath. {parts}", parts=named(butters)),
        _clear(batch, said("The melt is clear again.") if is_hot else said("The melt is clear.")),
        said("They melt in the hot wax.") if batch.of("wax") else "",
        **window_of(butters, melts_c=None if batch.leaves_lumps else melts_c, sets_c=sets_c),
        minutes=pot.minutes_with(butters, wanted_c),
        materials=tuple(butters),
    )


def _oils(batch: Batch, pot: Pot) -> Iterator[Step]:
    oils = batch.melted_oils
    if not oils:
        return
    is_hot, sets_c = bool(pot.parts), pot.sets_c
    words = named(oils)
    if batch.of("wax"):
        words = Message(
            "{parts} Warm them to the temperature of the pot first, or the wax seizes.", parts=words
        )
    yield Step(
        "oils",
        said("Warm the oils and stir them in") if is_hot else said("Warm the oils"),
        words,
        said("The melt is clear, with no threads of wax.") if is_hot else said("They are warm and thin."),
        **window_of(oils, melts_c=None, sets_c=sets_c),
        minutes=pot.minutes_with(oils, sets_c or ROOM_C + 2.0 * MELT_ABOVE_C),
        materials=tuple(oils),
    )


def _clear(batch: Batch, usual: Words) -> Words:
    """Return when a melt is done: clear, or with the lumps that were to be left."""
    if not batch.leaves_lumps:
        return usual
    return said(
        "Only a few small lumps of butter are left. Take it off the heat; don’t wait until it is clear."
    )


def _powders(batch: Batch) -> Iterator[Step]:
    powders = batch.of("powder", "colour")
    if not powders:
        return
    grams = sum(g for _, g in powders)
    portion_g = max(POWDER_PORTION_G, POWDER_PORTION * batch.whole_g)
    portions = max(1, -(-int(grams * 10) // int(portion_g * 10)))
    yield Step(
        "powder",
        said("Stir in the powder"),
        Message(
            "{parts} Sieve it in {count} portions and stir each until smooth."
            if portions > 1
            else "{parts} Sieve it in and stir until smooth.",
            parts=named(powders),
            count=portions,
        ),
        said("There are no lumps under the spatula."),
        said("Hot, thin oil wets the powder; later it clumps."),
        minutes=likely_minutes(2.0 + POWDER_MINUTES * portions),
        materials=tuple(powders),
    )

"""The steps of a run sheet off the heat: what goes in late, whipping, filling and setting."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence

from calmtin.core.cautions.ceilings import ScentFacts
from calmtin.core.materials import Material
from calmtin.core.messages import Message, Words, gettext_noop, joined, said
from calmtin.core.process.grain import COOLING_NAMES
from calmtin.core.process.heat import (
    ROOM_C,
    Place,
    Solids,
    after,
    likely_minutes,
    minutes_to,
    solids_of,
    surroundings,
)
from calmtin.core.process.steps import FILL, JUST_ABOVE_C, Batch, Step, named
from calmtin.core.quantities import Mass, Temperature

SCENT_LOSS_C = 65.0  # above this a scent boils off while it is stirred
BELOW_FLASH_C = 5.0
HEAT_SENSITIVE_C = 60.0
FILL_C = 12.0  # how far above the lowest temperature a pot is still poured well
REST_MINUTES = (10.0, 15.0)
WHIP_MINUTES = (10.0, 20.0)
TEST_MINUTES = (1.0, 2.0)
CLEAR_C = 60.0  # of a pot without a set point, when it comes off the heat
WHIPS_C = 18.0  # a pot of butter is firm enough to whip: a finger dents it
COLD_C = 3.0  # above the room a tin is cold to the touch
MELTED_SO = ("lumps_left", "never_melted")  # routes that are about the melt, not about cooling
CHILLED = ("rest_then_chill", "chill_at_once", "tubes_at_once")
USUAL_PIECE_G = 50.0
SETTLES_MINUTES = (30.0, 60.0)  # for a filled jar of whipped butter, and for what does not set

BUTTER_BY_BUTTER = gettext_noop(
    "Whip the hardest butter first, alone, then one butter after the other, each until it is smooth."
)
WHIP_IT = Message(
    "Whip with a mixer, slowly at first, then fast; a stick blender makes it smooth but beats in little "
    "air. Scrape down every few minutes. If it turns liquid, chill it for five minutes."
)


def cool_steps(batch: Batch) -> Iterator[Step]:
    """Yield the steps from the clear melt, or the softened butter, until the containers are full."""
    if batch.route == "pour":
        yield from _poured(batch)
        return
    if batch.route == "whip":
        if batch.cooling == "rest_then_chill":
            yield Step(
                "rest",
                said("Let it rest"),
                said("Take it off the heat, dry the outside, cover it and leave it at room temperature."),
                said("The pot is hand-warm and still clear."),
                said("The first crystals form small and even, so it doesn’t go sandy."),
                minutes=REST_MINUTES,
            )
        yield Step(
            "chill",
            said("Chill it"),
            said("Cover it and put it in the fridge, or in the freezer for a shorter time."),
            said("A finger dents it and the edge is firm."),
            said("If it is too warm it won’t whip; if it is too cold it crumbles."),
            minutes=_chills_in(batch),
        )
    yield from _whipped(batch)


def _whipped(batch: Batch) -> Iterator[Step]:
    parts, is_cold = batch.late, batch.route == "cold_whip"
    if batch.is_cold:
        parts = [*batch.oils, *parts]
    first: list[Words] = [BUTTER_BY_BUTTER] if is_cold and len(batch.of("butter", "soft_fat")) > 1 else []
    added: list[Words] = [Message("Then, a little at a time: {parts}", parts=named(parts))] if parts else []
    yield Step(
        "whip",
        said("Whip it"),
        joined([*first, WHIP_IT, *added], " "),
        said("It holds peaks, with about {overrun:.0f} % more volume.", overrun=100 * batch.overrun)
        if batch.overrun > 0.0
        else said("It is smooth, without lumps."),
        minutes=WHIP_MINUTES,
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
                parts=named(powders),
            ),
            said("It feels dry enough on the back of your hand."),
            materials=tuple(powders),
        )
    yield from scent_steps(batch)
    yield Step(
        FILL,
        said("Fill"),
        said("Use a spoon, or a bag with a corner cut off. Tap the jar to remove air pockets."),
        said("The jars are full. Weigh one to see how much air is in it."),
    )


def _poured(batch: Batch) -> Iterator[Step]:
    low, late = batch.pour_c, batch.late
    if late:
        top = min([HEAT_SENSITIVE_C, *(m.max_heat_c for m, _ in late if m.max_heat_c)])
        yield Step(
            "late",
            said("Off the heat: add heat-sensitive ingredients"),
            Message("Dry the outside of the pot. {parts}", parts=named(late)),
            said("It is stirred in."),
            low_c=low,
            high_c=top if low is None or top > low else low + JUST_ABOVE_C,
            materials=tuple(late),
            caution=_too_hot_for(batch),
        )
    yield from scent_steps(batch)
    yield Step(
        "test",
        said("Set test"),
        said(
            "Put a drop on a cold lid or spoon and chill it for a minute. Press it with your thumb and "
            "choose the word that fits."
        ),
        said("You know whether it is too soft or too hard while you can still add wax or oil."),
        minutes=TEST_MINUTES,
    )
    yield from finish_steps(batch)
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
        high_c=None if low is None else low + FILL_C,
        caution=said("If it sets in the jug, put it back in the bath; the time to pour starts again."),
    )


def finish_steps(batch: Batch) -> Iterator[Step]:
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
                parts=named(finish.parts),
                into=finish.into,
            ),
            said("They are filled, and the rest of the batch is still clear."),
            said("Keep the pot in the warm bath meanwhile, or it sets too early."),
            low_c=low,
            high_c=None if top is None else max(top, low or top),
            materials=finish.parts,
            finish=finish.name,
        )


def scent_steps(batch: Batch) -> Iterator[Step]:
    """Yield the scents' step: below their loss and above the pour, or into what is cold and whipped."""
    scents = batch.of("scent")
    if not scents:
        return
    if batch.route != "pour":
        yield Step(
            "scent",
            said("Add the scent last"),
            named(scents),
            said("The scent is even all through."),
            said("It is cold by now, so none of the scent is lost."),
            materials=tuple(scents),
        )
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
        named(scents),
        said("The scent is even over the whole pot."),
        said("If it is hotter, scent evaporates; if it is cooler, the pot sets."),
        low_c=low,
        high_c=max(top, low or top),
        materials=tuple(scents),
        collision=collision,
    )


def scent_top_c(scents: Sequence[Material], facts: Mapping[str, ScentFacts]) -> float:
    """Return the highest temperature for these scents, C: no loss, and 5 C under every flash point."""
    flashes = [f.flash_c for m in scents if (f := facts.get(m.slug)) is not None and f.flash_c is not None]
    return min([SCENT_LOSS_C, *(flash - BELOW_FLASH_C for flash in flashes)])


def rested(batch: Batch, solids: Solids, grams: float) -> tuple[float, float]:
    """Return how warm `grams` g are when they go on to cool, C, and for how many minutes they rested."""
    temp_c = CLEAR_C if batch.pour_c is None else batch.pour_c
    if batch.cooling != "rest_then_chill":
        return temp_c, 0.0
    minutes = REST_MINUTES[0]
    return after(solids, temp_c, surroundings("bench", grams), minutes=minutes), minutes


def _chills_in(batch: Batch) -> tuple[float, float]:
    """Return how long a clear pot stays in the fridge until it can be whipped, minutes."""
    solids, grams = solids_of(batch.parts), batch.whole_g
    if grams <= 0.0:
        return SETTLES_MINUTES
    temp_c, _ = rested(batch, solids, grams)
    found = minutes_to(solids, temp_c, WHIPS_C, surroundings("fridge", grams))
    return likely_minutes(found or SETTLES_MINUTES[0])


def _sets_in(batch: Batch) -> tuple[float, float]:
    """Return how long a filled container takes until it is cold to the touch, minutes."""
    solids, grams = solids_of(batch.parts), batch.each_g or USUAL_PIECE_G
    temp_c, before = rested(batch, solids, grams)
    place: Place = "fridge" if batch.cooling in CHILLED else "bench"
    found = minutes_to(solids, temp_c, ROOM_C + COLD_C, surroundings(place, grams))
    return likely_minutes(before + found) if found else SETTLES_MINUTES


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


def set_steps(batch: Batch) -> Iterator[Step]:
    """Yield the steps from the filled containers until all is put away."""
    if batch.route == "pour":
        yield Step(
            "cool",
            said("Let it set: {cooling_names}", cooling_names=COOLING_NAMES[batch.cooling])
            if batch.cooling not in MELTED_SO
            else said("Let it set"),
            said(
                "Keep them level and out of draughts. Leave the lids off until they are cold, or water "
                "collects under them."
            ),
            said("It is cold to the touch, and nothing moves when you tilt it."),
            minutes=_sets_in(batch),
        )
    else:
        yield Step(
            "cool",
            said("Let it firm up"),
            said("Leave the jars at room temperature, lids off, until they are as warm as the room."),
            said("The surface is dull and a spoon leaves a clean mark."),
            minutes=SETTLES_MINUTES,
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

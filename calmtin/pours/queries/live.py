"""The present readings of the devices at a pour, and the actions of a simulated stove."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime
from decimal import Decimal
from typing import Any, Literal

from django.utils.translation import gettext

from calmtin.core.materials import Material, Shelf
from calmtin.core.messages import Words, notation_in_force, said
from calmtin.core.process.off_window import wait_for
from calmtin.core.process.steps import AT_THE_SCALE
from calmtin.core.quantities import OUNCE_G
from calmtin.devices.adapters import SimulatedBench
from calmtin.devices.base import State, Warmth, Weight
from calmtin.devices.simulated import LONGEST_SKIP_S, SPEEDS, seconds_until
from calmtin.pictures.beam import Beam, scale_beam
from calmtin.pours.adapters import (
    batch_of,
    lacking_g,
    newest_grams,
    newest_marks,
    next_line,
    sheet_of,
    targets_of,
)
from calmtin.pours.models import Pour

Device = Literal["scale", "probe"]
DEVICES: tuple[Device, ...] = ("scale", "probe")
SLIP = Decimal("1.15")  # of what is to go in: the hand that slips
COMES_NEAR = Decimal("0.97")
LOGGED_EVERY_S = 300.0  # a reading that is worth keeping: it moved, or some minutes went by
LOGGED_EVERY_C = 1.5
WORTH_C = 0.3
SETS_BELOW_C = 0.5
SET_SHARE = 0.3  # of what sets in a room: a spoon stands in it


@dataclass(frozen=True)
class Switch:
    """A button of the simulated stove: its words and its action."""

    label: str
    kind: str
    value: float = 0.0
    is_on: bool = False
    is_off: bool = False


@dataclass(frozen=True)
class OnScale:
    """What the scale shows, of which line, and how much of it is still to go in, g."""

    weight: Weight
    material: Material
    position: int
    target_g: Decimal
    to_go_g: Decimal
    beam: Beam | None
    is_more: bool
    restarted: bool

    @property
    def may_take(self) -> bool:
        """Whether there is a reading to take: it stands, and something is on it."""
        return self.weight.is_steady and self.weight.grams is not None and self.weight.grams > 0

    @property
    def is_over(self) -> bool:
        """Whether it is over by more than a step."""
        return self.beam is not None and self.beam.is_over


@dataclass(frozen=True)
class Live:
    """The devices at a pour as a page shows them; `switches` in named groups."""

    pour: Pour
    of: Device
    now: datetime
    speed: float
    place: str
    warmth: Warmth
    scale_state: State
    on_scale: OnScale | None
    switches: list[tuple[str, list[Switch]]]
    advice: Words = ""

    @property
    def clock_speed(self) -> str:
        """How much faster than life its clocks run, for the page's own clock."""
        return f"{self.speed:g}"


def rehearsal_or_404(user: Any, pk: int) -> Pour:
    """Return the maker's own rehearsal with what its devices need, or 404: a page asks every second."""
    rows = Pour.every().filter(stove__isnull=False).select_related("stove", "version__formula")
    found: Pour = rows.prefetch_related(
        "lines__weigh_ins", "replans", "readings", "stove__acts"
    ).own_or_404(user, pk=pk)
    return found


def live_of(pour: Pour, shelf: Shelf, of: Device) -> Live | None:
    """Return the devices at a pour; None where readings are typed."""
    if pour.stove is None:
        return None
    bench = SimulatedBench(pour.stove)
    weight, warmth = bench.scale.read(), bench.thermometer.read()
    on_scale = _on_scale(pour, shelf, bench, weight) if of == "scale" else None
    if of == "scale":
        switches = _at_scale(bench, on_scale, weight.state)
    else:
        switches = _at_stove(bench, pour, warmth.state)
    return Live(
        pour,
        of,
        bench.now,
        bench.speed,
        bench.place,
        warmth,
        weight.state,
        on_scale,
        [*switches, (gettext("Time"), _of_time(bench))],
        _advice(pour, shelf, warmth.temp_c) if of == "probe" and not pour.is_weighing else "",
    )


def _advice(pour: Pour, shelf: Shelf, temp_c: float | None) -> Words:
    """Return what the next step of the run sheet waits for at `temp_c`, C."""
    done = {key for key, mark in newest_marks(pour).items() if mark.is_done} | {*AT_THE_SCALE}
    following = next((step for step in sheet_of(pour, batch_of(pour, shelf)) if step.key not in done), None)
    return wait_for(following, temp_c) if following is not None and temp_c is not None else ""


def _on_scale(pour: Pour, shelf: Shelf, bench: SimulatedBench, weight: Weight) -> OnScale | None:
    line = next_line(pour)
    if line is None:
        return None
    target, is_more = targets_of(pour)[line.position], newest_grams(line) is not None
    if is_more:
        target = lacking_g(pour, line, target)
    shown = weight.grams or Decimal(0)
    unit = float(OUNCE_G) if notation_in_force().scale_unit == "oz" else 1.0
    beam = None
    if weight.grams is not None:
        beam = scale_beam(float(shown), float(target), float(bench.stove.step_g), unit_g=unit)
    return OnScale(
        weight,
        shelf[line.material],
        line.position,
        target,
        target - shown,
        beam,
        is_more,
        bench.scale.restarted,
    )


def _plug(name: str, device: str, state: State) -> Switch:
    if state == "unplugged":
        return Switch(said("Plug the {name} in", name=name), f"plug_{device}")
    return Switch(said("Unplug the {name}", name=name), f"unplug_{device}")


def _at_scale(bench: SimulatedBench, on: OnScale | None, state: State) -> list[tuple[str, list[Switch]]]:
    """Return what a hand can do at the scale: pour in, spoon out, slip, pull the plug."""
    plug = _plug("scale", "scale", state)
    hand = [Switch(gettext("An empty cup"), "lift"), Switch(gettext("Tare"), "tare")]
    if on is None:
        return [(gettext("Scale"), [*hand, plug])]
    step = bench.stove.step_g
    # To the mark by what truly stands there, whatever the figure says.
    truly = max(on.target_g - bench.scale.net_g, Decimal(0))
    done = truly < step / 2
    pours = [
        Switch(gettext("Pour nearly all of it"), "put", float(truly * COMES_NEAR), is_off=done),
        Switch(gettext("Pour up to the mark"), "put", float(truly), is_off=done),
        Switch(gettext("A little more"), "put", float(step * 5)),
        Switch(gettext("One step more"), "put", float(step)),
        Switch(gettext("Take a little out"), "put", -float(step * 5)),
        Switch(gettext("Slip: pour too much"), "put", float(truly * SLIP + step * 4)),
    ]
    return [(gettext("Hand"), pours), (gettext("Scale"), [*hand, plug])]


def _at_stove(bench: SimulatedBench, pour: Pour, state: State) -> list[tuple[str, list[Switch]]]:
    held = sum((newest_grams(line) or Decimal(0) for line in pour.lines.all()), Decimal(0))
    places = [
        (gettext("Into the bath"), "bath"),
        (gettext("On the bench"), "bench"),
        (gettext("Into the fridge"), "fridge"),
    ]
    grams = float(held or pour.batch_g)
    pot = [Switch(label, kind, grams, is_on=bench.place == kind) for label, kind in places]
    return [(gettext("Pot"), pot), (gettext("Thermometer"), [_plug("thermometer", "probe", state)])]


def _of_time(bench: SimulatedBench) -> list[Switch]:
    speeds = [Switch(said("{n:g} ×", n=n), "speed", n, is_on=bench.speed == n) for n in SPEEDS]
    skips = [
        Switch(gettext("Wait 1 minute"), "skip", 60.0),
        Switch(gettext("Wait 10 minutes"), "skip", 600.0),
    ]
    forgotten = _until_it_sets_s(bench)
    if forgotten is not None:
        skips.append(Switch(gettext("Leave it until it sets"), "skip", forgotten))
    return [*speeds, *skips]


def _until_it_sets_s(bench: SimulatedBench) -> float | None:
    """Return the seconds until a melted pot that is left where it stands sets; None where it never does."""
    set_c, solids = bench.stove.set_c, bench.setup.pot
    if set_c is None or bench.place == "bath" or not is_melted(bench.pot_c, set_c):
        return None
    stands_c = solids.where(SET_SHARE * solids.at(bench.setup.room_c))
    seconds = seconds_until(bench.setup, bench.acts, bench.now_s, stands_c)
    return round(seconds) if seconds is not None and seconds <= LONGEST_SKIP_S else None


def is_melted(pot_c: float, set_c: float) -> bool:
    """Return whether a pot of `pot_c`, C, is liquid through and through."""
    return pot_c > set_c + SETS_BELOW_C


def reading_due(pour: Pour) -> float | None:
    """Return what a connected thermometer says where it is worth keeping, C; None where it is not."""
    if pour.stove is None:
        return None
    bench = SimulatedBench(pour.stove)
    temp_c = bench.thermometer.read().temp_c
    if temp_c is None:
        return None
    last = max((r for r in pour.readings.all() if r.place == "pot"), key=lambda r: r.pk, default=None)
    moved = abs(temp_c - (last.temp_c if last else bench.stove.room_c))
    is_late = last is not None and (bench.now - last.at).total_seconds() >= LOGGED_EVERY_S
    return temp_c if moved >= LOGGED_EVERY_C or (is_late and moved >= WORTH_C) else None

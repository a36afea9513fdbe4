"""Tracing a flare-up: who, what is suspected, what was tried, and what is next."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import date
from threading import Lock
from typing import Any

from cachetools import LRUCache, cached
from django.db.models import QuerySet
from django.utils import timezone

from calmtin.checks.models import PatchTest, Reaction
from calmtin.core.materials import Material, Shelf, percents_of
from calmtin.core.process.reactions import REACTED, Suspect, next_on, pat_for, still_suspected
from calmtin.pours.adapters import dry_parts
from calmtin.pours.models import Check, Pour
from calmtin.pours.queries.looks import flare_ups

MOST_MAKERS = 64


@dataclass(frozen=True)
class Tried:
    """A material on the plan: how its pat is made, and the newest result; `is_next` is tried next."""

    material: Material
    pat: str
    patch: PatchTest | None
    is_next: bool


@dataclass(frozen=True)
class ReactionView:
    """The plan to find what caused a flare-up: all that is suspected, in order, and the next day."""

    reaction: Reaction
    pour: Pour
    who: str
    tried: list[Tried]
    next_on: date
    found: list[Material]
    is_over: bool

    @property
    def next_name(self) -> str:
        """The name of what is tried next."""
        return next((one.material.in_words for one in self.tried if one.is_next), "")


def reaction_view(reaction: Reaction, shelf: Shelf) -> ReactionView:
    """Return the plan of a reaction whose patches are at hand."""
    check, pour = reaction.of, reaction.of.pour
    newest = {patch.material: patch for patch in sorted(reaction.patches.all(), key=lambda p: p.pk)}
    results = {slug: patch.result for slug, patch in newest.items()}
    left = still_suspected(reaction.suspects, results)
    found = [shelf[slug] for slug in left if results.get(slug) == REACTED]
    percents = {m.slug: percent for m, percent in percents_of(dry_parts(pour, shelf)).items()}
    carrier = _carrier(reaction, pour, shelf)
    upcoming = None if found else next((slug for slug in left if slug not in results), None)
    tried = [
        Tried(
            shelf[slug],
            str(pat_for(shelf[slug], percents.get(slug, 0.0), carrier)),
            newest.get(slug),
            slug == upcoming,
        )
        for slug in reaction.suspects
    ]
    flared_on = timezone.localdate(check.made_at)
    day = next_on(flared_on, [patch.tried_on for patch in newest.values()])
    return ReactionView(reaction, pour, check.who, tried, day, found, upcoming is None)


def _carrier(reaction: Reaction, pour: Pour, shelf: Shelf) -> Material | None:
    """Return the oil of the pour that is not suspected, of which there is most; None without one."""
    oils = [
        (grams, material.slug)
        for material, grams in dry_parts(pour, shelf)
        if material.group == "oil" and material.slug not in reaction.suspects
    ]
    return shelf[max(oils)[1]] if oils else None


def patches_to_try(user: Any, shelf: Shelf) -> list[ReactionView]:
    """Return the plans of a maker that are not at their end, the one with the earliest next day first."""
    if all(suspect.is_found for suspect in suspects_for(user).values()):
        return []
    views = [reaction_view(reaction, shelf) for reaction in traced(user)]
    return sorted((view for view in views if not view.is_over), key=lambda view: view.next_on)


def reaction_panel(check: Check) -> dict[str, Any]:
    """Return what the page of a pour says about a flare-up: the plan to trace it, once there is one."""
    return {"check": check, "reaction": Reaction.objects.filter(of=check).first()}


def suspects_in(user: Any, check: Check, shelf: Shelf) -> list[str]:
    """Return the slugs of what is suspected of a flare-up: what is new to that person, else all of it."""
    new = next((new for told, new in flare_ups(user, check.pour, shelf) if told.pk == check.pk), [])
    every = [material for material, grams in dry_parts(check.pour, shelf) if grams > 0]
    return [material.slug for material in new or every]


def traced(user: Any) -> QuerySet[Any]:
    """Return a maker's reactions with all that their plans read."""
    return Reaction.objects.of(user).select_related("of__pour__version").prefetch_related("patches")


def suspects_for(user: Any) -> Mapping[str, Suspect]:
    """Return what a maker's formulas warn of, by material; looked up once for each state of theirs."""
    return _suspects(user, user.log_state) if user.log_state else {}


@cached(LRUCache(MOST_MAKERS), key=lambda user, state: (user.pk, state), lock=Lock())
def _suspects(user: Any, state: int) -> Mapping[str, Suspect]:  # noqa: ARG001  # the state is its key
    found: dict[str, Suspect] = {}
    for reaction in traced(user):
        results = {patch.material: patch.result for patch in reaction.patches.all()}
        for slug in still_suspected(reaction.suspects, results):
            is_found = results.get(slug) == REACTED
            if slug not in found or is_found:
                found[slug] = Suspect(reaction.of.pour.code, reaction.of.who, is_found)
    return found

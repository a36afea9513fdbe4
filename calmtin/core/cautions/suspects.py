"""Cautions about what somebody's skin may have reacted to."""

from __future__ import annotations

from collections.abc import Iterator

from calmtin.core.cautions.case import Case, Caution
from calmtin.core.messages import gettext_noop, said


def suspects_rule(case: Case) -> Iterator[Caution]:
    """Name the lines that are suspected of a flare-up, or were found to have caused one."""
    for material, percent in case.lines:
        suspect = case.suspects.get(material.slug)
        if suspect is None or percent <= 0.0:
            continue
        who = suspect.who or said("you")
        if suspect.is_found:
            title = said("{who} react to {material}", who=who, material=material.in_words)
            words = said("A patch of it alone reacted, after the flare-up with {code}.", code=suspect.code)
            if suspect.who:
                title = said("{who} reacts to {material}", who=who, material=material.in_words)
        else:
            title = said("{material} is a suspect", material=material.label)
            words = said(
                "{code} caused a flare-up on {who}, and it is not known yet by which ingredient.",
                code=suspect.code,
                who=who,
            )
        yield Caution(
            "think",
            "suspect",
            material.slug,
            title,
            words,
            said("Leave it out of anything for {who}, or test it alone first.", who=who),
            gettext_noop("What caused a reaction once may cause a stronger one the next time."),
        )

"""What a maker has: own materials, lots and their ledger, containers, infusions."""

from calmtin.pantry.models import triggers as triggers
from calmtin.pantry.models.containers import OwnContainer, Vessel, own_key, own_slug
from calmtin.pantry.models.ledger import Correction, Movement, Withdrawal
from calmtin.pantry.models.lots import FIRST_TO_EXPIRE, Lot, with_left
from calmtin.pantry.models.making import USUAL_DAYS, Infusion, MakingMark, Rendering, due_date
from calmtin.pantry.models.materials import GROUP_CHOICES, Override, OwnBlend, OwnMaterial

__all__ = [
    "FIRST_TO_EXPIRE",
    "GROUP_CHOICES",
    "USUAL_DAYS",
    "Correction",
    "Infusion",
    "Lot",
    "MakingMark",
    "Movement",
    "Override",
    "OwnBlend",
    "OwnContainer",
    "OwnMaterial",
    "Rendering",
    "Vessel",
    "Withdrawal",
    "due_date",
    "own_key",
    "own_slug",
    "with_left",
]

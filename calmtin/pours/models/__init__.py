"""The facts of a pour: its plan, its weights, its day on the stove, and its checks."""

import calmtin.pours.models.triggers  # noqa: F401  # registers what the database itself refuses
from calmtin.pours.models.check import Check, CheckLeftOut, CheckPhoto, Kept
from calmtin.pours.models.pot import (
    Leftover,
    PotAddition,
    PotReading,
    PotWeight,
    Route,
    StepDone,
    StepTimer,
    Yield,
)
from calmtin.pours.models.pour import Closing, ClosingLot, Pour, PourFilling, Series
from calmtin.pours.models.weighing import FinishWeighIn, PourFinishPart, Replan, WeighIn, WeighLine

__all__ = [
    "Check",
    "CheckLeftOut",
    "CheckPhoto",
    "Closing",
    "ClosingLot",
    "FinishWeighIn",
    "Kept",
    "Leftover",
    "PotAddition",
    "PotReading",
    "PotWeight",
    "Pour",
    "PourFilling",
    "PourFinishPart",
    "Replan",
    "Route",
    "Series",
    "StepDone",
    "StepTimer",
    "WeighIn",
    "WeighLine",
    "Yield",
]

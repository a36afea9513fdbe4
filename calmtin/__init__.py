"""Calm Tin: from the formula to the labelled tin."""

__version__ = "0.3.0"

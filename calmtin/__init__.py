"""Calm Tin: from the formula to the labelled tin."""

__version__ = "1.0.2"

"""Cautions about a formula, ranked, a module per subject."""

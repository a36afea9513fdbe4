"""What must be said about a formula, ranked, by subject."""

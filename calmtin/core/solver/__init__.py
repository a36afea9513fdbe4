"""Find the formula that meets a target with the least change, or say what stops it."""

"""Find the formula that meets a target with the least change, or explain why none does."""

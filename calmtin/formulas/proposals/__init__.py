"""Proposals for a draft: calculated, signed, and applied as a whole or not at all."""

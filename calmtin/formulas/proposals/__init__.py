"""What is proposed for a draft: worked out, signed, and applied as a whole or not at all."""

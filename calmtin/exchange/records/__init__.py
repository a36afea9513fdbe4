"""Everything of a maker as one file, out of one bench and into another."""

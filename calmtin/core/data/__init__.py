"""Tables of facts, with provenance, and the typed loader that reads them."""

"""How firm a blend is: solids, the one firmness law, its bands, what carries it."""

"""After the pour: how long it keeps, what its label says and where its pieces went."""

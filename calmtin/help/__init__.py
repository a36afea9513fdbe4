"""Help: the questions makers ask, each with a picture; it knows no other app but the accounts."""

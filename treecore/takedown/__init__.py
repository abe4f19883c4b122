"""A takedown piece by piece: what each piece is, what still stands, in which order."""

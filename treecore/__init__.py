"""Cantrel's core: what a tree weighs, how it stands and how it falls. No interface code lives here."""

# Counts up whenever figures are corrected so that whoever signed a plan made on the old ones has to look again.
FIGURES = 2

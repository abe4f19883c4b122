"""Cantrel's core: what a tree weighs, how it stands and how it falls. No interface code lives here."""

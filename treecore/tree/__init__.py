"""The tree as a body: stem, crown, mass and balance."""

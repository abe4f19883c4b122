"""Template tags of every page."""

"""Learning: what was estimated against what happened."""

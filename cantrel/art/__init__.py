"""Trees drawn by habit in points of a picture: axes that curve, wood that tapers, twigs, foliage in light and dark."""

"""Rigging: gear, friction, forces, anchors, and where a piece goes."""

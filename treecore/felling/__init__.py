"""Felling: notch, hinge, balance at the stump, back cut and where the tree lands."""

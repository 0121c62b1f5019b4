"""The way of the beam: outlines, hatching, moves and the time they take."""

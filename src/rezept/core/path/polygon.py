"""A figure as a polygon of Shapely, for what is asked of areas: drawn in, overlapping."""

from __future__ import annotations

from typing import TYPE_CHECKING

from rezept.core.path.figure import Figure

if TYPE_CHECKING:
    import shapely


def polygon_of(figure: Figure) -> shapely.Geometry:
    """What lies in an odd number of a figure's loops."""
    # Shapely takes a twentieth of a second to load; only those who ask for areas wait for it.
    import shapely

    inside: shapely.Geometry = shapely.Polygon()
    for loop in figure.loops:
        # What a loop that crosses itself goes round twice is no inside of it, either.
        inside = inside.symmetric_difference(shapely.make_valid(shapely.Polygon(loop)))
    return inside

"""Which steps of a plate work the same ground, so that one look at it says what came of all of them."""

from __future__ import annotations

from rezept.core.path.figure import Figure
from rezept.core.path.polygon import polygon_of
from rezept.core.plan.plate import Plate


def _touch(one: Figure, one_fills: bool, other: Figure, other_fills: bool) -> bool:
    """Whether what two steps draw or fill lies on the same ground."""
    if one == other:
        return True
    # Shapely takes a twentieth of a second to load; only plates of several figures wait for it.
    import shapely

    def ground(figure: Figure, fills: bool) -> shapely.Geometry:
        if not fills:
            return shapely.MultiLineString(list(figure.ways))
        return polygon_of(figure)

    both = ground(one, one_fills).intersection(ground(other, other_fills))
    return bool(both.area > 0 or both.length > 0)


def read_as(plate: Plate) -> tuple[int, ...]:
    """For each step of the trial the step under which its outcome is read: the last of those that work the same ground.

    What goes through the sheet is seen by another face than what stays on it, so it is never read with that.
    """
    steps = plate.trial.steps
    figures = [plate.elements.figure_of(0, step.work.figure) for step in plate.steps[: len(steps)]]

    def together(a: int, b: int) -> bool:
        if steps[a].process.passes_through != steps[b].process.passes_through:
            return False
        return _touch(figures[a], steps[a].process.fills, figures[b], steps[b].process.fills)

    group = list(range(len(steps)))
    for later in range(len(steps)):
        for earlier in range(later):
            if group[earlier] != group[later] and together(earlier, later):
                group = [later if one in (group[earlier], group[later]) else one for one in group]
    return tuple(max(i for i, one in enumerate(group) if one == mine) for mine in group)


def works_alone(by_step: tuple[int, ...], number: int, rounds: int) -> bool:
    """Whether no other step works the ground of this one: what came of it is its own, in one round.

    by_step : for each step the one it is read as
    """
    return by_step.count(by_step[number]) == 1 and rounds == 1

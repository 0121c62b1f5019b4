"""Kept figures: what somebody brought as a drawing, under a name for the whole shop."""

from __future__ import annotations

from rezept.actions.members import Member, require
from rezept.actions.open_shop import Shop
from rezept.core.errors import InvalidInput
from rezept.core.names import clean_name
from rezept.core.path.svg import read_svg
from rezept.store import changes
from rezept.store import figures as figure_table


def keep_figure(shop: Shop, by: Member, name: str, svg: str, close_gaps_mm: float = 0.0) -> int:
    """Keep the figure of a drawing, its gaps closed as they are, under a name no other one in use has.

    Raises
    ------
    InvalidInput : the drawing holds no figure, or there is one of this name
    """
    require(by, "member", "keep figures")
    name = clean_name(name)
    brought = read_svg(svg, close_gaps_mm)
    width, height = brought.size_mm
    figure = {
        "name": name,
        # What is kept is the figure, written anew: nothing else that lay in the file.
        "svg": brought.svg(),
        "width_mm": round(width, 4),
        "height_mm": round(height, 4),
        "picture": brought.picture(),
    }
    with shop.database.writing() as db:
        there = figure_table.named(db, name)
        if there is not None:
            raise InvalidInput(
                f"{there['by_name']} keeps a figure named {there['name']} already. Choose another name, or retire that"
                " one first.",
                "name",
                name,
            )
        figure_id = figure_table.add(db, figure, by.id, shop.now())
        changes.log(db, "figure", figure_id, "kept", f"figure {name}", by.id, shop.now())
        return figure_id


def retire(shop: Shop, by: Member, figure_id: int) -> None:
    """Take a figure off the shelf; what was planned with it keeps it."""
    require(by, "member", "keep figures")
    with shop.database.writing() as db:
        figure = figure_table.figure(db, figure_id)
        figure_table.retire(db, figure_id, shop.now())
        changes.log(db, "figure", figure_id, "retired", f"figure {figure['name']}", by.id, shop.now())

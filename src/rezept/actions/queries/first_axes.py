"""Where a setting begins to vary in a trial, by what the shop knows."""

from __future__ import annotations

from rezept.actions.open_shop import Shop
from rezept.actions.queries.shop_facts import machine_of
from rezept.actions.queries.starting import start_from_book
from rezept.core.parameters import parameter
from rezept.core.plan.first_axis import first_axis
from rezept.store import equipment as equipment_table
from rezept.store import trials as trial_table
from rezept.store.rows import Row


def first_axis_of(
    shop: Shop, trial_id: int, key: str, held: float | None, along: str, pulse_width_ns: float | None
) -> Row:
    """An axis of a setting without its place, and `held`: what the book holds it at for this work, where it does not
    know that what is usual.

    Parameters
    ----------
    held : what the plan holds it at so far

    Raises
    ------
    UnknownKey : there is no such setting
    """
    row = parameter(key, "parameter")
    if held is not None:
        row.checked(held, "held")
    with shop.database.reading() as db:
        trial = trial_table.trial(db, trial_id)
        head = equipment_table.head(db, trial["head_id"])
        machine = machine_of(head)
        material = equipment_table.material(db, trial["material_id"])
        known = start_from_book(db, trial["process"], material, head).start.around.get(key, row.default)
        axis = first_axis(machine, key, known if held is None else held, along, pulse_width_ns)
        if known is None:
            known = axis["values"][0] if "values" in axis else axis["from"]
        return {**axis, "held": known}

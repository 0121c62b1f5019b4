"""Known recipes from a file, `rezept-recipes` version 1; see `docs/formats/recipes.md`."""

from __future__ import annotations

from rezept.core.begin.known import Known, Sheet
from rezept.core.errors import InvalidInput
from rezept.core.fields import Fields
from rezept.core.machine import Machine, read_machine
from rezept.core.material import Material, read_material
from rezept.core.parameters import NEVER_DEFAULTED, parameter, read_settings
from rezept.core.process import PROCESSES
from rezept.core.recipe import STANDINGS
from rezept.core.sheet_facts import THICKNESS_SAID, alike_by

FORMAT, VERSION = "rezept-recipes", 1


def sheet_of(material: Material) -> Sheet:
    """A material as far as it can be like another."""
    return Sheet(
        material.name,
        material.family,
        material.thickness_mm,
        material.density_kg_m3,
        material.hardness,
        material.ground_lab,
        alike_by(material.facts),
        material.facts.get(THICKNESS_SAID, ""),
    )


def head_title(machine: Machine) -> str:
    return f"{machine.name} {machine.head.name}".strip()


def read_recipes(document: object, process: str) -> list[tuple[int, Known]]:
    """The recipes of one process that have one step, each with its place in the file.

    Raises
    ------
    InvalidInput : with the path of the value and a sentence; recipes of other processes are read, too
    """
    fields = Fields(document)
    fields.of_format("a file of recipes", FORMAT, VERSION)
    items = fields.items("recipes")
    fields.finish()
    found = []
    for index, item in enumerate(items):
        one = Fields(item, f"recipes[{index}]")
        kind, steps, known = _recipe(index, one)
        if kind == process and steps == 1 and known.standing != "retired":
            found.append((index, known))
    return found


def _recipe(index: int, one: Fields) -> tuple[str, int, Known]:
    """A recipe's process, how many steps it has, and the first of them as what is known."""
    machine = read_machine(one.inner("machine"))
    material = read_material(one.inner("material"))
    kind = one.choice("process", tuple(PROCESSES))
    standing = one.choice("standing", STANDINGS)
    steps = [Fields(step, f"{one.path}.steps[{i}]") for i, step in enumerate(one.items("steps"))]
    one.finish()
    if not steps:
        raise InvalidInput("A recipe has a step.", one.at("steps"))
    every = []
    for step in steps:
        given = step.inner("settings")
        settings = read_settings(given)
        step.take("name", "")
        step.take("process", kind)
        step.finish()
        for key in NEVER_DEFAULTED:
            if key not in settings:
                raise InvalidInput(f"{parameter(key, key).name.capitalize()} is missing.", given.at(key))
        every.append(settings)
    known = Known(index, standing, every[0], sheet_of(material), machine, head_title(machine))
    return kind, len(steps), known

"""All there is to say of a plate before it burns, put together in one place.

What the gate would refuse today, what a program could not say, what may go wrong with single elements, and what is
about the plate as a whole.
"""

from __future__ import annotations

from rezept.core.plan import checks, gate, reach
from rezept.core.plan.by_hand import hand_note
from rezept.core.plan.distinct import distinct_warning
from rezept.core.plan.moves import moves_of
from rezept.core.plan.plate import Plate, Warning


def checked(plate: Plate) -> Plate:
    """The plate with its warnings, judged by the machine and material it was planned for."""
    trial = plate.trial
    moves = moves_of(plate)
    refusals = gate.gate(plate, gate.Today(trial.machine, trial.material), "drawing")
    of_element: list[list[Warning]] = [[] for _ in plate.elements.ids]
    for refusal in refusals:
        if refusal.element is not None:
            of_element[refusal.element].append(refusal.warning)
    # What is done in a round is judged with all rounds; their parts are warned of by the first.
    for number in range(len(plate.steps) // trial.rounds):
        by_step = plate.of_step(number) if plate.says_steps else plate
        step = by_step.judged if plate.says_steps else plate.steps[number]
        findings = checks.step_findings(by_step, step)
        names = [plate.part_name(index, number) for index in range(len(plate.elements))]
        for index, warnings in enumerate(checks.per_element(names, plate.elements.burn, findings)):
            of_element[index] += warnings
    many = [distinct_warning(plate), hand_note(plate)]
    return plate.warned(
        (
            *(refusal.warning for refusal in refusals if refusal.element is None),
            *gate.against_a_program(trial, moves),
            *checks.plate_warnings(plate),
            *reach.place_warnings(trial, moves, (plate.width_mm, plate.height_mm)),
            *(warning for warning in many if warning is not None),
        ),
        tuple(map(tuple, of_element)),
    )

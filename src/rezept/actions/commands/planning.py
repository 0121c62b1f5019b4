"""Planning: new trials, drafts and their plates."""

from __future__ import annotations

import sqlite3
from collections.abc import Mapping
from typing import Any

from rezept.actions.commands.growing import refuse_other_than_burned
from rezept.actions.commands.trial_log import log_trial
from rezept.actions.members import Member, require
from rezept.actions.open_shop import Shop
from rezept.actions.queries.as_burned import patch_of_burn, refuse_mixed, step_name, steps_together
from rezept.actions.queries.observed import Observed, observed
from rezept.actions.queries.previews import next_revision, plan_design, proven_cut
from rezept.actions.queries.shop_facts import machine_of
from rezept.actions.queries.starting import start_from_book
from rezept.actions.queries.steps import AskedStep, asked_step
from rezept.actions.typed import Units, resolved
from rezept.core.begin.board import COUPON_MM, board_processes, board_steps
from rezept.core.begin.in_steps import StepKept, Together
from rezept.core.begin.ladder import FEWEST, BegunAs, ladder_steps
from rezept.core.begin.start import Start, rounded, start_around, start_usual, usual_hold
from rezept.core.errors import InvalidInput, Refused
from rezept.core.findings.between import between
from rezept.core.findings.choices import shown
from rezept.core.machine import Machine
from rezept.core.material import NEVER_BURN
from rezept.core.names import clean_name, trial_name
from rezept.core.parameters import NEVER_DEFAULTED
from rezept.core.plan import Plate
from rezept.core.plan.chosen import STEPS
from rezept.core.plan.design import CARRIED
from rezept.core.plan.first_axis import axis_over
from rezept.core.plan.growing import begun_around_the_middle
from rezept.core.plan.listed import USUAL_WRAP
from rezept.core.plan.parts import LABEL_SETTINGS
from rezept.core.plan.step_documents import way_of
from rezept.core.plan.steps_again import in_steps
from rezept.core.plan.typed_settings import types_settings
from rezept.core.process import LINE, PROCESSES, known_process
from rezept.core.typical import typical_dose
from rezept.store import book as book_table
from rezept.store import equipment as equipment_table
from rezept.store import trials as trial_table
from rezept.store.equipment import HeadRow, MaterialRow, PieceRow
from rezept.store.rows import Row
from rezept.store.trials import FrozenRevisionRow, TrialRow


def change_draft(shop: Shop, by: Member, trial_id: int, edit: int, design: Mapping[str, Any], units: Units) -> Plate:
    """Keep a design as the trial's draft, if it can be planned; a frozen revision gets a successor."""
    require(by, "member", "plan arrays")
    plain = resolved(design, units)
    with shop.database.writing() as db:
        trial = trial_table.trial(db, trial_id)
        plate = plan_design(db, shop, trial, next_revision(trial_table.latest_number(db, trial_id)), plain)
        refuse_other_than_burned(db, trial, plain, plate)
        before = trial_table.latest_revision(db, trial_id)["design"].get("accepted_hazards") or []
        accepted = sorted(set(plain.get("accepted_hazards") or []) - set(before))
        if accepted:
            require(by, "technician", f"answer for {' and '.join(accepted)}")
            log_trial(db, shop, by, trial, f"answers for {' and '.join(accepted)} on")
        trial_table.change_draft(db, trial_id, edit, plain, by.id, shop.now())
        log_trial(db, shop, by, trial, "changed the plan of")
    return plate


def _label_settings(db: sqlite3.Connection, material: MaterialRow, head: HeadRow) -> dict[str, float] | None:
    """Speed and power for lettering, from a line mark the book knows here."""
    marks = book_table.known_recipes(db, head_id=head["id"], material_name=material["name"], process="line", lay="flat")
    for mark in marks:
        if mark["standing"] in ("proven", "tried") and len(mark["steps"]) == 1:
            settings = mark["steps"][0]["settings"]
            return {key: settings[key] for key in ("speed_mm_s", "power_pct")}
    return None


def _proposed_label_settings(machine: Machine, material: MaterialRow) -> dict[str, float]:
    """Settings for lettering where the book knows no line mark here: about what such lines usually take. An estimate,
    and marked as one; lettering stays off until somebody wants it."""
    usual = typical_dose(LINE, material["family"], material["thickness_mm"])
    if usual is None:
        return {}
    around = start_usual(machine, LINE, usual, material["family"]).around
    held = {key: value for key, value in usual_hold(machine, LINE).items() if key in LABEL_SETTINGS}
    return {key: rounded(value) for key, value in around.items()} | held


def _one_by_one(design: dict[str, Any], machine: Machine, start: Start) -> dict[str, Any]:
    """A design without lettering, of one coupon at the setting a start lies around; the others follow from it."""
    around = {key: shown(machine, key, start.around[key]) for key in NEVER_DEFAULTED}
    hold = {key: value for key, value in design["hold"].items() if key not in NEVER_DEFAULTED}
    patch = design["patch"]
    pitch = max(patch["width_mm"], patch["height_mm"]) + patch["gap_mm"]
    laid = begun_around_the_middle(machine, pitch, USUAL_WRAP) if machine.motion == "galvo" else {}
    wrap = laid.pop("wrap", USUAL_WRAP)
    return {
        **design,
        "axes": [],
        "hold": hold,
        "listed": {"settings": [around], "wrap": wrap, "burned": 0},
        "labels": {**design["labels"], "on": False},
        **laid,
    }


def _ladder(
    db: sqlite3.Connection, design: dict[str, Any], machine: Machine, start: Start, material: MaterialRow
) -> dict[str, Any]:
    """A design of one line of speeds at the power a start lies around, on the smallest piece of the shelf that holds
    it."""
    patch = design["patch"]
    typed = types_settings(machine)
    piece, room = _smallest_for(db, material["id"], patch["width_mm"] + patch["gap_mm"], FEWEST)
    steps = ladder_steps(start.speed_mm_s, typed, room)
    span = start.speed_mm_s
    axis = {"parameter": "speed_mm_s", "along": "x", **axis_over(span.start, span.end, steps, span.spacing)}
    power = shown(machine, "power_pct", start.around["power_pct"])
    laid = {} if piece is None else on_clear_ground(piece["id"])
    return {**design, "axes": [axis], "hold": {**design["hold"], "power_pct": power}, **laid}


def on_clear_ground(piece_id: int) -> dict[str, Any]:
    """What of a design lays its plate on a piece, wherever that is bare."""
    return {"piece_id": piece_id, "place": {"at": "clear", "x_mm": 0.0, "y_mm": 0.0, "turn_deg": 0.0}}


def _smallest_for(
    db: sqlite3.Connection, material_id: int, pitch_mm: float, fewest: int
) -> tuple[PieceRow | None, int | None]:
    """The smallest piece of a material on the shelf on which so many patches find room in a line, and how many do."""
    pieces = [one for one in equipment_table.pieces(db) if one["material_id"] == material_id and not one["retired"]]
    # Left of the first patch stands the axis, and the plate has an edge.
    rooms = [(one, int((one["width_mm"] - 2 * one["margin_mm"]) // pitch_mm) - 1) for one in pieces]
    fitting = [(one, room) for one, room in rooms if room >= fewest]
    if not fitting:
        return None, None
    return min(fitting, key=lambda found: found[0]["width_mm"] * found[0]["height_mm"])


def design_around(
    db: sqlite3.Connection, process: str, material: MaterialRow, head: HeadRow, start: Start
) -> tuple[dict[str, Any], str]:
    machine = machine_of(head)
    kind = PROCESSES[process]
    varied = {"speed_mm_s", "power_pct"}
    hold = {key: value for key, value in (start.centre or {}).items() if key not in varied}
    if not hold and machine.air == "on_off":
        hold["air_level"] = 1.0
    usual = usual_hold(machine, kind)
    if start.centre is not None:
        # The starting dose was counted at the spacing a trial has by itself.
        usual.pop("line_spacing_mm", None)
    hold = {**usual, **hold}
    labels = _label_settings(db, material, head)
    lettering: dict[str, Any] = {"on": labels is not None, "height_mm": 2.0, "settings": labels or {}}
    if labels is None:
        lettering |= {"settings": _proposed_label_settings(machine, material), "estimated": True}
    design: dict[str, Any] = {
        "title": "",
        "hold": hold,
        "axes": [
            {"parameter": key, "along": along, **axis_over(span.start, span.end, STEPS, span.spacing)}
            for key, along, span in (("speed_mm_s", "x", start.speed_mm_s), ("power_pct", "y", start.power_pct))
        ],
        "patch": {"shape": "rectangle", "width_mm": 10.0, "height_mm": 10.0, "gap_mm": 3.0},
        "labels": lettering,
        "order": kind.order,
        "off": [],
    }
    cut = proven_cut(db, material, head)
    if cut is not None:
        design["cut_settings"] = cut["settings"]
    if start.dose is not None:
        design[f"starting_{kind.dose_key}"] = float(f"{start.dose:.4g}")
    return design, start.reason


def _step_around(
    db: sqlite3.Connection, process: str, material: MaterialRow, head: HeadRow
) -> tuple[dict[str, Any], Start]:
    """A step of a design that begins at what is known, and what that is."""
    start = start_from_book(db, process, material, head).start
    design, _ = design_around(db, process, material, head, start)
    machine = machine_of(head)
    around = {key: shown(machine, key, start.around[key]) for key in NEVER_DEFAULTED}
    starting = {key: value for key, value in design.items() if key.startswith("starting_")}
    return {"process": process, "hold": {**around, **design["hold"]}, **starting}, start


def first_step(shop: Shop, trial_id: int, process: str) -> dict[str, Any]:
    """What one more step of a trial begins with: what it holds, and why."""
    known_process(process)
    with shop.database.reading() as db:
        trial = trial_table.trial(db, trial_id)
        head = equipment_table.head(db, trial["head_id"])
        step, start = _step_around(db, process, equipment_table.material(db, trial["material_id"]), head)
        return {"step": {**step, "name": PROCESSES[process].name.lower()}, "reason": start.reason}


def _board(db: sqlite3.Connection, design: dict[str, Any], process: str, material: MaterialRow, head: HeadRow) -> Row:
    """A design of a starter board, all else as it was."""
    steps, speeds = {}, {}
    for key in board_processes(material["processes"], process):
        steps[key], start = _step_around(db, key, material, head)
        del steps[key]["hold"]["speed_mm_s"]
        span = start.speed_mm_s
        speeds[key] = axis_over(span.start, span.end, STEPS, span.spacing)
    ordered, axes = board_steps(steps, speeds)
    plain = {key: value for key, value in design.items() if not key.startswith("starting_")}
    patch = {**plain["patch"], "width_mm": COUPON_MM, "height_mm": COUPON_MM}
    return {**plain, "hold": {}, "steps": ordered, "axes": axes, "patch": patch}


def refuse_never_burn(by: Member, material: MaterialRow, head: HeadRow) -> None:
    """Nothing is planned for what poisons people, but by technicians, who must then answer for it on the plan; and
    nothing with what is no longer here."""
    for hazard in material["hazards"]:
        if hazard in NEVER_BURN and not by.may("technician"):
            raise Refused(f"{material['title']} {NEVER_BURN[hazard]}. It is never burned here.", "material", hazard)
    for row in (material, head):
        if row["retired"]:
            raise Refused(f"{row['title']} is retired; take it back in the Shop first.", "retired")


def new_trial(shop: Shop, by: Member, process: str, material_id: int, head_id: int, begun_as: BegunAs = "array") -> int:
    """Begin a trial around what is known; returns its id.

    begun_as : an array of speed and power, a short ladder of speeds, coupons that are burned one by one, from the
        setting it lies around, or a starter board of all the sheet is meant for
    """
    require(by, "member", "plan arrays")
    known_process(process)
    with shop.database.writing() as db:
        material, head = equipment_table.material(db, material_id), equipment_table.head(db, head_id)
        if process not in material["processes"]:
            raise InvalidInput(
                f"{material['title']} is not meant for this: {PROCESSES[process].name.lower()}.", "process", process
            )
        refuse_never_burn(by, material, head)
        begin = start_from_book(db, process, material, head, in_steps=begun_as == "array")
        start = begin.start
        design, reason = design_around(db, process, material, head, start)
        if begin.together is not None:
            design = begin.together.in_design(design)
        elif begun_as == "coupons":
            design = _one_by_one(design, machine_of(head), start)
        elif begun_as == "board":
            design = _board(db, design, process, material, head)
        elif begun_as == "ladder":
            design = _ladder(db, design, machine_of(head), start, material)
        trial_id = trial_table.add_trial(db, process, head_id, material_id, reason, design, by.id, shop.now())
        trial = trial_table.trial(db, trial_id)
        log_trial(db, shop, by, trial, "began")
        if "piece_id" in design and not fits_piece(db, shop, trial, design):
            # What was burned on it before left too little: the ladder is planned without it.
            free = {key: value for key, value in design.items() if key not in ("piece_id", "place")}
            trial_table.change_draft(db, trial_id, trial["edit"], free, by.id, shop.now())
        return trial_id


def fits_piece(db: sqlite3.Connection, shop: Shop, trial: TrialRow, design: Mapping[str, Any]) -> bool:
    """Whether a new trial finds a place on the piece it names."""
    try:
        plan_design(db, shop, trial, 1, design)
    except InvalidInput:
        return False
    return True


def shelve(shop: Shop, by: Member, trial_id: int, name: str | None, put_away: bool | None) -> None:
    """Say what a trial is called, or put it away and take it out again; what is None stays as it is."""
    require(by, "member", "plan arrays")
    if name is not None:
        name = clean_name(name) if name.strip() else ""
    with shop.database.writing() as db:
        trial = trial_table.trial(db, trial_id)
        away = trial["put_away_at"]
        if put_away is not None and put_away != (away is not None):
            away = shop.now() if put_away else None
            log_trial(db, shop, by, trial, "put away" if put_away else "took out again")
        if name is not None and name != trial["name"]:
            log_trial(db, shop, by, trial, f"named {name or 'no longer'}:")
        trial_table.shelve(db, trial_id, trial["name"] if name is None else name, away)


def trial_around(shop: Shop, by: Member, burn_id: int, patch: str, step: int | None = None) -> int:
    """Begin a trial around the settings a burned patch got; returns its id. `step` as in `observed`.

    Raises
    ------
    InvalidInput : there is no such patch; Refused : no single setting says what it got
    """
    require(by, "member", "plan arrays")
    with shop.database.writing() as db:
        frozen, planned = patch_of_burn(db, burn_id, patch, step)
        refuse_mixed(planned)
        material = equipment_table.material(db, frozen["material_id"])
        head = equipment_table.head(db, frozen["head_id"])
        refuse_never_burn(by, material, head)
        asked = asked_step(db, burn_id, step)
        kind = asked.process
        reason = f"Around {patch} of {trial_name(frozen['trial_number'])}."
        start = start_around(machine_of(head), kind, planned["settings"], reason)
        design, _ = design_around(db, kind.key, material, head, start)
        design = _burned_together(db, burn_id, frozen, planned, asked).in_design(design)
        trial_id = trial_table.add_trial(
            db, kind.key, frozen["head_id"], frozen["material_id"], reason, design, by.id, shop.now()
        )
        log_trial(db, shop, by, trial_table.trial(db, trial_id), "began")
        return trial_id


def _burned_together(
    db: sqlite3.Connection, burn_id: int, frozen: FrozenRevisionRow, patch: Row, asked: AskedStep
) -> Together:
    """What made a burned patch what it is, the step that is asked about among it."""
    burned = steps_together(db, burn_id, frozen, patch, asked)
    for step in burned:
        refuse_mixed(step.got)
    steps = [
        StepKept(step_name(frozen, step), step.said["process"], step.got["settings"], way_of(step.said))
        for step in burned
    ]
    rounds = frozen["plate"]["trial"].get("rounds", 1)
    return Together(steps, rounds, [step.number for step in burned].index(asked.number))


def next_trial(shop: Shop, by: Member, burn_id: int, document: Any, step: int | None = None) -> int:
    """Begin the array that settles what the plates of a burn leave open; returns the new trial's id. `step` as in
    `observed`.

    document : what somebody wishes (`actions.queries.finding.read_wish`)

    Raises
    ------
    Refused : none is worth its wood, or nothing is known yet
    """
    # Models load much of SciPy; only those who decide wait for it.
    from rezept.actions.queries.finding import find, read_wish

    require(by, "member", "plan arrays")
    wish, wanted = read_wish(document)
    with shop.database.writing() as db:
        found = find(db, burn_id, wish, wanted, step)
        following = found.decision.next
        if following is None or not following.is_any:
            why = found.decision.questions[0] if following is None else following.why
            raise Refused(why, "burn")
        reason = f"After {', '.join(found.plates.values())}. {following.why}"
        axes, hold, listed = following.in_trial()
        if listed is not None and not found.burn.step.only and not found.burn.step.alone:
            raise Refused(
                "What would settle it are single settings, and those are burned in one step. Plan an array of the steps"
                " by hand.",
                "burn",
            )
        return _series(db, shop, by, found.burn, axes, hold, None, reason, listed)


def finer_trial(shop: Shop, by: Member, burn_id: int, failed: str, worked: str, step: int | None = None) -> int:
    """Begin the finer array between a patch that failed and one that worked; returns the new trial's id. `step` as in
    `observed`."""
    require(by, "member", "plan arrays")
    with shop.database.writing() as db:
        known = observed(db, burn_id, step=step)
        plate, seen = known.plate, known.seen
        axes, hold = between(plate, failed, worked, seen)
        dose = float(plate.judged.dose[plate.elements.ids.index(worked)])
        name = trial_name(trial_table.trial(db, known.burn["trial_id"])["number"])
        reason = f"Between {failed} of {name}, which did not come out, and {worked}, which did."
        return _series(db, shop, by, known, axes, hold, dose, reason)


def _series(
    db: sqlite3.Connection,
    shop: Shop,
    by: Member,
    before: Observed,
    axes: list[dict[str, Any]],
    hold: Mapping[str, float],
    dose: float | None,
    reason: str,
    listed: Mapping[str, Any] | None = None,
) -> int:
    """Begin the next trial of a series: another array, all else as it was carried on.

    dose : what the series starts from now, where that is known; listed : settings one by one, in place of axes
    """
    trial = trial_table.trial(db, before.burn["trial_id"])
    material = equipment_table.material(db, trial["material_id"])
    head = equipment_table.head(db, trial["head_id"])
    refuse_never_burn(by, material, head)
    document = before.plate.trial.document()
    process = before.step.process
    design: dict[str, Any] = {
        "title": "",
        "hold": dict(hold),
        "axes": axes,
        **({} if listed is None else {"listed": dict(listed)}),
        **{key: document[key] for key in CARRIED},
        "off": [],
    }
    starting = {} if dose is None else {f"starting_{process.dose_key}": float(f"{dose:.4g}")}
    if before.step.alone and before.plate.trial.step.is_plain:
        design |= starting
    else:
        # What other steps do to its ground goes on beside it.
        design |= in_steps(before.plate.trial, axes, hold, starting)
    trial_id = trial_table.add_trial(
        db, process.key, trial["head_id"], trial["material_id"], reason, design, by.id, shop.now()
    )
    log_trial(db, shop, by, trial_table.trial(db, trial_id), "began")
    return trial_id

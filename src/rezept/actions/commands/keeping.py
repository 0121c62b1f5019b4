"""Keeping a patch as a recipe, writing down what was heard, and changing what the book says."""

from __future__ import annotations

import math
import sqlite3
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any, NamedTuple
from urllib.parse import urlsplit

from rezept.actions.commands.joining import join_proofs
from rezept.actions.commands.recipe_log import log_recipe
from rezept.actions.commands.trial_log import log_trial
from rezept.actions.members import Member, NotAllowed, require
from rezept.actions.open_shop import Shop
from rezept.actions.queries.as_burned import patch_of_burn, refuse_mixed, step_name, steps_together
from rezept.actions.queries.observed import measured
from rezept.actions.queries.proofs import burned_crowded, simple_only
from rezept.actions.queries.shop_facts import machine_of
from rezept.actions.queries.steps import AskedStep, asked_step
from rezept.actions.typed import Units, read_length, resolved
from rezept.core.errors import InvalidInput, Refused
from rezept.core.fields import Fields
from rezept.core.findings.proof import SIMPLE_ONLY
from rezept.core.parameters import NEVER_DEFAULTED, parameter, unfit_reason
from rezept.core.plan.holding import why_not
from rezept.core.plan.step_documents import way_of
from rezept.core.process import PROCESSES, Process, known_process
from rezept.core.recipe import (
    BY_TECHNICIANS,
    FAILED_BECAUSE,
    KEPT_AS,
    STANDINGS,
    WITHOUT_PLATE,
    FailedBecause,
    StandingKey,
    may_say,
    reason_fits,
    standing_after,
)
from rezept.core.scales import SCALES, mark_of
from rezept.store import book as book_table
from rezept.store import burns as burn_table
from rezept.store import changes
from rezept.store import confirmations as confirmation_table
from rezept.store import equipment as equipment_table
from rezept.store import failed as failed_table
from rezept.store import findings as finding_table
from rezept.store import readings as reading_table
from rezept.store import trials as trial_table
from rezept.store.book import Evidence, RecipeRow
from rezept.store.equipment import HeadRow
from rezept.store.errors import Stale
from rezept.store.rows import AnyRow, Row
from rezept.store.trials import FrozenRevisionRow

MOST_LINKS = 20


def _ask_leave(by: Member, before: str, after: str) -> None:
    """Raise `NotAllowed` unless the member may say that a recipe is no longer `before` but `after`."""
    if may_say(before, after, by.may("technician")):
        return
    if after not in BY_TECHNICIANS:
        require(by, "technician", f"take back that it is {before}")
    raise NotAllowed(
        f"Only technicians mark a recipe as {after}; {by.name} is here as {by.role}.", "technician", "standing"
    )


def _links(fields: Fields) -> list[dict[str, str]]:
    """Links as title and address; only addresses a browser may safely follow."""
    links = []
    for i, item in enumerate(fields.items("links", [])):
        one = Fields(item, f"links[{i}]")
        url = one.text("url", longest=500).strip()
        if any(letter.isspace() or ord(letter) < 32 for letter in url):
            raise InvalidInput("A link is one word without spaces or line breaks.", f"links[{i}].url", url)
        parts = urlsplit(url)
        if parts.scheme not in ("http", "https") or not parts.netloc:
            raise InvalidInput("A link begins with http:// or https://.", f"links[{i}].url", url)
        links.append({"title": one.text("title", "", longest=120).strip(), "url": url})
        one.finish()
    if len(links) > MOST_LINKS:
        raise InvalidInput(f"A recipe has at most {MOST_LINKS} links.", "links", len(links))
    return links


def _words(fields: Fields) -> Row:
    """What the book says of a recipe in words; only what was given."""
    given: Row = {}
    for key, longest in (
        ("purpose", 80),
        ("note", 8000),
        ("conditions", 2000),
        ("supplier_code", 120),
        ("pinned", 160),
        ("good_enough", 80),
    ):
        if key in fields.data:
            given[key] = fields.text(key, longest=longest).strip()
    if "links" in fields.data:
        given["links"] = _links(fields)
    return given


def _kerf(typed: object) -> float | None:
    """How wide a cut is, as somebody typed it; None where it is not known any more."""
    kerf = read_length(typed, "kerf_mm", "The kerf")
    return None if kerf is None else SCALES["kerf_mm"].checked(kerf, "kerf_mm")


def _kerf_read(db: sqlite3.Connection, read: _Patch) -> float | None:
    """How wide the cut of a patch is by whoever measured it, or by its photo."""
    if not read.process.passes_through:
        return None
    seen = measured(db, read.burn_id, read.step.number + 1).seen
    kerf = float(seen.others["kerf_mm"][seen.element.index(read.planned["id"])])
    return None if math.isnan(kerf) else round(kerf, 3)


@dataclass(frozen=True)
class _Patch:
    """A burned and read patch: its revision, its document as it was burned, and how it came out by one of its steps."""

    frozen: FrozenRevisionRow
    planned: Row
    step: AskedStep
    outcome: float
    burn_id: int
    turned: float | None

    @property
    def process(self) -> Process:
        return self.step.process

    @property
    def place(self) -> Row:
        """What it is kept under."""
        return {
            "head_id": self.frozen["head_id"],
            "material_id": self.frozen["material_id"],
            "process": self.process.key,
        }

    @property
    def evidence(self) -> Evidence:
        return Evidence(self.burn_id, self.planned["id"], self.step.read_as)


def _read_patch(db: sqlite3.Connection, burn_id: int, patch: str, step: int | None) -> _Patch:
    """
    Raises
    ------
    Refused : it says nothing of one setting, because it stayed bare, was burned at several or is not read
    """
    frozen, planned = patch_of_burn(db, burn_id, patch, step)
    asked = asked_step(db, burn_id, step)
    process = asked.process
    if patch in burn_table.patches_not_burned(db, burn_id):
        raise Refused(f"{patch} was not burned, so there is nothing to keep.", "patch", patch)
    refuse_mixed(planned)
    reading = reading_table.reading(db, burn_id, patch, process.deciding_face, step=asked.read_as)
    if reading is None or process.outcome not in reading["values"]:
        raise Refused(f"{patch} has not been read yet. Score it first.", "patch", patch)
    return _Patch(frozen, planned, asked, reading["values"][process.outcome], burn_id, reading["values"].get("turned"))


def _steps_kept(db: sqlite3.Connection, read: _Patch, head: HeadRow) -> list[Row]:
    """The steps that made a patch what it is, as a recipe keeps them."""
    patch, kept = read.planned["id"], []
    for step in steps_together(db, read.burn_id, read.frozen, read.planned, read.step):
        refuse_mixed(step.got)
        process = step.said["process"]
        settings = _that_can_be(step.got["settings"], process, head, patch)
        name = step_name(read.frozen, step)
        kept.append({"name": name, "process": process, "settings": settings, "way": way_of(step.said)})
    return kept


def keep_recipe(shop: Shop, by: Member, burn_id: int, patch: str, document: Any, step: int | None = None) -> int:
    """Keep the settings of a burned and read patch; no number is typed again. Returns the recipe's id.

    step : which of several steps, from 1, with all that work its ground; None: what the trial set out to do
    """
    require(by, "member", "keep recipes")
    fields = Fields(document)
    standing = fields.choice("standing", KEPT_AS, KEPT_AS[0])
    words = {"purpose": "", "note": "", **_words(fields)}
    fields.finish()
    _ask_leave(by, standing, standing)
    with shop.database.writing() as db:
        read = _read_patch(db, burn_id, patch, step)
        scale = SCALES[read.process.outcome]
        if scale.failed(read.outcome):
            usual = equipment_table.material(db, read.frozen["material_id"])["mark"]
            came = scale.word(read.outcome, mark_of(read.turned, usual))
            raise Refused(
                f"{patch} came out {came}: no setting to work by. It can be kept as what failed.", "patch", patch
            )
        if _kept_as_failed(db, read):
            raise Refused(f"{patch} is kept as what failed; take that back first.", "patch", patch)
        for kept in book_table.kept_from(db, burn_id, patch, read.step.read_as):
            if kept["purpose"] == words["purpose"] and kept["standing"] != "retired":
                raise Refused(f"{patch} is in the book already.", "patch", patch)
        if not words.get("good_enough") and burned_crowded(db, burn_id, patch, step):
            words["good_enough"] = SIMPLE_ONLY
        treatment = burn_table.burn(db, burn_id)["treatment"]
        rounds = read.frozen["plate"]["trial"].get("rounds", 1)
        recipe = {**words, **read.place, "standing": standing, "treatment": treatment, "rounds": rounds}
        recipe["kerf_mm"] = _kerf_read(db, read)
        steps = _steps_kept(db, read, equipment_table.head(db, read.frozen["head_id"]))
        return _added(db, shop, by, recipe, steps, [read.evidence], "kept")


def _kept_as_failed(db: sqlite3.Connection, read: _Patch) -> bool:
    failed = failed_table.failed_settings(db, burn_id=read.burn_id)
    return any((one["patch"], one["step"]) == (read.planned["id"], read.step.read_as) for one in failed)


class KeptCandidate(NamedTuple):
    """A recipe's id, and how it stands by now."""

    recipe_id: int
    standing: StandingKey


def keep_candidate(
    shop: Shop, by: Member, burn_id: int, aim: str, wish: Any, document: Any, step: int | None = None
) -> KeptCandidate:
    """Keep what was chosen from the plates of a burn: an estimate that rests on them, until it has held or a patch was
    burned with it, as a real shape may have been already. No number is typed: it is chosen again here. `step` as in
    `keep_recipe`.

    Raises
    ------
    Refused : by what is known now there is no such choice
    """
    # Models load much of SciPy; only those who decide wait for it.
    from rezept.actions.queries.finding import find, read_wish

    require(by, "member", "keep recipes")
    fields = Fields(document)
    words = {"purpose": "", "note": "", **_words(fields)}
    fields.finish()
    kept_to, wanted = read_wish(wish)
    with shop.database.writing() as db:
        found = find(db, burn_id, kept_to, wanted, step)
        asked = found.burn.step
        if not asked.alone:
            raise Refused(
                "What several steps did together is kept from a patch of theirs, and not chosen for one of them.", "aim"
            )
        chosen = found.candidate(aim)
        if chosen is None:
            raise Refused("By what is known now nothing can be chosen for this.", "aim", aim)
        trial = trial_table.trial(db, found.burn.burn["trial_id"])
        place = {"head_id": trial["head_id"], "material_id": trial["material_id"], "process": asked.process.key}
        head = equipment_table.head(db, trial["head_id"])
        settings = _that_can_be(chosen.settings, asked.process.key, head, "It")
        for kept in book_table.recipes_of_burn(db, burn_id):
            chosen_before = kept["standing"] != "retired" and kept["finding_id"] is not None
            if chosen_before and kept["steps"][0]["settings"] == settings:
                raise Refused("This is in the book already.", "aim", aim)
        finding = {
            **place,
            "aim": aim,
            "wish": wish,
            "settings": settings,
            "predicted": chosen.predicted.document(),
            "model": found.decision.model,
        }
        finding_id = finding_table.add(db, finding, found.plates, by.id, shop.now())
        chosen_step = {"name": asked.process.name, "process": asked.process.key, "settings": settings}
        treatment = found.burn.burn["treatment"]
        if not words.get("good_enough") and simple_only(db, burn_id, settings):
            words["good_enough"] = SIMPLE_ONLY
        recipe = {**words, **place, "standing": "estimate", "finding_id": finding_id, "treatment": treatment}
        evidence = [Evidence(burn, None) for burn in found.plates]
        recipe_id = _added(db, shop, by, recipe, [chosen_step], evidence, "kept")
        join_proofs(db, shop, burn_id)
        return KeptCandidate(recipe_id, book_table.recipe(db, recipe_id)["standing"])


def keep_failed(shop: Shop, by: Member, burn_id: int, patch: str, note: str = "", step: int | None = None) -> int:
    """Keep what a patch got as what failed: seen under its material, never an answer. Returns its id; `step` as in
    `keep_recipe`."""
    require(by, "member", "keep what failed")
    note = Fields({"note": note}).text("note", longest=1000).strip()
    with shop.database.writing() as db:
        read = _read_patch(db, burn_id, patch, step)
        if _kept_as_failed(db, read):
            raise Refused(f"{patch} is kept as what failed already.", "patch", patch)
        kept = book_table.kept_from(db, burn_id, patch, read.step.read_as)
        if any(one["standing"] != "retired" for one in kept):
            raise Refused(f"{patch} is in the book as a recipe; retire that first.", "patch", patch)
        failed = {**read.place, **read.evidence._asdict(), "settings": read.planned["settings"], "note": note}
        log_trial(db, shop, by, trial_table.trial(db, read.frozen["trial_id"]), f"kept {patch} as what failed on")
        return failed_table.add(db, failed, by.id, shop.now())


def take_back_failed(shop: Shop, by: Member, failed_id: int) -> None:
    """Take back that a setting failed: one's own, or as technician anybody's."""
    require(by, "member", "keep what failed")
    with shop.database.writing() as db:
        failed = failed_table.one(db, failed_id)
        if failed["by_member"] != by.id:
            require(by, "technician", "take back what others kept")
        if failed["taken_back_at"] is not None:
            raise Stale("this", failed, {"taken_back": True})
        failed_table.take_back(db, failed_id, shop.now())
        log_trial(db, shop, by, trial_table.trial(db, failed["trial_id"]), "took back what failed on")


def _added(
    db: sqlite3.Connection,
    shop: Shop,
    by: Member,
    recipe: AnyRow,
    steps: Sequence[AnyRow],
    evidence: list[Evidence],
    verb: str,
) -> int:
    recipe_id = book_table.add_recipe(db, recipe, steps, evidence, by.id, shop.now())
    log_recipe(db, shop, by.id, {**recipe, "id": recipe_id}, verb)
    return recipe_id


def _that_can_be(settings: Mapping[str, float], process: str, head: HeadRow, patch: str) -> dict[str, float]:
    """The settings a patch really got, each one that a recipe can have.

    Raises
    ------
    Refused : corrections or passes in place added up to what no program could be given again
    """
    machine = machine_of(head)
    for key, value in settings.items():
        row = parameter(key, f"settings.{key}")
        try:
            row.checked(value, row.key)
        except InvalidInput as error:
            raise Refused(
                f"{patch} got what no plan could ask for again: {error.sentence} It can be noted, but not kept.",
                f"settings.{key}",
                value,
                error.limit,
            ) from error
        reason = why_not(row, value, machine, process)
        if reason is not None:
            raise Refused(f"{patch}: {reason} It can be noted, but not kept.", f"settings.{key}", value)
    if settings["power_pct"] > machine.max_power_pct:
        raise Refused(
            f"{patch} got {settings['power_pct']:.4g} %, and {machine.name} should give {machine.max_power_pct:g} % at"
            " most. It can be noted, but not kept.",
            "settings.power_pct",
            settings["power_pct"],
            machine.max_power_pct,
        )
    return dict(settings)


def _heard_settings(settings: Mapping[str, Any], units: Units, process: str, head: HeadRow) -> dict[str, float]:
    """Typed settings of somebody else's recipe, each one that this machine has for this process."""
    typed = {key: value for key, value in settings.items() if not (isinstance(value, str) and not value.strip())}
    plain = resolved({"hold": typed}, units)["hold"]
    machine = machine_of(head)
    checked = {}
    for key in plain:
        path = f"settings.{key}"
        row = parameter(key, path)
        reason = unfit_reason(row, machine.source, machine.motion, process, machine.name)
        if reason is not None:
            raise InvalidInput(reason, path, plain[key])
        checked[key] = row.checked(plain[key], path)
    for key in NEVER_DEFAULTED:
        if key not in checked:
            raise InvalidInput(f"{parameter(key, key).name.capitalize()} is missing.", f"settings.{key}")
    return checked


def write_down(shop: Shop, by: Member, document: Mapping[str, Any], settings: Mapping[str, Any], units: Units) -> int:
    """Write down a recipe that no plate of this shop stands behind: heard of, or estimated."""
    require(by, "member", "keep recipes")
    fields = Fields(document)
    process = fields.choice("process", tuple(PROCESSES))
    standing = fields.choice("standing", tuple(WITHOUT_PLATE), "heard")
    head_id, material_id = fields.whole("head", at_least=1), fields.whole("material", at_least=1)
    words = {"purpose": "", "note": "", **_words(fields)}
    fields.finish()
    with shop.database.writing() as db:
        head = equipment_table.head(db, head_id)
        equipment_table.material(db, material_id)
        step = {
            "name": PROCESSES[process].name,
            "process": process,
            "settings": _heard_settings(settings, units, process, head),
        }
        recipe = {
            **words,
            "head_id": head_id,
            "material_id": material_id,
            "process": process,
            "standing": standing,
        }
        return _added(db, shop, by, recipe, [step], [], "wrote down")


def _superseded_by(db: sqlite3.Connection, recipe: RecipeRow, other_id: int | None) -> int | None:
    """The recipe that takes this one's place: of the same process, material and head, and not in a circle."""
    if other_id is None:
        return None
    other = book_table.recipe(db, other_id)
    for key in ("process", "material_id", "head_id"):
        if other[key] != recipe[key]:
            raise InvalidInput("Only a recipe for the same thing can take its place.", "superseded_by", other_id)
    seen: RecipeRow | None = other
    while seen is not None:
        if seen["id"] == recipe["id"]:
            raise InvalidInput("A recipe cannot take its own place.", "superseded_by", other_id)
        seen = None if seen["superseded_by"] is None else book_table.recipe(db, seen["superseded_by"])
    return other_id


def change_recipe(shop: Shop, by: Member, recipe_id: int, edit: int, document: Any) -> RecipeRow:
    """Change what the book says of a recipe, made from its version `edit`."""
    require(by, "member", "change recipes")
    fields = Fields(document)
    change = _words(fields)
    if "standing" in fields.data:
        change["standing"] = fields.choice("standing", STANDINGS)
    if "kerf_mm" in fields.data:
        change["kerf_mm"] = _kerf(fields.take("kerf_mm"))
    other_id = fields.whole("superseded_by", None, at_least=1) if "superseded_by" in fields.data else None
    fields.finish()
    if not document:
        raise InvalidInput("Nothing to change was named.", "")
    with shop.database.writing() as db:
        before = book_table.recipe(db, recipe_id)
        if "superseded_by" in fields.data:
            change["superseded_by"] = _superseded_by(db, before, other_id)
        return _changed(db, shop, by, before, edit, change, "changed")


def _changed(
    db: sqlite3.Connection, shop: Shop, by: Member, before: RecipeRow, edit: int, change: AnyRow, verb: str
) -> RecipeRow:
    standing = str(change.get("standing", before["standing"]))
    if standing != before["standing"]:
        _ask_leave(by, before["standing"], standing)
        if standing in WITHOUT_PLATE and before["burn_id"] is not None:
            raise InvalidInput(f"A plate stands behind this recipe; it is not {standing}.", "standing", standing)
        verb = f"marked as {standing}:"
    after = book_table.change_recipe(db, before["id"], edit, change, by.id, shop.now())
    log_recipe(db, shop, by.id, after, verb)
    return after


def restore(shop: Shop, by: Member, recipe_id: int, edit: int, version: int) -> RecipeRow:
    """Let the book say again what it said after edit `version`, as a new edit."""
    require(by, "member", "change recipes")
    with shop.database.writing() as db:
        before = book_table.recipe(db, recipe_id)
        old = book_table.version(db, recipe_id, version)
        change = {key: old[key] for key in book_table.CHANGEABLE if key in old}
        if change.get("superseded_by") is not None:
            change["superseded_by"] = _superseded_by(db, before, change["superseded_by"])
        return _changed(db, shop, by, before, edit, change, "put back")


def confirm(
    shop: Shop, by: Member, recipe_id: int, held: bool, note: str = "", reason: FailedBecause | None = None
) -> int:
    """One tap at the machine: it held, or it did not, and why. The standing rules may change its standing.

    Returns the confirmation's id, with which it can be taken back.
    """
    require(by, "member", "confirm recipes")
    note = Fields({"note": note}).text("note", longest=1000).strip()
    if held and reason is not None:
        raise InvalidInput("What held needs no reason.", "reason", reason)
    with shop.database.writing() as db:
        recipe = book_table.recipe(db, recipe_id)
        if recipe["standing"] == "retired":
            raise Refused("This recipe is retired; take it back into use first.", "standing")
        if reason is not None and not reason_fits(reason, PROCESSES[recipe["process"]]):
            raise InvalidInput(f"{FAILED_BECAUSE[reason].capitalize()} is not said of this.", "reason", reason)
        so_far = [one["held"] for one in confirmation_table.of_recipe(db, recipe_id)]
        after = standing_after(recipe["standing"], [*so_far, held])
        changed = after != recipe["standing"]
        changed_from = (recipe["standing"], recipe["edit"] + 1) if changed else None
        confirmation_id = confirmation_table.add(db, recipe_id, held, note, reason, changed_from, by.id, shop.now())
        if changed:
            book_table.change_recipe(db, recipe_id, recipe["edit"], {"standing": after}, by.id, shop.now())
        log_recipe(db, shop, by.id, recipe, "confirmed" if held else "saw fail")
        return confirmation_id


def take_back_confirmation(shop: Shop, by: Member, confirmation_id: int) -> int:
    """Undo a tap: one's own, or as technician anybody's; returns the recipe's id.

    Where the tap had changed the standing, and nobody changed the recipe since, that goes back, too.
    """
    with shop.database.writing() as db:
        line = confirmation_table.confirmation(db, confirmation_id)
        if line["by_member"] != by.id:
            require(by, "technician", "take back what others said")
        recipe = book_table.recipe(db, line["recipe_id"])
        if line["taken_back_at"] is not None:
            raise Stale("this", line, {"taken_back": True})
        confirmation_table.take_back(db, confirmation_id, shop.now())
        if line["edit_after"] == recipe["edit"]:
            back = {"standing": line["standing_before"]}
            book_table.change_recipe(db, recipe["id"], recipe["edit"], back, by.id, shop.now())
        log_recipe(db, shop, by.id, recipe, "took back a remark on")
        return int(recipe["id"])


def say_not_working(shop: Shop, by: Member, process: str, material_id: int, head_id: int, reason: str | None) -> None:
    """Note on the map that something does not work at all and why, or with None that it is open again."""
    require(by, "technician", "say what does not work")
    known_process(process)
    if reason is not None:
        reason = Fields({"reason": reason}).text("reason", longest=300, empty=False).strip()
    with shop.database.writing() as db:
        material, head = equipment_table.material(db, material_id), equipment_table.head(db, head_id)
        book_table.say_not_working(db, material_id, head_id, process, reason, by.id, shop.now())
        what = f"{PROCESSES[process].name.lower()} {material['title']} on {head['title']}"
        verb = "opened again:" if reason is None else "said it does not work:"
        changes.log(db, "shop", 1, verb, what, by.id, shop.now())

"""Getting the files of a plate, in the shop and from the command line."""

from __future__ import annotations

import os
import tempfile
from collections.abc import Mapping
from pathlib import Path

from rezept.actions.commands.trial_log import log_trial
from rezept.actions.members import Member, require
from rezept.actions.open_shop import Shop
from rezept.actions.queries.files import target_named
from rezept.actions.queries.frozen import frozen_plate
from rezept.actions.queries.previews import plan_design
from rezept.actions.queries.today import today_of
from rezept.core.errors import NotFound, RezeptError
from rezept.core.names import slug, trial_name
from rezept.core.plan import Plate
from rezept.core.plan.elements import line_total
from rezept.core.plan.gate import Today, gate, refuse
from rezept.core.plan.together import read_as, works_alone
from rezept.formats.targets import (
    Target,
    check_target,
    numbered_suffix,
    parts_of,
    refuse_unresolved,
)
from rezept.store import trials as trial_table
from rezept.store.errors import NotSaved, Stale
from rezept.store.rows import Row
from rezept.store.trials import RevisionStep


class CannotWrite(RezeptError):
    """A file could not be written; none was."""


def freeze_latest(shop: Shop, by: Member, trial_id: int, edit: int) -> int:
    """Fix the latest design for good, so that files and burns can refer to it; returns the revision number.

    Raises
    ------
    Stale : the design is not the one the caller has seen
    Refused : the plate has an unresolved refusal
    """
    require(by, "member", "get files and burn")
    with shop.database.writing() as db:
        trial = trial_table.trial(db, trial_id)
        latest = trial_table.latest_revision(db, trial_id)
        if trial["edit"] != edit:
            raise Stale(trial_name(trial["number"]), {**trial, "design": latest["design"]}, {"edit": edit})
        if latest["frozen_at"] is None:
            plate = plan_design(db, shop, trial, latest["number"], latest["design"])
            refuse_unresolved(plate)
            refuse(gate(plate, today_of(db, trial), "drawing"))
            trial_table.freeze(db, latest["id"], plate.light(), plate.ways(), _steps(plate), by.id, shop.now())
            log_trial(db, shop, by, trial, "fixed the plan of")
        return int(latest["number"])


def _steps(plate: Plate) -> list[RevisionStep]:
    """What is kept of the steps of a plate."""
    by_step = read_as(plate)
    return [
        {
            "step": number + 1,
            "process": step.process.key,
            "read_as": by_step[number] + 1,
            "alone": works_alone(by_step, number, plate.trial.rounds),
        }
        for number, step in enumerate(plate.trial.steps)
    ]


# A file of more patches, or of more lines, takes longer than a request may.
LONG_PATCHES, LONG_LINES = 600, 60_000


def takes_long(shop: Shop, trial_id: int, revision: int, kind: str, part: int = 1) -> bool:
    """Whether a file of a frozen revision is still to be written, and takes longer than a request may."""
    target_named(kind)
    with shop.database.reading() as db:
        frozen = trial_table.revision(db, trial_id, revision)
        if frozen["plate"] is None or trial_table.is_kept(db, frozen["id"], kind, part):
            return False
        plate = frozen_plate(db, frozen["id"])
    lines = line_total(plate.elements, [(step.work, step.settings) for step in plate.steps])
    return len(plate.elements.ids) > LONG_PATCHES or lines > LONG_LINES


def file_of(shop: Shop, trial_id: int, revision: int, kind: str, part: int = 1) -> tuple[str, Target, bytes]:
    """Name, kind and bytes of a frozen revision's file, or of one of its numbered parts."""
    target = target_named(kind)
    with shop.database.reading() as db:
        frozen = trial_table.revision(db, trial_id, revision)
        if frozen["plate"] is None:
            raise NotFound("There are no files of a draft; get the files first.", "revision")
        plate = frozen_plate(db, frozen["id"])
        today = today_of(db, trial_table.trial(db, trial_id))
        kept = trial_table.kept_file(db, frozen["id"], kind, part)
    check_target(target, plate, today)
    if kept is None:
        parts = parts_of(target, plate)
        if not 1 <= part <= len(parts):
            raise NotFound(f"There is no part {part} of this file; it has {len(parts)}.", "part")
        kept = _kept(shop, frozen["id"], kind, part, len(parts), target.write(parts[part - 1]))
    code = plate.trial.code if plate.trial.added is None else f"{plate.trial.code}-{plate.elements.ids[-1]}"
    name = f"{code}-{slug(plate.trial.material.title)}"
    return f"{name}{numbered_suffix(target, part, kept['parts'])}", target, kept["bytes"]


def _kept(shop: Shop, revision_id: int, kind: str, part: int, parts: int, data: bytes) -> Row:
    """Keep a file so that whoever fetches it later gets the same bytes; what was kept meanwhile counts.

    Where the records cannot be written just now, it is handed out all the same.
    """
    try:
        with shop.database.writing() as db:
            trial_table.keep_file(db, revision_id, kind, part, parts, data, shop.now())
            return trial_table.kept_file(db, revision_id, kind, part) or {"parts": parts, "bytes": data}
    except NotSaved:
        return {"parts": parts, "bytes": data}


def written_files(plate: Plate, kinds: list[str], today: Today) -> dict[str, list[bytes]]:
    """The bytes of several files of one plate, part by part, or the refusal of the first that cannot be."""
    for kind in kinds:
        check_target(target_named(kind), plate, today)
    targets = {kind: target_named(kind) for kind in kinds}
    return {kind: [target.write(part) for part in parts_of(target, plate)] for kind, target in targets.items()}


def part_name(file: Path, number: int, count: int) -> Path:
    """``plate.svg`` is ``plate.2of3.svg`` where it is the second of three."""
    return file if count == 1 else file.with_name(f"{file.stem}.{number}of{count}{file.suffix}")


def write_all(files: Mapping[Path, bytes]) -> None:
    """Write every file or none of them, and leave what was there before if one cannot be written."""
    staged: list[tuple[Path, Path]] = []
    replaced: list[tuple[Path, Path | None]] = []
    try:
        for path, data in files.items():
            if path.is_dir():
                raise CannotWrite(f"{path} is a folder, not a file.")
            handle, temporary = tempfile.mkstemp(dir=path.parent, prefix=f".{path.name}.")
            staged.append((Path(temporary), path))
            with os.fdopen(handle, "wb") as file:
                file.write(data)
                file.flush()
                os.fsync(file.fileno())
            os.chmod(temporary, 0o666 & ~_umask())
        for temporary_path, path in staged:
            before = None
            if path.exists():
                before = temporary_path.with_name(temporary_path.name + ".before")
                os.replace(path, before)
            replaced.append((path, before))
            os.replace(temporary_path, path)
    except OSError as error:
        _undo(staged, replaced)
        raise CannotWrite(f"{error.filename or 'A file'} cannot be written: {error.strerror}. No file was.") from error
    except BaseException:
        _undo(staged, replaced)
        raise
    for _, before in replaced:
        if before is not None:
            before.unlink()


def _umask() -> int:
    """The process's umask; there is no way to read it without setting it for a moment."""
    mask = os.umask(0o022)
    os.umask(mask)
    return mask


def _undo(staged: list[tuple[Path, Path]], replaced: list[tuple[Path, Path | None]]) -> None:
    for temporary, _ in staged:
        temporary.unlink(missing_ok=True)
    for path, before in replaced:
        if before is not None:
            os.replace(before, path)
        else:
            path.unlink(missing_ok=True)

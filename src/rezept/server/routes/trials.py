"""Trials: planning, files, burning."""

from __future__ import annotations

from typing import Any

from flask import Response, make_response
from flask_openapi3 import APIBlueprint
from werkzeug.exceptions import ServiceUnavailable

from rezept.actions.commands import burning, exporting, growing, planning
from rezept.actions.queries import files, first_axes, previews, views, wall
from rezept.actions.queries.clock import clock_runs
from rezept.core.errors import Refused
from rezept.core.path.lettering import text_path
from rezept.core.plan import Plate
from rezept.core.plan.drawing import seen
from rezept.core.plan.gate import Today
from rezept.server import shapes
from rezept.server.here import live, me, shop, worker

bp = APIBlueprint("trials", __name__, url_prefix="/api/trials")

# The worker ends what takes longer by itself.
WRITTEN_WITHIN_S = 35.0

ON_THE_BENCH = ("burn", "read", "decide")
SHELVES = {"plates": ("burn", "read", "decide", "kept"), "drafts": ("plan",)}


def _texts(plate: Plate | None) -> list[dict[str, Any]]:
    return [] if plate is None else [{**vars(text), "path": text_path(text.text)} for text in plate.texts]


def _page(trial_id: int, burn_id: int | None = None, step: int | None = None) -> dict[str, Any]:
    page = views.trial_page(shop(), trial_id, burn_id, step)
    page["texts"] = _texts(page.pop("planned"))
    page["burned_texts"] = _texts(page.pop("planned_burned"))
    run = live().of_trial(trial_id)
    going = clock_runs(shop(), trial_id)
    page["live"] = going[-1] if going else None if run is None else run.snapshot()
    return page


def _preview(plate: Plate, today: Today, against: dict[str, Any] | None) -> dict[str, Any]:
    return {
        "plate": seen(plate),
        "texts": _texts(plate),
        "burnable": files.is_burnable(plate, today),
        "against": against,
    }


@bp.get("", responses={"200": shapes.trial_cards.Trials})
def list_trials(query: shapes.trials.TrialsQuery) -> dict[str, Any]:
    """Trials, newest first; `bench` leaves only those that wait to be burned, read or decided. Drafts have a shelf of
    their own, and so has what was put away."""
    stages = ON_THE_BENCH if query.bench else SHELVES.get(query.shelf or "", ())
    trials = wall.trial_list(
        shop(),
        query.head,
        query.material,
        stages,
        skip=query.skip,
        most=query.most,
        text=query.text,
        away=query.shelf == "away",
    )
    burning = {run.trial_id for run in live().runs() if not run.over}
    return {"trials": [{**trial, "burning": trial["id"] in burning} for trial in trials]}


@bp.put("/<int:id>/shelf", responses={"204": None})
def put_shelf(path: shapes.common.IdPath, body: shapes.trials.Shelved) -> tuple[str, int]:
    """Say what a trial is called, put it away, or take it out again."""
    planning.shelve(shop(), me(), path.id, body.name, body.put_away)
    return "", 204


@bp.get("/<int:id>/first-axis", responses={"200": shapes.trials.FirstAxisOut})
def get_first_axis(path: shapes.common.IdPath, query: shapes.trials.FirstAxisQuery) -> dict[str, Any]:
    """Where a setting begins to vary in this trial, and what to hold it at."""
    return first_axes.first_axis_of(shop(), path.id, query.parameter, query.held, query.along, query.pulse_width)


@bp.get("/<int:id>/first-step", responses={"200": shapes.trials.FirstStepOut})
def get_first_step(path: shapes.common.IdPath, query: shapes.trials.FirstStepQuery) -> dict[str, Any]:
    """What one more step of this trial begins with."""
    return planning.first_step(shop(), path.id, query.process)


@bp.post("", responses={"201": shapes.common.Created})
def add_trial(body: shapes.trials.NewTrial) -> tuple[dict[str, Any], int]:
    """Begin a trial around what the book knows."""
    return {"id": planning.new_trial(shop(), me(), body.process, body.material, body.head, body.begun_as)}, 201


@bp.get("/<int:id>/next-coupon", responses={"200": shapes.trials.NextCouponOut})
def get_next_coupon(path: shapes.common.IdPath) -> dict[str, Any]:
    """What to burn next on a plate that grows, and why."""
    # Models load much of SciPy; only those who decide wait for it.
    from rezept.actions.queries.next_coupon import coupon_after

    return coupon_after(shop(), path.id)


@bp.post("/<int:id>/coupons", responses={"200": shapes.trials.CouponOut, "409": shapes.common.Problem})
def set_coupon(path: shapes.common.IdPath, body: shapes.trials.TypedCoupon) -> dict[str, Any]:
    """Plan one coupon in the next free place of a plate that grows."""
    return growing.set_coupon(shop(), me(), path.id, body.edit, body.settings, body.units)


@bp.get("/<int:id>", responses={"200": shapes.trials.TrialPage})
def get_trial(path: shapes.common.IdPath, query: shapes.trials.PageQuery) -> dict[str, Any]:
    """A trial with its plate, burns, and the readings of one of them: the latest, unless `burn` says which."""
    return _page(path.id, query.burn, query.step)


@bp.post("/<int:id>/preview", responses={"200": shapes.trials.PreviewOut})
def preview(path: shapes.common.IdPath, body: shapes.trials.TypedDesign) -> dict[str, Any]:
    """The plate a typed design would give; nothing is stored."""
    return _preview(*previews.preview(shop(), path.id, body.design, body.units))


@bp.put("/<int:id>/design", responses={"200": shapes.trials.TrialPage, "409": shapes.common.Problem})
def put_design(path: shapes.common.IdPath, body: shapes.trials.ChangeDraft) -> dict[str, Any]:
    """Keep a design as the draft; a revision that was exported or burned gets a successor."""
    planning.change_draft(shop(), me(), path.id, body.edit, body.design, body.units)
    return _page(path.id)


@bp.post("/<int:id>/files", responses={"200": shapes.trials.Exported, "409": shapes.common.Problem})
def get_files(path: shapes.common.IdPath, body: shapes.common.Edit) -> dict[str, Any]:
    """Fix the design for good, so that its files can be fetched."""
    return {"revision": exporting.freeze_latest(shop(), me(), path.id, body.edit), "edit": body.edit}


@bp.get("/<int:id>/revisions/<int:revision>/files/<string:kind>")
def get_file(path: shapes.trials.FilePath, query: shapes.trials.FileQuery) -> Response:
    """One file of a frozen revision, or one of its numbered parts."""
    which = (path.id, path.revision, path.kind, query.part)
    if exporting.takes_long(shop(), *which):
        _written_beside(dict(zip(("trial", "revision", "kind", "part"), which, strict=True)))
    name, target, data = exporting.file_of(shop(), *which)
    response = make_response(data)
    response.content_type = target.media_type
    response.headers["Content-Disposition"] = f'attachment; filename="{name}"'
    return response


def _written_beside(task: dict[str, Any]) -> None:
    """Have the worker write a long file, and wait for it."""
    job = worker().wait(worker().submit(me(), "file", task, urgent=True), WRITTEN_WITHIN_S)
    if job["state"] == "failed":
        raise Refused(job["sentence"], (job["answer"] or {}).get("path", ""))
    if job["state"] != "done":
        raise ServiceUnavailable(job["sentence"] or "This file is still being written; fetch it again in a moment.")


@bp.post("/<int:id>/burns", responses={"201": shapes.common.Created, "409": shapes.common.Problem})
def add_burn(path: shapes.common.IdPath, body: shapes.burns.Burned) -> tuple[dict[str, Any], int]:
    """I burned it."""
    conditions = body.model_dump(exclude={"edit"})
    return {"id": burning.mark_burned(shop(), me(), path.id, body.edit, conditions)}, 201

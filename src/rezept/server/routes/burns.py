"""Burned plates: patches left out, scores, margins."""

from __future__ import annotations

from typing import Any

from flask import Response, make_response
from flask_openapi3 import APIBlueprint

from rezept.actions.commands import burning, keeping, planning, reading
from rezept.actions.queries import deciding, views
from rezept.actions.queries.readings_file import readings_file
from rezept.formats.strict_json import write_json
from rezept.server import shapes
from rezept.server.here import me, shop

bp = APIBlueprint("burns", __name__, url_prefix="/api")


@bp.put("/burns/<int:id>/patches/<string:patch>/not-burned", responses={"204": None})
def put_not_burned(path: shapes.burns.PatchPath, body: shapes.burns.NotBurned) -> tuple[str, int]:
    """Say that a patch stayed bare, or take that back."""
    burning.mark_not_burned(shop(), me(), path.id, path.patch, body.not_burned)
    return "", 204


@bp.put(
    "/burns/<int:id>/patches/<string:patch>/reading",
    responses={"200": shapes.burns.ReadingOut, "409": shapes.common.Problem},
)
def put_reading(
    path: shapes.burns.PatchPath, query: shapes.common.StepQuery, body: shapes.burns.Score
) -> dict[str, Any]:
    """Score a patch by eye."""
    document = body.model_dump(exclude={"edit"})
    return dict(reading.score(shop(), me(), path.id, path.patch, body.edit, document, query.step))


@bp.put("/burns/<int:id>/readings", responses={"200": shapes.burns.ReadingsOut, "409": shapes.common.Problem})
def put_readings(
    path: shapes.common.IdPath, query: shapes.common.StepQuery, body: shapes.burns.Scores
) -> dict[str, Any]:
    """Score several patches at once: all of them or none."""
    said = [(one.patch, one.edit, one.model_dump(exclude={"edit", "patch"})) for one in body.readings]
    stored = reading.score_several(shop(), me(), path.id, said, query.step)
    return {"readings": stored, "repeated": deciding.shares(shop(), path.id, query.step)}


@bp.post("/burns/<int:id>/patches/<string:patch>/around", responses={"201": shapes.common.Created})
def plan_around(path: shapes.burns.PatchPath, query: shapes.common.StepQuery) -> tuple[dict[str, Any], int]:
    """Begin a trial around what a burned patch got."""
    return {"id": planning.trial_around(shop(), me(), path.id, path.patch, query.step)}, 201


@bp.put("/burns/<int:id>", responses={"204": None})
def put_burn(path: shapes.common.IdPath, body: shapes.burns.HowBurned) -> tuple[str, int]:
    """Put right how it was burned."""
    burning.correct_burn(shop(), me(), path.id, body.model_dump())
    return "", 204


@bp.put("/burns/<int:id>/treatment", responses={"204": None})
def put_treatment(path: shapes.common.IdPath, body: shapes.burns.JudgedBy) -> tuple[str, int]:
    """Judge it by its piece wiped, sanded, rubbed, or as burned; what was read of it otherwise stays beside it."""
    reading.judge_by(shop(), me(), path.id, body.treatment)
    return "", 204


@bp.delete("/burns/<int:id>", responses={"204": None})
def delete_burn(path: shapes.common.IdPath) -> tuple[str, int]:
    """Take back that it was burned."""
    burning.take_back_burn(shop(), me(), path.id)
    return "", 204


@bp.get("/burns/<int:id>", responses={"200": shapes.trials.BurnPage})
def get_burn(path: shapes.common.IdPath, query: shapes.common.StepQuery) -> dict[str, Any]:
    """One burn with its plate, photos and readings."""
    return views.burn_page(shop(), path.id, query.step)


@bp.get("/burns/<int:id>/comparable", responses={"200": shapes.trials.ComparableBurns})
def get_comparable(path: shapes.common.IdPath) -> dict[str, Any]:
    """What can be laid beside a burn."""
    return {"burns": views.comparable_burns(shop(), path.id)}


@bp.get("/burns/<int:id>/decision", responses={"200": shapes.burns.Decision})
def get_decision(path: shapes.common.IdPath, query: shapes.common.StepQuery) -> dict[str, Any]:
    """The margin of every patch that was read."""
    return deciding.decision(shop(), path.id, query.step)


@bp.get("/burns/<int:id>/finding", responses={"200": shapes.findings.FindingOut})
def get_finding(path: shapes.common.IdPath, query: shapes.findings.FindingQuery) -> dict[str, Any]:
    """What a plate means, with all others of its material, process and head."""
    # Models load much of SciPy; only those who decide wait for it.
    from rezept.actions.queries.finding import finding

    return finding(
        shop(), path.id, query.model_dump(exclude_none=True, exclude={"slice", "step"}), query.slice, query.step
    )


@bp.get("/burns/<int:id>/readings-file")
def get_readings_file(path: shapes.common.IdPath, query: shapes.common.StepQuery) -> Response:
    """A burn with what was read of it as a file: what `rezept decide` takes."""
    name, document = readings_file(shop(), path.id, query.step)
    response = make_response(write_json(document))
    response.content_type = "application/json"
    response.headers["Content-Disposition"] = f'attachment; filename="{name}"'
    return response


@bp.post("/burns/<int:id>/candidates", responses={"201": shapes.findings.KeptCandidate})
def keep_candidate(
    path: shapes.common.IdPath, query: shapes.common.StepQuery, body: shapes.findings.KeepCandidate
) -> tuple[dict[str, Any], int]:
    """Keep what was chosen for an aim in the book: an estimate, until something burned with it came out."""
    wish, words = body.wish.model_dump(exclude_none=True), body.model_dump(include={"purpose", "note"})
    kept = keeping.keep_candidate(shop(), me(), path.id, body.aim, wish, words, query.step)
    return {"id": kept.recipe_id, "standing": kept.standing}, 201


@bp.post("/burns/<int:id>/next", responses={"201": shapes.common.Created})
def add_next(
    path: shapes.common.IdPath, query: shapes.common.StepQuery, body: shapes.findings.Wish
) -> tuple[dict[str, Any], int]:
    """Begin the array that settles what is still open."""
    return {"id": planning.next_trial(shop(), me(), path.id, body.model_dump(exclude_none=True), query.step)}, 201


@bp.post("/burns/<int:id>/finer", responses={"201": shapes.common.Created})
def add_finer(
    path: shapes.common.IdPath, query: shapes.common.StepQuery, body: shapes.burns.Between
) -> tuple[dict[str, Any], int]:
    """Begin the finer array between a patch that failed and one that worked."""
    return {"id": planning.finer_trial(shop(), me(), path.id, body.failed, body.worked, query.step)}, 201

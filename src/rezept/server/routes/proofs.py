"""Proving something on a real, intricate shape."""

from __future__ import annotations

from typing import Any

from flask_openapi3 import APIBlueprint

from rezept.actions.commands import proving
from rezept.core.errors import InvalidInput
from rezept.server import shapes
from rezept.server.here import me, shop

bp = APIBlueprint("proofs", __name__, url_prefix="/api")


@bp.post("/burns/<int:id>/proof", responses={"201": shapes.common.Created})
def prove(
    path: shapes.common.IdPath, query: shapes.common.StepQuery, body: shapes.proofs.Prove
) -> tuple[dict[str, Any], int]:
    """Begin the proof of what was chosen from a burn, or of what one of its patches got."""
    if (body.aim is None) == (body.patch is None):
        raise InvalidInput("Say either the aim or the patch that is to be proven.", "aim")
    if body.patch is not None:
        return {"id": proving.prove_patch(shop(), me(), path.id, body.patch, query.step)}, 201
    wish = {} if body.wish is None else body.wish.model_dump(exclude_none=True)
    return {"id": proving.prove_candidate(shop(), me(), path.id, str(body.aim), wish, query.step)}, 201


@bp.post("/burns/<int:id>/more-passes", responses={"201": shapes.common.Created})
def more_passes(
    path: shapes.common.IdPath, query: shapes.common.StepQuery, body: shapes.proofs.ProvedPatch
) -> tuple[dict[str, Any], int]:
    """Begin the small array that tries the dose of a patch in more and faster passes."""
    return {"id": proving.try_more_passes(shop(), me(), path.id, body.patch, query.step)}, 201


@bp.post("/recipes/<int:id>/proof", responses={"201": shapes.common.Created})
def prove_recipe(path: shapes.common.IdPath) -> tuple[dict[str, Any], int]:
    """Begin the proof of a recipe."""
    return {"id": proving.prove_recipe(shop(), me(), path.id)}, 201


@bp.post("/recipes/<int:id>/kerf", responses={"201": shapes.common.Created})
def find_kerf(path: shapes.common.IdPath) -> tuple[dict[str, Any], int]:
    """Begin the slots and tab that tell how wide the cut of a recipe is."""
    return {"id": proving.find_kerf(shop(), me(), path.id)}, 201

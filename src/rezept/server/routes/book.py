"""Ask and the book."""

from __future__ import annotations

from typing import Any

from flask import Response, make_response
from flask_openapi3 import APIBlueprint

from rezept.actions.commands import keeping, people
from rezept.actions.queries import asking
from rezept.formats.qr import card_svg, qr_svg
from rezept.server import shapes
from rezept.server.here import me, outside_address, shop

bp = APIBlueprint("book", __name__, url_prefix="/api")


@bp.get("/ask", responses={"200": shapes.book.Answer})
def ask(query: shapes.book.AskQuery) -> dict[str, Any]:
    """What do we use for this?"""
    return asking.ask(shop(), query.process, query.material, query.head, query.lay)


@bp.get("/map", responses={"200": shapes.book.BookMap})
def get_map(query: shapes.book.MapQuery) -> dict[str, Any]:
    """Materials down, heads across: what is known and what is not, for one process."""
    return asking.book_map(shop(), query.process)


@bp.put("/map/not-working", responses={"204": None})
def put_not_working(body: shapes.book.NotWorking) -> tuple[str, int]:
    """Say that something does not work at all, or that it is open again."""
    keeping.say_not_working(shop(), me(), body.process, body.material, body.head, body.reason)
    return "", 204


@bp.get("/machines/<int:id>/wall", responses={"200": shapes.book.Wall})
def get_wall(path: shapes.common.IdPath) -> dict[str, Any]:
    """What is proven and tried on a machine, head by head, for the card beside it."""
    return {"recipes": asking.wall_card(shop(), path.id)}


@bp.get("/qr")
def get_qr(query: shapes.book.QrQuery) -> Response:
    """The QR code of a page of this shop, for printed cards."""
    response = make_response(qr_svg((people.shop_address(shop()) or outside_address()) + query.place))
    response.content_type = "image/svg+xml"
    return response


@bp.get("/reference-card")
def get_reference_card() -> Response:
    """The reference card at its true size, to be printed and laid beside a plate when it is photographed."""
    response = make_response(card_svg())
    response.content_type = "image/svg+xml"
    return response


@bp.get("/recipes", responses={"200": shapes.book.Book})
def list_recipes(query: shapes.book.BookQuery) -> dict[str, Any]:
    """Recipes that match, best standing first."""
    return asking.book(
        shop(),
        query.text,
        query.head,
        query.material,
        query.process,
        query.standing,
        query.skip,
        query.most,
    )


@bp.post("/recipes", responses={"201": shapes.common.Created})
def add_recipe(body: shapes.book.KeepRecipe) -> tuple[dict[str, Any], int]:
    """Keep a patch as a recipe; its settings come from the plate."""
    document = body.model_dump(include={"standing", "purpose", "note"})
    return {"id": keeping.keep_recipe(shop(), me(), body.burn, body.patch, document, body.step)}, 201


@bp.get("/failed-settings", responses={"200": shapes.book.FailedSettings})
def list_failed(query: shapes.book.FailedQuery) -> dict[str, Any]:
    """What was burned and failed, the latest first."""
    return {"failed": asking.failed_settings(shop(), query.material, query.head, query.process)}


@bp.post("/failed-settings", responses={"201": shapes.common.Created})
def keep_failed(body: shapes.book.KeepFailed) -> tuple[dict[str, Any], int]:
    """Keep a patch as what failed at its settings."""
    return {"id": keeping.keep_failed(shop(), me(), body.burn, body.patch, body.note, body.step)}, 201


@bp.delete("/failed-settings/<int:id>", responses={"204": None})
def take_back_failed(path: shapes.common.IdPath) -> tuple[str, int]:
    """Take back that settings failed."""
    keeping.take_back_failed(shop(), me(), path.id)
    return "", 204


@bp.post("/recipes/written-down", responses={"201": shapes.common.Created})
def write_down(body: shapes.book.WriteDown) -> tuple[dict[str, Any], int]:
    """Write down a recipe from elsewhere."""
    document = body.model_dump(exclude={"settings", "units"})
    return {"id": keeping.write_down(shop(), me(), document, body.settings, body.units)}, 201


@bp.get("/recipes/<int:id>", responses={"200": shapes.book.RecipePage})
def get_recipe(path: shapes.common.IdPath) -> dict[str, Any]:
    """A recipe with its evidence, confirmations and history."""
    return asking.recipe_page(shop(), me(), path.id)


@bp.put("/recipes/<int:id>", responses={"200": shapes.book.RecipePage, "409": shapes.common.Problem})
def put_recipe(path: shapes.common.IdPath, body: shapes.book.ChangeRecipe) -> dict[str, Any]:
    """Change what the book says of a recipe."""
    change = body.model_dump(exclude={"edit"}, exclude_unset=True)
    keeping.change_recipe(shop(), me(), path.id, body.edit, change)
    return asking.recipe_page(shop(), me(), path.id)


@bp.post("/recipes/<int:id>/restore", responses={"200": shapes.book.RecipePage, "409": shapes.common.Problem})
def restore(path: shapes.common.IdPath, body: shapes.book.RestoreRecipe) -> dict[str, Any]:
    """Let the book say what it said in an earlier version."""
    keeping.restore(shop(), me(), path.id, body.edit, body.version)
    return asking.recipe_page(shop(), me(), path.id)


@bp.post("/recipes/<int:id>/confirmations", responses={"201": shapes.common.Created})
def confirm(path: shapes.common.IdPath, body: shapes.book.Confirm) -> tuple[dict[str, Any], int]:
    """It held, or it failed."""
    return {"id": keeping.confirm(shop(), me(), path.id, body.held, body.note, body.reason)}, 201


@bp.delete("/confirmations/<int:id>", responses={"204": None})
def take_back_confirmation(path: shapes.common.IdPath) -> tuple[str, int]:
    """Take a confirmation or failure back."""
    keeping.take_back_confirmation(shop(), me(), path.id)
    return "", 204

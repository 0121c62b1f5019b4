"""Ask and the book."""

from __future__ import annotations

from typing import Any

from flask_openapi3 import APIBlueprint

from rezept.actions import keeping, views
from rezept.server import shapes
from rezept.server.here import me, shop

bp = APIBlueprint("book", __name__, url_prefix="/api")


@bp.get("/ask", responses={"200": shapes.book.Answer})
def ask(query: shapes.book.AskQuery) -> dict[str, Any]:
    """What do we use for this?"""
    return views.ask(shop(), query.process, query.material, query.head)


@bp.get("/recipes", responses={"200": shapes.book.Book})
def list_recipes(query: shapes.book.BookQuery) -> dict[str, Any]:
    """Recipes that match, best standing first."""
    return {"recipes": views.book(shop(), query.text, query.head, query.material, query.process)}


@bp.post("/recipes", responses={"201": shapes.common.Created})
def add_recipe(body: shapes.book.KeepRecipe) -> tuple[dict[str, Any], int]:
    """Keep a patch as a recipe; its settings come from the plate."""
    document = body.model_dump(include={"standing", "purpose", "note"})
    return {"id": keeping.keep_recipe(shop(), me(), body.burn, body.patch, document)}, 201


@bp.get("/recipes/<int:id>", responses={"200": shapes.book.RecipePage})
def get_recipe(path: shapes.common.IdPath) -> dict[str, Any]:
    """A recipe with its evidence and history."""
    return views.recipe_page(shop(), path.id)


@bp.put("/recipes/<int:id>", responses={"200": shapes.book.RecipePage, "409": shapes.common.Problem})
def put_recipe(path: shapes.common.IdPath, body: shapes.book.ChangeRecipe) -> dict[str, Any]:
    """Change standing, purpose or note."""
    change = body.model_dump(exclude={"edit"}, exclude_none=True)
    keeping.change_recipe(shop(), me(), path.id, body.edit, change)
    return views.recipe_page(shop(), path.id)

"""Burning live, and the log of a burn."""

from __future__ import annotations

from typing import Any

from flask_openapi3 import APIBlueprint

from rezept.actions.commands import burning, by_clock
from rezept.actions.queries.clock import clock_runs
from rezept.actions.running import live as burns
from rezept.actions.running import placing
from rezept.actions.running.again import Again, again_by_hand, again_in_place
from rezept.server import shapes
from rezept.server.here import live, me, shop

bp = APIBlueprint("live", __name__, url_prefix="/api")

_STARTED: dict[Any, Any] = {"201": shapes.live.LiveOut, "409": shapes.common.Problem}


@bp.get("/live", responses={"200": shapes.live.LiveRuns})
def list_live() -> dict[str, Any]:
    """The runs of this server's life, and those followed by the clock."""
    return {"runs": [*(run.snapshot() for run in live().runs()), *clock_runs(shop())]}


@bp.post("/trials/<int:id>/live", responses=_STARTED)
def start(path: shapes.common.IdPath, body: shapes.live.StartLive) -> tuple[dict[str, Any], int]:
    """Start the plate on its machine, show its outline, or go through it with the beam off."""
    if body.how == "whole":
        conditions = body.model_dump(exclude={"edit", "how", "outline", "at_machine", "mounted"})
        run = burns.start(live(), me(), path.id, body.edit, conditions, body.at_machine, body.mounted)
    elif body.how == "dark":
        run = burns.dry_run(live(), me(), path.id, body.edit, body.at_machine, body.mounted)
    else:
        run = placing.show_outline(live(), me(), path.id, body.edit, body.outline, body.at_machine, body.mounted)
    return run.snapshot(), 201


@bp.post("/burns/<int:id>/rest", responses=_STARTED)
def carry_on(path: shapes.common.IdPath, body: shapes.live.RestLive) -> tuple[dict[str, Any], int]:
    """Burn what an interrupted burn has not reached."""
    return burns.carry_on(live(), me(), path.id, body.uncertain, body.at_machine, body.mounted).snapshot(), 201


@bp.post("/burns/<int:id>/again", responses={**_STARTED, "204": None})
def again(path: shapes.common.IdPath, body: shapes.live.AgainLive) -> tuple[Any, int]:
    """Burn some patches again in place, or log that it was done by hand."""
    asked = Again(body.patches, body.passes, body.settings, body.units, body.put_back)
    if body.by_hand:
        again_by_hand(shop(), me(), path.id, asked)
        return "", 204
    run = again_in_place(live(), me(), path.id, asked, body.at_machine, body.mounted)
    return run.snapshot(), 201


@bp.post("/live/<string:key>/hold", responses={"204": None})
def hold(path: shapes.live.KeyPath) -> tuple[str, int]:
    """Let the head come to rest with the beam off."""
    burns.hold(live(), me(), path.key)
    return "", 204


@bp.post("/live/<string:key>/stop", responses={"204": None})
def stop(path: shapes.live.KeyPath) -> tuple[str, int]:
    """End the run."""
    burns.stop(live(), me(), path.key)
    return "", 204


@bp.post("/live/<string:key>/go-on", responses={"204": None})
def go_on(path: shapes.live.KeyPath, body: shapes.live.AtMachine) -> tuple[str, int]:
    """Go on after a hold."""
    burns.go_on(live(), me(), path.key, body.at_machine)
    return "", 204


@bp.post("/live/<string:key>/turned", responses={"204": None})
def turned(path: shapes.live.KeyPath, body: shapes.live.HandTurned) -> tuple[str, int]:
    """Say that what is set by hand is set, and let it go on."""
    burns.turned(live(), me(), path.key, body.part, body.shown, body.at_machine)
    return "", 204


@bp.post("/live/<string:key>/correction", responses={"204": None})
def correct(path: shapes.live.KeyPath, body: shapes.live.Correction) -> tuple[str, int]:
    """Correct power, speed or focus while it burns."""
    burns.correct(live(), me(), path.key, body.what, body.steps)
    return "", 204


@bp.post("/live/<string:key>/nudge", responses={"204": None})
def nudge(path: shapes.live.KeyPath, body: shapes.live.Nudge) -> tuple[str, int]:
    """Let the outline go round so far from where it does."""
    placing.nudge(live(), me(), path.key, body.right_mm, body.up_mm)
    return "", 204


@bp.post("/trials/<int:id>/zero-here", responses={"204": None})
def zero_here(path: shapes.common.IdPath, body: shapes.live.ZeroHere) -> tuple[str, int]:
    """Let the program count from where the head stands now."""
    placing.zero_here(live(), me(), path.id, body.edit, body.at_machine, body.mounted)
    return "", 204


@bp.post("/live/<string:key>/control", responses={"204": None})
def take_control(path: shapes.live.KeyPath) -> tuple[str, int]:
    """Hold the control from now on."""
    burns.take_control(live(), me(), path.key)
    return "", 204


_BY_CLOCK: dict[Any, Any] = {"200": shapes.live.LiveOut}


@bp.post("/trials/<int:id>/by-clock", responses=_STARTED)
def it_starts(path: shapes.common.IdPath, body: shapes.burns.Burned) -> tuple[dict[str, Any], int]:
    """The machine begins just now to burn the file: follow it by the clock."""
    conditions = body.model_dump(exclude={"edit"})
    return by_clock.it_starts(shop(), me(), path.id, body.edit, conditions), 201


@bp.post("/burns/<int:id>/clock", responses=_BY_CLOCK)
def say_of_clock(path: shapes.common.IdPath, body: shapes.live.ClockSaid) -> dict[str, Any]:
    """It rests, goes on, is farther than the clock says, or begins a part just now."""
    return by_clock.say(shop(), me(), path.id, body.model_dump())


@bp.post("/burns/<int:id>/clock/turned", responses=_BY_CLOCK)
def turned_by_clock(path: shapes.common.IdPath, body: shapes.live.ClockTurned) -> dict[str, Any]:
    """What is set by hand is set, and it goes on."""
    return by_clock.turned(shop(), me(), path.id, body.part, body.shown)


@bp.post("/burns/<int:id>/clock/corrected", responses=_BY_CLOCK)
def correct_by_clock(path: shapes.common.IdPath, body: shapes.live.ClockCorrected) -> dict[str, Any]:
    """Somebody has turned a setting at the machine."""
    return by_clock.corrected(shop(), me(), path.id, body.model_dump())


@bp.post("/burns/<int:id>/clock/ended", responses=_BY_CLOCK)
def end_by_clock(path: shapes.common.IdPath, body: shapes.live.ClockEnded) -> dict[str, Any]:
    """It is over."""
    return by_clock.ended(shop(), me(), path.id, body.whole)


@bp.post("/burns/<int:id>/remarks", responses={"201": shapes.live.RemarkOut})
def add_remark(path: shapes.common.IdPath, body: shapes.live.Remark) -> tuple[dict[str, Any], int]:
    """Note what was seen while it burned."""
    return dict(burning.remark(shop(), me(), path.id, body.model_dump())), 201


@bp.delete("/remarks/<int:id>", responses={"204": None})
def take_back_remark(path: shapes.common.IdPath) -> tuple[str, int]:
    """Take a remark back."""
    burning.take_back_remark(shop(), me(), path.id)
    return "", 204

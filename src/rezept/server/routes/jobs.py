"""What the worker does: how far it is, what came of it, and giving it up."""

from __future__ import annotations

from typing import Any

from flask_openapi3 import APIBlueprint

from rezept.server import shapes
from rezept.server.here import me, worker
from rezept.store.rows import AnyRow

bp = APIBlueprint("jobs", __name__, url_prefix="/api/jobs")

# So long a request may wait for a job to end before it is told how far it is.
MOST_WAIT_S = 2.0


def described(job: AnyRow) -> dict[str, Any]:
    """A job as it goes over the wire: what it was about stands where an error has it."""
    answer = job["answer"] if job["state"] == "done" else None
    failed = job["state"] == "failed" and job["answer"] is not None
    return {
        **{key: job[key] for key in ("id", "kind", "state", "progress", "sentence", "by_name", "at", "ended_at")},
        "before": job.get("before", 0),
        "path": job["answer"]["path"] if failed else "",
        "choices": job["answer"]["choices"] if failed else None,
        "photo": answer if job["kind"] in ("bring_in", "lay") else None,
        "outline": answer if job["kind"] == "outline" else None,
    }


@bp.get("", responses={"200": shapes.jobs.JobList})
def list_jobs() -> dict[str, Any]:
    """What waits and runs, and what has ended lately."""
    return {"jobs": [described(job) for job in worker().jobs()]}


@bp.get("/<int:id>", responses={"200": shapes.jobs.JobOut})
def get_job(path: shapes.common.IdPath, query: shapes.jobs.JobQuery) -> dict[str, Any]:
    """How far a job is; with `wait` as soon as it is over, within two seconds."""
    return described(worker().wait(path.id, MOST_WAIT_S if query.wait else 0.0))


@bp.delete("/<int:id>", responses={"204": None})
def delete_job(path: shapes.common.IdPath) -> tuple[str, int]:
    """Give a job up, waiting or running."""
    worker().cancel(me(), path.id)
    return "", 204

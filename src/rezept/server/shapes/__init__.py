"""What goes over the wire, one module a subject. Requests are validated by these; responses are documented by them,
and the tests hold every response against its shape."""

from rezept.server.shapes import (
    arrays,
    book,
    burns,
    changes,
    common,
    equipment,
    figures,
    findings,
    jobs,
    live,
    people,
    photos,
    plates,
    trial_cards,
    trials,
)

__all__ = [
    "arrays",
    "book",
    "burns",
    "changes",
    "common",
    "equipment",
    "figures",
    "findings",
    "jobs",
    "live",
    "people",
    "photos",
    "plates",
    "trial_cards",
    "trials",
]

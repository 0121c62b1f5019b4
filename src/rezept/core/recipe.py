"""A setting worth keeping."""

from __future__ import annotations

STANDINGS = ("estimate", "heard", "tried", "proven", "doubtful", "retired")
# What a member may say of a recipe; the rest is for those who answer for it.
STANDINGS_BY_MEMBERS = ("tried", "doubtful")

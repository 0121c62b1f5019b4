"""Rezept over HTTP."""

from rezept.server.app import create_app

__all__ = ["create_app"]

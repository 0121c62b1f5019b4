"""The command line of Rezept: a module for each subject, and the words they share."""

from rezept.cli import demos, plates, serving, shops
from rezept.cli.words import main

__all__ = ["demos", "main", "plates", "serving", "shops"]

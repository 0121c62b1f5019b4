"""The command line of Rezept: a module for each subject, and the words they share."""

from rezept.cli import deciding, demos, plates, serving, shops
from rezept.cli.words import main

__all__ = ["deciding", "demos", "main", "plates", "serving", "shops"]

"""The command line of Rezept: a module for each subject, and the words they share."""

from rezept.cli import deciding, demos, figures, plates, serving, shops
from rezept.cli.words import main

__all__ = ["deciding", "demos", "figures", "main", "plates", "serving", "shops"]

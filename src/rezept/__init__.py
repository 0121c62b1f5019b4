"""Rezept: test arrays for laser machines, planned, burned, read, decided and kept."""

__version__ = "0.1.0"

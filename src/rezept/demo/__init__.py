"""The demo shop: made up, built through the same actions a member uses."""

from rezept.demo.lantern_walk import build_demo

__all__ = ["build_demo"]

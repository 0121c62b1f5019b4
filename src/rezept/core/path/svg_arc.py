"""Elliptic arcs of SVG paths, near enough to what they are for a workshop."""

from __future__ import annotations

from collections.abc import Iterator
from math import ceil, cos, isfinite, pi, radians, sin, tan
from typing import Any

from fontTools.svgLib.path.arc import EllipticalArc

# A cubic over an angle a is off by about 4 / 27 (sin(a / 4) ** 6 / cos(a / 4) ** 2) of the radius: 4e-9 of it here.
PIECE_RAD = pi / 16


class FineArc(EllipticalArc):  # type: ignore[misc]
    """An arc in pieces of at most 11.25 degrees; by quarters it would be off by 0.03 % of its radius."""

    def draw(self, pen: Any) -> None:
        if self.rx == 0 or self.ry == 0:
            # Without a radius an arc is a line.
            pen.lineTo((self.target_point.real, self.target_point.imag))
        else:
            super().draw(pen)

    def _decompose_to_cubic_curves(self) -> Iterator[tuple[complex, complex, complex]]:
        if self.center_point is None and not self._parametrize():
            return
        if not isfinite(self.theta_arc):
            raise ValueError("an arc without an angle")
        pieces = max(1, ceil(abs(self.theta_arc) / PIECE_RAD))
        step = self.theta_arc / pieces
        turn = complex(cos(radians(self.rotation)), sin(radians(self.rotation)))

        def placed(around: complex) -> complex:
            from_centre: complex = around + self.center_point
            return turn * complex(self.rx * from_centre.real, self.ry * from_centre.imag)

        reach = 4 / 3 * tan(step / 4)
        for i in range(pieces):
            first, last = (complex(cos(a), sin(a)) for a in (self.theta1 + i * step, self.theta1 + (i + 1) * step))
            end: Any = self.target_point if i == pieces - 1 else placed(last)
            yield placed(first + reach * 1j * first), placed(last - reach * 1j * last), end

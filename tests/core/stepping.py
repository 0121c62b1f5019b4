"""The independent reference for times along a way: stepping through it."""

from itertools import pairwise

import numpy as np


def stepped_way(machine, way, speed, dt=2e-5):
    """Seconds the head needs along a way, gone through in small steps of time.

    It speeds up by its acceleration unless some corner ahead could then no longer be taken slowly enough.
    """
    steps = np.diff(way, axis=0)
    lengths = np.hypot(steps[:, 0], steps[:, 1])
    ends = np.cumsum(lengths)
    allowed = np.zeros(len(ends))
    for i in range(len(steps) - 1):
        turn = float(np.linalg.norm(steps[i + 1] / lengths[i + 1] - steps[i] / lengths[i]))
        allowed[i] = min(speed, machine.corner_jump_mm_s / turn) if turn > 1e-9 else speed
    corners = list(zip(ends.tolist(), (allowed**2).tolist(), strict=True))
    acceleration = machine.acceleration_mm_s2
    far = speed * speed / (2 * acceleration)
    position = velocity = elapsed = 0.0
    next_corner = 0
    while position < corners[-1][0] - 1e-6:
        while corners[next_corner][0] <= position:
            next_corner += 1
        highest = speed * speed
        for end, square in corners[next_corner:]:
            if end > position + far:
                break
            highest = min(highest, square + 2 * acceleration * (end - position))
        velocity = max(min(velocity + acceleration * dt, highest**0.5), acceleration * dt)
        position += velocity * dt
        elapsed += dt
    return elapsed


class SteppedGalvo:
    """Mirrors moved in small steps of time: a spot that chases where it is told to be, with every delay waited out.

    `seconds` counts the steps; nothing of the formulas under test is used.
    """

    def __init__(self, machine, dt=5e-6):
        self.machine, self.dt = machine, dt
        self.at = np.zeros(2)
        self.steps = 0

    @property
    def seconds(self):
        return self.steps * self.dt

    def wait(self, microseconds):
        self.steps += round(microseconds * 1e-6 / self.dt)

    def _go(self, to, speed):
        way = np.asarray(to, float) - self.at
        left, stride = float(np.hypot(*way)), speed * self.dt
        while left > 1e-9:
            left -= stride
            self.steps += 1
        self.at = np.asarray(to, float)

    def jump(self, to):
        if np.hypot(*(np.asarray(to) - self.at)) > 1e-9:
            self._go(to, self.machine.of_head("travel_speed_mm_s"))
            self.wait(self.machine.jump_delay_us)
            self.wait(self.machine.settle_us)

    def draw(self, way, speed):
        self.jump(way[0])
        heading = None
        for before, after in pairwise(way):
            step = after - before
            if np.hypot(*step) < 1e-9:
                continue
            unit = step / np.hypot(*step)
            if heading is not None:
                turn = np.arccos(np.clip(float(unit @ heading), -1, 1))
                self.wait(self.machine.polygon_delay_us * turn / np.pi)
            heading = unit
            self._go(after, speed)

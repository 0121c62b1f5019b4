"""The independent reference for times along a way: stepping through it."""

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

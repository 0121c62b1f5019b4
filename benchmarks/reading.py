"""Reading photographs: where the plate is found, what is read right, what it costs; on seeds no test uses."""

from __future__ import annotations

import io
import statistics
from typing import Any

import numpy as np
from PIL import Image
from tests.photographed import burned_plate, marked_plate, taken, true_pixels, true_through

from benchmarks.timing import Figure, seconds
from rezept.actions.photo_reading import read_face, read_plate
from rezept.core.errors import InvalidInput

SEEDS = range(500, 512)
WORST = {"tilt_deg": 35.0, "fall_off": 0.3, "quality": 60, "blur_px": 1.5, "noise": 0.012}
TWELVE = {"size": (3000, 4000)}
FINEST_MM = 0.05


def _decoded(data: bytes) -> None:
    with Image.open(io.BytesIO(data)) as image:
        image.load()


def figures() -> list[Figure]:
    plate = marked_plate()
    burned = burned_plate(plate, seed=9, cell_mm=FINEST_MM)
    truth = true_through(plate, burned)
    places = np.stack(
        np.meshgrid(np.linspace(3, plate.width_mm - 3, 6), np.linspace(3, plate.height_mm - 3, 6)), -1
    ).reshape(-1, 2)
    lost: dict[str, int] = {"front": 0, "back": 0}
    off: list[float] = []
    right = sure = sure_right = patches = 0
    for seed in SEEDS:
        how: dict[str, Any] = {**TWELVE, **(WORST if seed % 3 == 0 else {})}
        photos = {}
        for side in ("front", "back"):
            photo, shot = taken(burned, side, seed, **how)
            photos[side] = photo.jpeg
            try:
                pose = read_face(plate, photo.jpeg, side).laid.pose
            except InvalidInput:
                lost[side] += 1
                continue
            seen = true_pixels(photo, shot, burned, places)
            off.append(float(np.median(np.linalg.norm(pose.to_mm(seen) - places, axis=1))))
        document, _ = read_plate(plate, photos)
        for patch in document["patches"]:
            good = patch["through"] == truth[patch["id"]]
            patches, right = patches + 1, right + good
            if (patch["confidence"] or 0) >= 0.9:
                sure, sure_right = sure + 1, sure_right + good
    decoding = min(seconds(lambda: [_decoded(data) for data in photos.values()]) for _ in range(3))
    reading = min(seconds(lambda: read_plate(plate, photos)) for _ in range(3))
    count = len(SEEDS)
    worst_third = f"{count} photos a face, a third of them with the worst settings"
    return [
        Figure("fronts with marks not found", 100 * lost["front"] / count, "%", 5, worst_third),
        Figure("backs not found", 100 * lost["back"] / count, "%", 5, "by outline and pattern"),
        Figure("position, median over all photos", statistics.median(off), "mm", 0.2, f"worst photo {max(off):.3f} mm"),
        Figure("through wrong", 100 * (1 - right / patches), "%", 1.5, f"{patches} patches"),
        Figure("through wrong where sure", 100 * (1 - sure_right / max(1, sure)), "%", 0.5, f"{sure} patches"),
        Figure(
            "12 MP front and back read",
            1000 * reading,
            "ms",
            3000 * decoding + 200,
            f"decoding {1000 * decoding:.0f} ms",
        ),
    ]

"""Reading photographs: where the plate is found, what is read right, what it costs; on seeds no test uses and nothing
was tuned on."""

from __future__ import annotations

import io
import resource
import statistics
from collections.abc import Sequence
from dataclasses import dataclass, field
from typing import Any

import numpy as np
from PIL import Image
from tests.photographed import (
    BRUSHED,
    POPLAR,
    WORST,
    Wood,
    burned_plate,
    drawn,
    filling,
    marked_plate,
    printed_card,
    ranked,
    shaded_plate,
    taken,
    true_lab,
    true_pixels,
    true_through,
)

from benchmarks.timing import Figure, cpu_seconds
from rezept.actions.queries.photo_reading import find_by_corners, measure_face, read_face, read_plate
from rezept.bench.material import Burned
from rezept.core.colour_difference import ciede2000
from rezept.core.errors import InvalidInput
from rezept.core.plan import Plate
from rezept.core.reading import SURE
from rezept.formats.photo_file import read_photo

FINEST_MM = 0.05
CHARRED = (0.022, 0.011, 0.007)
WOODS = (
    POPLAR,
    Wood("leather", 2.2, (70.0, 10.0, 25.0), (0.03, 0.015, 0.01), (4, 20)),
    Wood("beech", 3.0, (75.0, 8.0, 25.0), CHARRED, (4, 20)),
    Wood("linoleum", 2.0, (55.0, 2.0, 14.0), (0.02, 0.018, 0.016), (4, 20)),
)
SHAPES = ("rectangle", "coupon")


@dataclass
class Tally:
    """What was counted over many photographs."""

    photos: dict[str, int] = field(default_factory=lambda: {"front": 0, "back": 0})
    lost: dict[str, int] = field(default_factory=lambda: {"front": 0, "back": 0})
    off_mm: list[float] = field(default_factory=list)
    filled_lost: int = 0
    filled_off_mm: list[float] = field(default_factory=list)
    patches: int = 0
    right: int = 0
    sure: int = 0
    sure_right: int = 0


def _decoded(data: bytes) -> None:
    with Image.open(io.BytesIO(data)) as image:
        image.load()


def _size(burned: Burned) -> tuple[int, int]:
    rows, columns = burned.grid.shape
    return (3000, 4000) if rows > columns else (4000, 3000)


def _read_cuts(tally: Tally, plate: Plate, burned: Burned, seed: int) -> dict[str, bytes]:
    """One photo of each face, every third with the worst settings, held against the sheet and the camera."""
    truth = true_through(plate, burned)
    places = np.stack(
        np.meshgrid(np.linspace(3, plate.width_mm - 3, 6), np.linspace(3, plate.height_mm - 3, 6)), -1
    ).reshape(-1, 2)
    how: dict[str, Any] = {"size": _size(burned), **(WORST if seed % 3 == 0 else {})}
    photos = {}
    for side in ("front", "back"):
        photo, shot = taken(burned, side, seed, **how)
        photos[side] = photo.jpeg
        tally.photos[side] += 1
        try:
            pose = read_face(plate, photo.jpeg, side).laid.pose
        except InvalidInput:
            tally.lost[side] += 1
            continue
        seen = true_pixels(photo, shot, burned, places)
        tally.off_mm.append(float(np.median(np.linalg.norm(pose.to_mm(seen) - places, axis=1))))
    document, _ = read_plate(plate, photos)
    for patch in document["patches"]:
        good = patch["through"] == truth[patch["id"]]
        tally.patches, tally.right = tally.patches + 1, tally.right + good
        if (patch["confidence"] or 0) >= SURE:
            tally.sure, tally.sure_right = tally.sure + 1, tally.sure_right + good
    return photos


def _read_filled(tally: Tally, plate: Plate, burned: Burned, seed: int) -> None:
    """The front once more, so near that no edge of the sheet is in the picture."""
    photo, shot = taken(burned, "front", seed, size=_size(burned))
    jpeg, rim, seen = filling(plate, burned, photo, shot, 1.2)
    try:
        pose = read_face(plate, jpeg, "front").laid.pose
    except InvalidInput:
        tally.filled_lost += 1
        return
    tally.filled_off_mm.append(float(np.median(np.linalg.norm(pose.to_mm(seen) - rim, axis=1))))


def _cut_figures() -> list[Figure]:
    tally = Tally()
    for i, wood in enumerate(WOODS):
        for j, shape in enumerate(SHAPES):
            plate = marked_plate(wood, patch={"shape": shape, "width_mm": 8, "height_mm": 8, "gap_mm": 3})
            burned = burned_plate(plate, seed=90 + 2 * i + j, cell_mm=FINEST_MM, wood=wood)
            for seed in range(900 + 10 * (2 * i + j), 903 + 10 * (2 * i + j)):
                _read_cuts(tally, plate, burned, seed)
                _read_filled(tally, plate, burned, seed)
    what = f"{len(WOODS)} materials, squares and coupons, a third of the photos with the worst settings"
    lost = {side: 100 * tally.lost[side] / tally.photos[side] for side in tally.lost}
    return [
        Figure("fronts with marks not found", lost["front"], "%", 5, f"{tally.photos['front']} photos; {what}"),
        Figure("backs not found", lost["back"], "%", 5, "by outline and pattern"),
        Figure(
            "position, median over all photos",
            statistics.median(tally.off_mm),
            "mm",
            0.2,
            f"worst photo {max(tally.off_mm):.3f} mm",
        ),
        Figure(
            "fronts that fill the picture, not found",
            100 * tally.filled_lost / tally.photos["front"],
            "%",
            5,
            "by code, rings and patches alone",
        ),
        Figure(
            "their position at the rim, median",
            statistics.median(tally.filled_off_mm),
            "mm",
            0.2,
            f"worst photo {max(tally.filled_off_mm):.3f} mm",
        ),
        Figure("through wrong", 100 * (1 - tally.right / tally.patches), "%", 1.5, f"{tally.patches} patches"),
        Figure(
            "through wrong where sure",
            100 * (1 - tally.sure_right / max(1, tally.sure)),
            "%",
            0.5,
            f"{tally.sure} patches",
        ),
    ]


def _shades_off(wood: Wood, seed: int, **how: Any) -> np.ndarray:
    """``(n, 2)`` how far off L* and the colour of each fill are, against the sheet's own."""
    plate = shaded_plate(wood)
    burned = burned_plate(plate, seed=seed, cell_mm=FINEST_MM, wood=wood)
    worst = WORST if seed % 3 == 0 else {}
    photo, _ = taken(burned, "front", seed, **{"filling": 0.55, "size": _size(burned), **worst, **how})
    document, _ = read_plate(plate, {"front": photo.jpeg})
    seen = np.array([[patch[key] for key in ("lightness", "a", "b")] for patch in document["patches"]])
    true = true_lab(plate, burned)
    return np.column_stack([np.abs(seen - true)[:, 0], ciede2000(seen, true)])


def _shade_figures() -> list[Figure]:
    """Engravings in a camera that bends nothing and in one that does, without the card and with it; and on brushed
    metal."""
    seeds = range(950, 954)
    woods = (POPLAR, WOODS[1])

    def many(sheets: Sequence[Wood], **how: Any) -> np.ndarray:
        return np.concatenate([_shades_off(wood, seed, **how) for wood in sheets for seed in seeds])

    plain, metal = many(woods, s_curve=0.0), many(BRUSHED, s_curve=0.0)
    bent, card = many(woods, s_curve=0.25), many(woods, s_curve=0.25, card=printed_card())
    count = f"{len(plain)} patches of {' and '.join(wood.substance for wood in woods)}"

    def high(off: np.ndarray) -> float:
        return float(np.percentile(off[:, 0], 95))

    middle = [float(np.median(off[:, 0])) for off in (plain, card, bent, metal)]
    brushed = f"{len(metal)} patches of {' and '.join(wood.substance for wood in BRUSHED)}"
    return [
        Figure("lightness off, median", middle[0], "L*", 0.5, count),
        Figure("lightness off, 95th percentile", high(plain), "L*", 2.5, count),
        Figure("colour off, median", float(np.median(plain[:, 1])), "CIEDE2000", 1.5, count),
        Figure("with 25 % tone curve and card, median", middle[1], "L*", 1.5, f"without the card {middle[2]:.2f}"),
        Figure("the same, 95th percentile", high(card), "L*", 4, f"without the card {high(bent):.2f}"),
        Figure("on brushed metal, 95th percentile", high(metal), "L*", 4, f"{brushed}; median {middle[3]:.2f}"),
    ]


def _grain_figures() -> list[Figure]:
    """Small drawn pictures of streaked sheets: what is not seen well has to be left to a person."""
    plate = marked_plate(code=None, labels={"on": False})
    states = ranked(plate, (0.5, 0.65, 0.8))
    patches = sure = wrong = 0
    for ground in ((0.33, 0.34, 0.36), (0.86, 0.77, 0.6), (0.6, 0.47, 0.33)):
        for seed in range(940, 948):
            document, _ = read_plate(plate, drawn(plate, states, ground, seed))
            for patch, state in zip(document["patches"], states.tolist(), strict=True):
                believed = (patch["confidence"] or 0) >= SURE
                patches, sure = patches + 1, sure + believed
                wrong += believed and patch["through"] != state
    share = f"{sure} of {patches} patches, 6.5 px/mm"
    return [Figure("through wrong where sure, streaked and coarse", 100 * wrong / max(1, sure), "%", 0.5, share)]


def cost_figures() -> list[Figure]:
    """100 patches, 12 megapixels a face."""
    axes = [
        {"parameter": "speed_mm_s", "along": "x", "from": 8, "to": 32, "count": 10, "spacing": "linear"},
        {"parameter": "power_pct", "along": "y", "from": 30, "to": 80, "count": 10, "spacing": "linear"},
    ]
    plate = marked_plate(axes=axes)
    burned = burned_plate(plate, seed=99, cell_mm=0.08)
    photos = {side: taken(burned, side, 980, size=_size(burned))[0].jpeg for side in ("front", "back")}
    # Alternately, so that a slow moment of the machine falls on both.
    pairs = [
        (
            cpu_seconds(lambda: [_decoded(data) for data in photos.values()]),
            cpu_seconds(lambda: read_plate(plate, photos)),
        )
        for _ in range(7)
    ]
    decoding, reading = (min(one[i] for one in pairs) for i in (0, 1))
    picture = read_photo(photos["front"])
    pose = read_face(plate, photos["front"], "front").laid.pose
    size = plate.width_mm, plate.height_mm
    mm = np.array([(5.0, 5.0), (size[0] - 5, 5.0), (size[0] - 5, size[1] - 5), (5.0, size[1] - 5)])

    def moved() -> None:
        measure_face(plate, picture, "front", find_by_corners(plate, picture, "front", mm, pose.to_pixels(mm) + 3.0))

    pairs = [(cpu_seconds(lambda: _decoded(photos["front"])), cpu_seconds(moved)) for _ in range(7)]
    decoding_one, again = (min(one[i] for one in pairs) for i in (0, 1))
    return [
        Figure(
            "12 MP front and back read, CPU over decoding",
            1000 * reading / (3000 * decoding + 200),
            "x",
            1,
            f"100 patches; {1000 * reading:.0f} ms against 3 x {1000 * decoding:.0f} ms + 200 ms",
        ),
        Figure(
            "once more with moved corners, CPU over decoding",
            again / decoding_one,
            "x",
            1.5,
            f"{1000 * again:.0f} ms against {1000 * decoding_one:.0f} ms",
        ),
        Figure(
            "memory of all this, at most",
            resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024,
            "MiB",
            600,
            "with the bench that burned and photographed in the same process",
        ),
    ]


def accuracy_figures() -> list[Figure]:
    """What is read right, of photographs taken at the camera's full size; these take minutes."""
    return [*_cut_figures(), *_grain_figures(), *_shade_figures()]

"""Photographs of cuts by the tests' own camera, which shares no code with reader and bench: where plates lie, what is
read right, and whether the reader is as often right as it says, by what lies below and by how well the photo was taken.
On seeds no test uses and nothing was tuned on."""

from __future__ import annotations

import itertools
from collections.abc import Iterator
from dataclasses import dataclass, field
from typing import get_args

import numpy as np
from tests.photographed import MARKED, marked_plate
from tests.rendered import Below, Face, Rendered, Scene, render

from benchmarks.timing import Figure
from rezept.actions.queries.photo_reading import read_face
from rezept.core.errors import InvalidInput
from rezept.core.photo.laid import Laid
from rezept.core.photo.readings import FaceRead, readings
from rezept.core.plan import Plate
from rezept.core.reading import SURE

# How well a photo is taken: tilt, how much less light at one end, noise, blur, quality of its JPEG.
TIERS = {
    "easy": {"tilt_deg": 6.0, "fall_off": 0.08, "noise": 0.003, "blur_px": 0.5, "quality": 92},
    "normal": {"tilt_deg": 14.0, "fall_off": 0.18, "noise": 0.006, "blur_px": 0.9, "quality": 82},
    "worst": {"tilt_deg": 28.0, "fall_off": 0.3, "noise": 0.012, "blur_px": 1.4, "quality": 65},
}
SIZE = (1440, 1080)
PATCHES = (
    {"width_mm": 8, "height_mm": 8, "gap_mm": 3},
    {"shape": "disc", "width_mm": 8, "height_mm": 8, "gap_mm": 3},
    {"shape": "coupon", "width_mm": 9, "height_mm": 9, "gap_mm": 3},
)
FIRST_SEED = 700
# Plates for each ground and tier.
PLATES = 4
# A plate lies rightly where every patch's middle is within this.
RIGHT_MM = 0.3
# The reader's word is taken in these steps of how sure it says it is.
CONFIDENCES = (0.5, 0.7, 0.9, 0.97, 1.01)


@dataclass
class Tally:
    """Of some photographs: how many there are, lie rightly, and lie wrong without a doubt; of their patches, whether
    each was read right and how sure that was."""

    photos: int = 0
    laid: int = 0
    surely_wrong: int = 0
    right: list[bool] = field(default_factory=list)
    sure: list[float] = field(default_factory=list)

    def add(self, other: Tally) -> None:
        self.photos += other.photos
        self.laid += other.laid
        self.surely_wrong += other.surely_wrong
        self.right += other.right
        self.sure += other.sure

    def share_right(self, least: float = 0.0) -> float:
        """Of the patches of which the reader is so sure the share that is right; 1 where there are none."""
        right = [right for right, sure in zip(self.right, self.sure, strict=True) if sure >= least]
        return float(np.mean(right)) if right else 1.0

    def share_sure(self) -> float:
        return float(np.mean(np.array(self.sure) >= SURE)) if self.sure else 0.0


# Sheets: pale and dark wood, white and blue acrylic.
SHEETS = ((0.55, 0.40, 0.24), (0.10, 0.058, 0.034), (0.80, 0.81, 0.80), (0.03, 0.20, 0.62))


def _pictures(plate: Plate, below: Below, tier: str, seed: int) -> Iterator[Rendered]:
    chance = np.random.default_rng(seed)
    through = dict(zip(plate.elements.ids, chance.integers(0, 4, len(plate.elements)).tolist(), strict=True))
    sheet = SHEETS[(seed // len(PATCHES)) % len(SHEETS)]
    beyond = float(chance.choice([0.0, 0.0, 4.0, 9.0]))
    for face in get_args(Face):
        scene = Scene(
            below=below,
            sheet=sheet,
            beyond_mm=beyond,
            beside=int(chance.integers(0, 4)),
            size=SIZE,
            towards_deg=float(chance.uniform(0, 360)),
            roll_deg=float(chance.normal(0, 6)),
            k1=float(chance.uniform(-0.01, 0.02)),
            seed=seed,
            **TIERS[tier],  # type: ignore[arg-type]
        )
        yield render(plate.document(), face, scene, through)


def _judged(plate: Plate, below: Below, tier: str, seed: int) -> Tally:
    """Both faces of one plate."""
    tally = Tally()
    faces: dict[str, FaceRead] = {}
    shown: Laid | None = None
    truth: dict[str, int] = {}
    middles = plate.elements.corners + plate.elements.boxes[:, 2:] / 2
    for picture in _pictures(plate, below, tier, seed):
        tally.photos += 1
        truth = dict(picture.through)
        try:
            # As the shop does: what the front shows helps to lay the back.
            face = read_face(plate, picture.jpeg, picture.face, shown)
        except InvalidInput:
            continue
        shown = face.laid
        off = np.linalg.norm(face.laid.pose.to_mm(picture.pixels(middles)) - middles, axis=1).max()
        tally.laid += bool(off <= RIGHT_MM)
        tally.surely_wrong += bool(off > RIGHT_MM and not face.laid.doubts)
        faces[picture.face] = face
    said = {one["id"]: one for one in readings(plate, list(faces.values()))["patches"]} if faces else {}
    for one, came_out in truth.items():
        row = said.get(one, {})
        tally.right.append(row.get("through") == came_out)
        tally.sure.append(row.get("confidence") or 0.0)
    return tally


def tallies() -> dict[tuple[Below, str], Tally]:
    """By what lies below and how well the photos are taken."""
    found = {}
    seed = FIRST_SEED
    for below in get_args(Below):
        for tier in TIERS:
            found[below, tier] = Tally()
            for _ in range(PLATES):
                seed += 1
                plate = marked_plate(patch=PATCHES[seed % len(PATCHES)], labels={**MARKED, "qr": seed % 4 != 0})
                found[below, tier].add(_judged(plate, below, tier, seed))
    return found


def table(found: dict[tuple[Below, str], Tally]) -> list[str]:
    """How often the reader is right where it says it is so sure, a line each for ground and tier."""
    steps = list(itertools.pairwise(CONFIDENCES))
    lines = ["ground     tier    laid   " + "   ".join(f"{low:.2f} on".rjust(11) for low, _ in steps)]
    for (below, tier), tally in found.items():
        sure, right = np.array(tally.sure), np.array(tally.right, bool)
        cells = []
        for low, high in steps:
            here = (sure >= low) & (sure < high)
            cells.append(f"{right[here].sum():3d} of {here.sum():3d}".rjust(11))
        lines.append(f"{below:<10} {tier:<7} {tally.laid}/{tally.photos}    " + "   ".join(cells))
    return lines


def figures() -> list[Figure]:
    found = tallies()
    for line in table(found):
        print(line, flush=True)
    told, same = Tally(), Tally()
    for (below, _), tally in found.items():
        (same if below == "same" else told).add(tally)
    what = f"{len(told.right)} patches over cells, steel, light and table"
    photos = f"{told.photos} photos"
    return [
        Figure("strange photos not rightly laid", 100 * (1 - told.laid / told.photos), "%", 3, photos),
        Figure("strange photos laid wrong without a doubt", 100 * told.surely_wrong / told.photos, "%", 0, photos),
        Figure("their through wrong", 100 * (1 - told.share_right()), "%", 3, what),
        Figure("their through wrong where sure", 100 * (1 - told.share_right(SURE)), "%", 0.5, what),
        Figure("their through not sure", 100 * (1 - told.share_sure()), "%", 40, what),
        Figure("sure though below looks like the sheet", 100 * same.share_sure(), "%", 0, f"{len(same.right)} patches"),
    ]

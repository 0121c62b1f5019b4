"""The plate file, `rezept-plate` version 1; see `docs/formats/plate.md`."""

from __future__ import annotations

from rezept.core.plan import Plate
from rezept.formats.strict_json import write_json


def write_plate_file(plate: Plate) -> bytes:
    return write_json(plate.document())

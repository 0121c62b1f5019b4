"""The settings sheet: one line a patch, to type from where a machine takes no file."""

from __future__ import annotations

import csv
import io

from rezept.core.plan import Plate


def write_sheet(plate: Plate) -> bytes:
    """CSV (RFC 4180, UTF-8) in burn order first, patches that do not burn last; units stand in the headings."""
    out = io.StringIO(newline="")
    writer = csv.writer(out)
    keys = list(plate.settings)
    dose_key = plate.trial.process.dose_key
    writer.writerow(["plate", "turn", "patch", "row", "column", "burn", *keys, dose_key, "seconds", "warnings"])
    burned = plate.order.tolist()
    for turn, i in enumerate([*burned, *[i for i in range(len(plate.ids)) if not plate.burn[i]]], start=1):
        burns = bool(plate.burn[i])
        writer.writerow(
            [
                plate.trial.code or "",
                turn if burns else "",
                plate.ids[i],
                int(plate.row[i]),
                int(plate.column[i]),
                "yes" if burns else "no",
                *[f"{plate.settings[key][i]:.10g}" for key in keys],
                f"{plate.dose[i]:.6g}",
                f"{plate.seconds[i]:.2f}",
                " ".join(warning.sentence for warning in plate.patch_warnings[i]),
            ]
        )
    return out.getvalue().encode()

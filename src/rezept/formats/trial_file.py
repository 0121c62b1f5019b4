"""The trial file, `rezept-trial` version 1; see `docs/formats/trial.md`."""

from __future__ import annotations

from rezept.core.plan import Trial, read_trial
from rezept.formats.strict_json import read_json, write_json


def read_trial_file(data: bytes) -> Trial:
    return read_trial(read_json(data, "The trial"))


def write_trial_file(trial: Trial) -> bytes:
    return write_json(trial.document())

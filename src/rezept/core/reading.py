"""What is said of a burned element: by a person, by photographs, and whose word counts."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from rezept.core.errors import InvalidInput
from rezept.core.fields import Fields
from rezept.core.process import Process
from rezept.core.scales import Speaker, came_out_by_push, scale_of

# The file of readings (docs/formats/readings.md).
FORMAT, VERSION = "rezept-readings", 1
# What is written of every patch, null where no face shows it; and what is, where there is something to say.
SCORED = ("through", "char", "soot", "darkness", "evenness")
SCORED_SOMETIMES = ("turned", "layer")
# From here on a photo's word counts until a person says otherwise.
SURE = 0.9
# The day from which photographs are scored as they are by now (core/photo/score.py). Another day is another rule: what
# was scored by it stays where a recipe rests on it, and says so.
RULE = "2026-11-28"
# What makes a photo's figures of a patch worthless.
SPOILING = frozenset({"glare", "shadow", "blur"})
# What is seen through openings looks like the sheet: nothing the photo says of a cut is sure.
BELOW_ALIKE = "below_alike"
# Parts of it are narrower than what is looked at beside their outlines: what a photo says of a cut there is not sure.
NARROW = "narrow"
# Nobody knows the colour of the bare ground: a pale grey stands for it.
GROUND_ASSUMED = "ground_assumed"
# Where the patch lies in the photo may be wrong: what is measured may be measured beside it.
PLACE_DOUBTFUL = "place_doubtful"


@dataclass(frozen=True)
class Reading:
    """What a person says of one element: values by scale; what is not said is not among them."""

    values: Mapping[str, float]
    cannot_tell: bool
    note: str


def read_reading(fields: Fields, process: Process) -> Reading:
    """A reading from its document, only what means something for the process.

    Raises
    ------
    InvalidInput : with the path of the value and a sentence
    """
    inner = fields.inner("values", {})
    values = {}
    for key, value in inner.data.items():
        scale = scale_of(key, process, inner.at(str(key)))
        number = scale.checked(value, inner.at(key))
        # What has only to be said or not is left out where it is not.
        if scale.kind != "yes" or number:
            values[scale.key] = number
    cannot_tell = fields.flag("cannot_tell", False)
    if "push" in values and process.outcome not in values and not cannot_tell:
        # Fingers know whether it came out; no photo outranks them.
        values[process.outcome] = float(came_out_by_push(values["push"]))
    reading = Reading(values=values, cannot_tell=cannot_tell, note=fields.text("note", "", longest=2000))
    if reading.cannot_tell and process.outcome in values:
        raise InvalidInput("A patch is either scored or one cannot tell.", fields.at("cannot_tell"))
    fields.finish()
    return reading


def photo_counts(photo: Mapping[str, float], sure: float | None, outcome: str) -> bool:
    """Whether the photographs' word on an element counts where no person has said how it came out."""
    return outcome in photo and sure is not None and sure >= SURE


def as_it_counts(
    own: Reading | None, photo: Mapping[str, float], sure: float | None, outcome: str
) -> tuple[dict[str, float], Speaker] | None:
    """What counts of an element, and who says so; None where nobody has said anything that counts.

    Where a person has said how it came out, or that one cannot tell, all of it is the person's word. Else the
    photographs' counts where they are sure enough of the outcome; whatever else a person has said stays beside it.

    Parameters
    ----------
    photo, sure : what the photographs say, and how sure they are of the outcome (0 to 1)
    outcome : the scale that decides for this process
    """
    speaks = photo_counts(photo, sure, outcome)
    if own is None:
        return (dict(photo), "photo") if speaks else None
    if not speaks or own.cannot_tell or outcome in own.values:
        return dict(own.values), "person"
    return {**photo, **own.values}, "photo"

"""From a trial to a plate: axes, patches, their places, the order, the checks."""

from rezept.core.plan.frozen import read_plate
from rezept.core.plan.planner import plan
from rezept.core.plan.plate import Plate, Warning
from rezept.core.plan.trial import Trial, read_trial

__all__ = ["Plate", "Trial", "Warning", "plan", "read_plate", "read_trial"]

"""`make bench`: the figures one looks at before every change lands, each with its limit and its reference.
`make bench-long`: those that take minutes. Exit code 1 where a limit is missed."""

import sys
import time

from benchmarks import (
    book,
    brought,
    burning,
    crowd,
    decide_page,
    deciding,
    first_load,
    gcode,
    growing,
    hostile,
    keystroke,
    kill,
    lists,
    planning,
    reading,
    starting,
    stopping,
    strangers,
)
from benchmarks.timing import Figure

SHORT = (
    planning.figures,
    brought.figures,
    gcode.figures,
    keystroke.figures,
    stopping.figures,
    burning.figures,
    reading.cost_figures,
    book.figures,
    lists.figures,
    first_load.figures,
    starting.figures,
    decide_page.figures,
    growing.figures,
    deciding.figures,
)
LONG = (reading.accuracy_figures, strangers.figures, crowd.figures, hostile.figures, kill.figures, kill.worker_figures)
# Longer than this, nobody looks at it before every change.
PATIENCE_MIN = 8.0


def main(words: list[str]) -> int:
    missed = 0
    took: dict[str, float] = {}

    def tell(figure: Figure) -> None:
        nonlocal missed
        print(figure.line(), flush=True)
        missed += not figure.holds

    for subject in LONG if "--long" in words else SHORT:
        began = time.perf_counter()
        for figure in subject():
            tell(figure)
        took[subject.__module__.removeprefix("benchmarks.")] = time.perf_counter() - began
    parts = ", ".join(f"{name} {seconds:.0f} s" for name, seconds in took.items())
    if "--long" in words:
        print(parts)
    else:
        tell(Figure("all of this took", sum(took.values()) / 60, "min", PATIENCE_MIN, parts))
    return 1 if missed else 0


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))

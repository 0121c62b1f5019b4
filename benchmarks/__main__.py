"""`make bench`: all figures, each with its limit and its reference. Exit code 1 where a limit is missed."""

import sys

from benchmarks import book, burning, crowd, first_load, gcode, keystroke, kill, planning, reading


def main() -> int:
    missed = 0
    for subject in (planning, gcode, keystroke, burning, reading, book, first_load, crowd, kill):
        for figure in subject.figures():
            print(figure.line(), flush=True)
            missed += not figure.holds
    return 1 if missed else 0


if __name__ == "__main__":
    sys.exit(main())

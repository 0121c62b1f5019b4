"""`make bench`: the figures one looks at before every change lands, each with its limit and its reference.
`make bench-long`: those that take minutes. Exit code 1 where a limit is missed."""

import sys

from benchmarks import book, burning, crowd, first_load, gcode, keystroke, kill, planning, reading, stopping

SHORT = (planning, gcode, keystroke, stopping, burning, reading, book, first_load)
LONG = (crowd, kill)


def main(words: list[str]) -> int:
    missed = 0
    for subject in LONG if "--long" in words else SHORT:
        for figure in subject.figures():
            print(figure.line(), flush=True)
            missed += not figure.holds
    return 1 if missed else 0


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))

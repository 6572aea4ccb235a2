"""Runs all benchmarks and prints ratios; numbers are of this machine and this run."""

from benchmarks import capture, first_paint, keystroke, logbook, uncertainty


def main() -> None:
    """Print each benchmark's line."""
    for line in (*first_paint.lines(), *keystroke.lines(), *logbook.lines(), *uncertainty.lines(), *capture.lines()):
        print(line)


if __name__ == "__main__":
    main()

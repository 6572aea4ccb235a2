"""Runs all benchmarks and prints ratios; numbers are of this machine and this run."""

from benchmarks import first_paint, keystroke


def main() -> None:
    """Print each benchmark's line."""
    for line in (*first_paint.lines(), *keystroke.lines()):
        print(line)


if __name__ == "__main__":
    main()

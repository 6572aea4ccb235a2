"""Runs all benchmarks and prints ratios; numbers are of this machine and this run."""

from benchmarks import capture, first_paint, growth, hookup, keystroke, logbook, uncertainty


def main() -> None:
    """Print each benchmark's line."""
    for part in (first_paint, keystroke, growth, hookup, logbook, uncertainty, capture):
        for line in part.lines():
            print(line)


if __name__ == "__main__":
    main()

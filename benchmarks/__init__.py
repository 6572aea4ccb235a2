"""What must be fast, against its peers, in one run: `python -m benchmarks`."""

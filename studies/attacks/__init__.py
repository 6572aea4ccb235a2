"""What a bad disk, a full one and awkward files do to logbooks and job files, and what became of each."""

"""Taps, pads, dividers and loads to be built: their values, what they are made of, what they do and what they bear."""

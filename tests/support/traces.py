"""Captured traces as files, for tests that open one."""

from pathlib import Path

import numpy as np


def write_trace(path: Path, frequency_hz: float = 7.125e6, amplitude_v: float = 51.0, **more: object) -> Path:
    """A CSV of a steady carrier as an 8-bit oscilloscope samples it; `clip` in V, `noise` over the amplitude."""
    step, size = 2e-9, int(more.get("samples", 3000))  # type: ignore[call-overload]
    t = np.arange(size) * step
    noise = float(more.get("noise", 0.002))  # type: ignore[arg-type]
    volts = amplitude_v * (np.cos(2 * np.pi * frequency_hz * t + 0.4))
    volts = volts + amplitude_v * noise * np.random.default_rng(4).standard_normal(size)
    if "clip" in more:
        volts = np.clip(volts, -float(more["clip"]), float(more["clip"]))  # type: ignore[arg-type]
    volts = np.round(volts / 0.4) * 0.4
    columns = [t, volts, 0.1 * np.sign(np.sin(2e7 * t))] if more.get("two") else [t, volts]
    head = "time,CH1,CH2\ns,V,V\n" if more.get("two") else "time,CH1\ns,V\n"
    path.write_text(head + "\n".join(",".join(f"{v:.9g}" for v in row) for row in zip(*columns, strict=True)))
    return path

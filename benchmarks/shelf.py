"""What a shelf can decide: every bench of a kit of 40 parts at six frequencies; the peer is one bench worked out."""

from dataclasses import replace
from datetime import UTC, datetime

from benchmarks.clock import median_seconds
from fenmist.kit.generic import starter_shelf
from fenmist.kit.part import PartKind
from fenmist.procedures.shelf import devices, ranked, usual_frequencies
from fenmist.procedures.table import room_of

PARTS = 40
AIM_S = 0.5
NOW = datetime(2026, 11, 27, tzinfo=UTC)


def lines() -> list[str]:
    """One line."""
    kit = list(starter_shelf())
    more = [part for part in kit if part.kind in (PartKind.ATTENUATOR, PartKind.POWER_METER, PartKind.OSCILLOSCOPE)]
    for number in range(max(PARTS - len(kit), 0)):
        part = more[number % len(more)]
        kit.append(replace(part, id=f"{part.id}-{number}", label=f"{part.label} {number}"))
    room = room_of("comparison")
    device = devices(room, kit)[0]
    f = usual_frequencies(device)
    once = median_seconds(lambda: ranked(room, kit, device, f[:1], 50.0, NOW.date(), NOW), 3)
    whole = median_seconds(lambda: ranked(room, kit, device, f, 50.0, NOW.date(), NOW), 3)
    found = len(ranked(room, kit, device, f, 50.0, NOW.date(), NOW))
    return [
        f"a shelf of {len(kit)} parts, {found} benches at {len(f)} frequencies: {whole:.2f} s = "
        f"{whole / AIM_S:.1f} of the aim of {AIM_S:g} s; at one frequency {once:.2f} s"
    ]

"""Writes docs/method/faults.md: runs on live benches with one fault planted in each, and runs with none."""

from collections import Counter
from collections.abc import Sequence
from concurrent.futures import ProcessPoolExecutor
from pathlib import Path

from fenmist.simulation.faults import FAULTS, Fault
from studies import planted

ROOT = Path(__file__).parent.parent

SEEDS, IN_ORDER = range(1, 7), range(1, 21)
"""Numbers of the benches with a fault in them, and of those in order."""

HEAD = """# Faults: what a technician would see, and which note catches it

Written by `studies/faults_page.py`; `tests/judgement/test_faults_planted.py` runs a short form always.

Each run is a whole job on a live bench (`simulation/live.py`) whose hidden truths are drawn within what is stated:
three or four frequencies, two levels, three rounds, settled, key up and rested between rounds, typed as instruments
show it; a meter that shows reflected power has that read as well. A fault changes only what is true. It *counts* where
it moves a result by more than its U, against the same bench in order; what no result feels is not asked of the notes.
It is *named* where a note (stop, doubt or watch) stands that the clean bench doesn't have. Where none does the last
column tells how often the result itself still says so, by a verdict outside the tolerance by more than U: the device is
blamed then for what is the bench's.

What is seen is common practice, no source. That a coupler whose corner lies √2 above the carrier reads a third is
derived (1/(1 + (f_L/f)²)):

```
>>> corner_over_carrier = 2.0**0.5
>>> round(1.0 / (1.0 + corner_over_carrier**2), 3)
0.333

```

| fault | what a technician would see | strength | runs | count | named | by | verdict alone |
|---|---|---|---|---|---|---|---|
"""


def _clean(given: tuple[str, int]) -> planted.Judged:
    name, seed = given
    return planted.judged(planted.run(planted.PLANS[name], seed, {}))


def _faulty(given: tuple[str, int, str, float, planted.Judged]) -> planted.Planted:
    return planted.planted_in(*given)


def _row(fault: Fault, at: float, found: Sequence[planted.Planted]) -> str:
    count = [item for item in found if item.counts]
    named = [item for item in count if item.named]
    by = Counter(code for item in named for code in (item.alarmed or item.noted))
    alone = sum(item.rejects and not item.named for item in count)
    strength = f"{at:g} {fault.unit}" if fault.unit else "–"
    codes = ", ".join(f"`{code}`" for code, _ in by.most_common(3)) or "–"
    numbers = f"{len(found)} | {len(count)} | {len(named)} | {codes} | {alone}"
    return f"| {fault.title} | {fault.seen} | {strength} | {numbers} |\n"


def _in_order(said: Sequence[set[str]], what: str) -> str:
    """How many benches in order carry a note that wasn't there before anything was read."""
    some = [codes for codes in said if codes]
    by = f": {', '.join(f'`{code}`' for code in sorted({c for codes in some for c in codes}))}" if some else ""
    return (
        f"Of {len(said)} clean runs {len(some)} carry {what} that wasn't there before anything was read "
        f"({100 * len(some) / len(said):.1f} %){by}.\n"
    )


def main() -> None:
    """Run it on all cores and write the page."""
    names = sorted({name for names in planted.HAS.values() for name in names})
    with ProcessPoolExecutor() as pool:
        pairs = [(name, seed) for name in names for seed in IN_ORDER]
        clean = dict(zip(pairs, pool.map(_clean, pairs, chunksize=4), strict=True))
        wanted = [
            (name, seed, fault.id, strength, clean[name, seed])
            for fault in FAULTS
            for strength in planted.strengths(fault)
            for name in planted.HAS.get(fault.id, ())
            for seed in SEEDS
        ]
        found = list(pool.map(_faulty, wanted, chunksize=4))
    text = HEAD
    for fault in FAULTS:
        for strength in planted.strengths(fault):
            mine = [item for item in found if (item.fault, item.strength) == (fault.id, strength)]
            text += _row(fault, strength, mine) if mine else ""
    count = [item for item in found if item.counts]
    named = sum(item.named for item in count)
    text += f"\nOf {len(count)} runs in which a fault counts {named} are named ({100 * named / len(count):.1f} %).\n"
    before = {name: planted.by_itself(name).codes for name in names}
    text += _in_order(
        [judged.alarms - before[name] - planted.QUIET for (name, _), judged in clean.items()], "a stop or a doubt"
    )
    watched = [judged.codes - judged.alarms - before[name] - planted.QUIET for (name, _), judged in clean.items()]
    text += _in_order(watched, "something to watch")
    text += "What is to be watched there is the meter's own error, drawn within what is stated and larger than U.\n"
    text += (
        "\nWhat nobody can tell on these benches: two instruments that are wrong alike agree, and only a third of "
        "another principle\ntells; a peak button that is only a hold is right on a carrier "
        "([modulation](modulation.md)).\n"
    )
    (ROOT / "docs" / "method" / "faults.md").write_text(text, "utf-8")
    print(text)


if __name__ == "__main__":
    main()

"""Writes docs/method/slips.md: a thousand runs with one slip planted in each, a thousand without."""

from concurrent.futures import ProcessPoolExecutor
from pathlib import Path

import numpy as np

from studies import slips

ROOT = Path(__file__).parent.parent

WITH_SLIP, CLEAN, CHUNK = 1001, 1000, 20
SEED = 4

HEAD = """# Slips: which are caught, and how often a clean run is disturbed

Written by `studies/slips_page.py`; `tests/procedures/comparison/test_slips.py` runs a short form always.

Each run is a whole job on a bench drawn anew in `simulation/` (meter error, scope gain, load, carrier set and drooping
by 3 %): five frequencies, two levels on ranges of 50 and 200 W, two rounds, 40 entries, typed as instruments show them.
One slip stands at a random entry. A slip *counts* if it moves the result at its point by more than that point's U and
lies apart from the other round and the neighbouring points by more than their own span: what nobody could tell is not
asked of the notes. It is *named* when a stop, a doubt or an open entry stands at that entry or its partner of the
round; *at once*, when it does as soon as the round stands. Intervals are exact binomial ones (Clopper-Pearson, 95 %).

| slip | what is typed |
|---|---|
| decimal | ten times, or a tenth |
| range | the knob on the higher range, the lower range's figures read |
| arc | the other range's figures read |
| transposed digits | two neighbouring digits swapped |
| unit | mW for W, mV for V, or dBm typed as W |
| Vpp/Vrms | rms or peak volts typed as peak to peak |
| swapped ports | what comes back from a good load, 0.05 to 1 % |

The interval of 157 hits in 160 by two ways, the beta distribution and the binomial itself:

```
>>> from scipy.stats import beta, binom
>>> low = beta.ppf(0.025, 157, 4)
>>> round(float(low), 4), round(float(binom.sf(156, 160, low)), 4)
(0.9462, 0.025)

```

| slip | runs | count | named | interval | at once |
|---|---|---|---|---|---|
"""


def _planted(chunk: tuple[str, int]) -> list[slips.Planted]:
    kind, first = chunk
    job = slips.empty_job()
    number = slips.KINDS.index(kind)
    return [slips.planted(kind, job, np.random.default_rng([SEED, number, n])) for n in range(first, first + CHUNK)]


def _clean(first: int) -> list[tuple[int, int]]:
    job = slips.empty_job()
    return [slips.clean_run(job, np.random.default_rng([SEED, 99, n])) for n in range(first, first + CHUNK)]


def interval(hits: int, of: int) -> tuple[float, float]:
    """Clopper-Pearson, 95 %."""
    from scipy.stats import beta

    low = 0.0 if hits == 0 else float(beta.ppf(0.025, hits, of - hits + 1))
    high = 1.0 if hits == of else float(beta.ppf(0.975, hits + 1, of - hits))
    return low, high


def _row(name: str, found: list[slips.Planted]) -> str:
    count = [item for item in found if item.counts]
    named, at_once = sum(item.named for item in count), sum(item.at_once for item in count)
    low, high = interval(named, len(count))
    share = f"{100 * named / len(count):.1f} %" if count else "—"
    return (
        f"| {name} | {len(found)} | {len(count)} | {named} = {share} | {100 * low:.1f} to {100 * high:.1f} % | "
        f"{100 * at_once / max(len(count), 1):.1f} % |\n"
    )


def main() -> None:
    """Run it on all cores and write the page."""
    each = round(WITH_SLIP / len(slips.KINDS) / CHUNK) * CHUNK or CHUNK
    chunks = [(kind, first) for kind in slips.KINDS for first in range(0, each + CHUNK, CHUNK)]
    with ProcessPoolExecutor() as pool:
        lists = list(pool.map(_planted, chunks))
        clean = [run for runs in pool.map(_clean, range(0, CLEAN, CHUNK)) for run in runs]
    by_kind: dict[str, list[slips.Planted]] = {kind: [] for kind in slips.KINDS}
    for (kind, _), found in zip(chunks, lists, strict=True):
        by_kind[kind] += found
    text = HEAD + "".join(_row(kind, found) for kind, found in by_kind.items())
    every = [item for found in by_kind.values() for item in found]
    text += _row("all", every)
    disturbed, alarms, entries = sum(a > 0 for a, _ in clean), sum(a for a, _ in clean), sum(n for _, n in clean)
    low, high = interval(disturbed, len(clean))
    text += (
        f"\nOf {len(clean)} clean runs {disturbed} carry a doubt at an entry ({100 * low:.2f} to {100 * high:.2f} % of "
        f"runs): {alarms} of {entries} entries.\n"
    )
    missed = [f"{item.kind}: {item.where}" for item in every if item.counts and not item.named]
    if missed:
        text += "\nMissed, the first ten: " + "; ".join(missed[:10]) + ".\n"
    text += (
        "\n`tests/procedures/comparison/test_slips_elsewhere.py` plants decimal, unit and digit slips on four other "
        "benches (sensor behind a pad, ammeter, voltmeter behind a\ndivider, better meter in the line): of 72 at most "
        "one in each bench that counts may stay unnamed, and clean runs carry no doubt at an entry.\n"
        "\nLimits: one slip a run, one kind of meter, carriers set within a few per cent of the plan; a slip that "
        "fits the plan and\nits neighbours can't be told from a reading, and none of this replaces reading it twice.\n"
    )
    (ROOT / "docs" / "method" / "slips.md").write_text(text, "utf-8")
    print(text)


if __name__ == "__main__":
    main()

"""Writes docs/method/triage.md: a thousand simulated set-ups with one thing wrong, gone through test by test."""

from collections import Counter
from collections.abc import Sequence
from concurrent.futures import ProcessPoolExecutor
from itertools import pairwise
from pathlib import Path

from fenmist.methods.chain import BAD, SUSPECTS, USUAL
from fenmist.methods.triage import TESTS
from studies.triaged import SHARES, Gone, go_through

ROOT = Path(__file__).parent.parent

RUNS = 1000
BINS = (0.0, 0.02, 0.1, 0.3, 0.5, 0.7, 0.9, 1.0)

HEAD = """# Triage: transmitter, line or meter

Written by `studies/triage_page.py`; `tests/methods/test_triage.py` runs a short form always.

What was read at once is a *sighting*: the power that is set, the transmitter's own meter, an external meter behind a
jumper, the SWR, into a load, an antenna, or a load at the far end of the line. `methods/chain.py` draws {drawn} ways
of that chain for each suspect, every part as it usually is and the suspect as it is when it is bad; a sighting weighs
each way by how near it comes to what was read (6 % of a power, 0.02 of ρ, Student's t with four degrees of freedom),
and the same way has to come near at every sighting. What was exchanged is drawn anew. Odds follow by Bayes from these
likelihoods and from how often each suspect is met. It takes one thing to be wrong: where nothing comes near, a note
says so.

In a job (`procedures/triage/`) a sighting is a visit with a name: `load`, `antenna`, `far load`, and behind `, new`
what was exchanged for it; its power is the one that is planned. All sightings at one frequency are weighed together.
What is done one after the other at a sighting stands beside its entries and on its run sheet
(`procedures/triage/order.py`): what was exchanged, the load with its rating against the power, connectors, the meter's
way round and its range, how long the key may be down, where to stop.

The next test is the one that takes away most of what is open (entropy of the odds) for what it costs, worked out by
drawing what would be read.

Derived: an SWR of 2 sends back a ninth, ((S − 1)/(S + 1))²:

```
>>> round(((2.0 - 1.0) / (2.0 + 1.0)) ** 2, 3)
0.111

```

| suspect | how often | ground |
|---|---|---|
{suspects}

| figure | usually | where it is bad |
|---|---|---|
{figures}

Logarithms of powers over what is set (`set`, `own`, `external`, `gain`, `mode`), parts of the highest power set
(`top`), volts, the SWR at which power folds back (`threshold`), dB (`relay`, `jumper`, `line_db`), ρ, and by how much
of itself a relay's loss differs from time to time (`scatter`). How often each is met, how bad it is then, and what
tests cost are common practice, no source; that high SWR is most often a connector, then the antenna, then the line,
too.

| test | cost |
|---|---|
{tests}

## Shown on simulated set-ups

{runs} set-ups by nodes (`simulation/`, nothing shared with the chain above), one thing wrong in each: contacts of
some ohms, water across a line's end, an antenna of another impedance, an output stage that is weak or limited, a
meter that is off, another mode. Sighted first into a load or an antenna, then by the tests offered.

"""


def _reliability(found: Sequence[Gone], when: str) -> str:
    rows = []
    for low, high in pairwise(BINS):
        pairs = [
            (odds, name == item.fault)
            for item in found
            for name, odds in getattr(item, when).items()
            if low <= odds < high or (high == 1.0 and odds == 1.0)
        ]
        if pairs:
            said, came = (sum(values) / len(pairs) for values in zip(*pairs, strict=True))
            rows.append(f"| {low:g} to {high:g} | {len(pairs)} | {said:.3f} | {came:.3f} |")
    return "| odds | said | on average | came true |\n|---|---|---|---|\n" + "\n".join(rows) + "\n"


def brier(found: Sequence[Gone], when: str) -> float:
    """Mean square of odds less what came true, over all suspects (Brier 1950)."""
    squares = [(odds - (name == item.fault)) ** 2 for item in found for name, odds in getattr(item, when).items()]
    return float(sum(squares)) / len(found)


def _when_bad(name: str) -> str:
    return "; ".join(f"{suspect}: {bad[name]}" for suspect, bad in BAD.items() if name in bad) or "–"


def main() -> None:
    """Run it on all cores and write the page."""
    with ProcessPoolExecutor() as pool:
        found = list(pool.map(go_through, range(RUNS), chunksize=8))
    first = sum(item.order[0] == item.fault for item in found) / RUNS
    two = sum(item.fault in item.order[:2] for item in found) / RUNS
    commonest = max(SHARES, key=lambda name: SHARES[name])
    always = sum(2.0 * (item.fault != commonest) for item in found) / RUNS
    text = HEAD.format(
        drawn="4,000", runs=f"{RUNS:,}",
        suspects="\n".join(f"| {item.what} | {item.prevalence:g} | {item.ground} |" for item in SUSPECTS),
        figures="\n".join(f"| `{name}` | {usual} | {_when_bad(name)} |" for name, usual in USUAL.items()),
        tests="\n".join(f"| {item.what} | {item.cost:g} |" for item in TESTS),
    )  # fmt: skip
    text += (
        f"The true one stands first in {100 * first:.1f} %, among the first two in {100 * two:.1f} %, after "
        f"{sum(item.sightings for item in found) / RUNS:.1f} sightings on average.\n"
        f"Brier score {brier(found, 'odds'):.3f}; after the first sighting alone {brier(found, 'first'):.3f}; "
        f"always saying the commonest ({commonest}) {always:.3f}.\n\n"
    )
    text += "| what is wrong | set-ups | first | first two | taken for |\n|---|---|---|---|---|\n"
    for name in SHARES:
        mine = [item for item in found if item.fault == name]
        wrong = Counter(item.order[0] for item in mine if item.order[0] != name)
        taken = ", ".join(f"{other} {count}" for other, count in wrong.most_common(2)) or "–"
        right, near = sum(item.order[0] == name for item in mine), sum(name in item.order[:2] for item in mine)
        text += f"| {name} | {len(mine)} | {right} | {near} | {taken} |\n"
    text += "\nOdds against what came true, after the first sighting:\n\n" + _reliability(found, "first")
    text += "\nand at the end:\n\n" + _reliability(found, "odds")
    (ROOT / "docs" / "method" / "triage.md").write_text(text, "utf-8")
    print(text)


if __name__ == "__main__":
    main()

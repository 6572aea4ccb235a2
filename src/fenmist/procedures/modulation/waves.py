"""The waveforms of a job: by the names of its visits."""

import math
from collections.abc import Sequence
from functools import lru_cache

from fenmist.calibration.sent import AGAIN
from fenmist.errors import FenmistError
from fenmist.waveform.named import waveform_from_text
from fenmist.waveform.shapes import Waveform

FEWEST = 2


@lru_cache(maxsize=256)
def waveform_of(leg: str) -> Waveform:
    """What is sent at a visit; raises UnreadableError, OutOfRangeError."""
    return waveform_from_text(leg.removesuffix(AGAIN))


def problem_of(names: Sequence[str]) -> str:
    """What is wrong with waveforms that are to be sent in turn, or nothing."""
    if len(names) < FEWEST:
        return "a carrier and one waveform more are needed"
    if len(set(names)) < len(names):
        return "a waveform stands there twice: name the second one “… again”"
    try:
        made = [waveform_of(name) for name in names]
    except FenmistError as error:
        return error.headline
    if made[0].period_s != 0.0:
        return f"the first is {made[0].name}: begin with a carrier, which the others are held against"
    moving = next((item for item in made if math.isinf(item.period_s)), None)
    return "" if moving is None else f"{moving.name} never repeats: nothing can be predicted of a reading on it"

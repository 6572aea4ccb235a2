"""The border behind which a job's arithmetic may fail without taking anything else with it."""

from collections.abc import Iterator
from contextlib import contextmanager

from fenmist.errors import FenmistError, UnworkableJobError


@contextmanager
def working_out(title: str) -> Iterator[None]:
    """What is worked out of a job inside of this fails as a sentence about that job.

    Raises
    ------
    UnworkableJobError
        In place of whatever wasn't foreseen: a number beyond what floats hold, a record that contradicts itself.
    """
    import numpy as np  # what only shows doesn't need it

    with showing(title), np.errstate(over="raise", divide="raise", invalid="raise"):
        yield


@contextmanager
def showing(title: str) -> Iterator[None]:
    """The same where nothing is worked out but what was is shown.

    Raises
    ------
    UnworkableJobError
        In place of whatever wasn't foreseen.
    """
    try:
        yield
    except FenmistError:
        raise
    except Exception as error:
        raise UnworkableJobError(
            f"“{title}” can't be worked out: {_told(error)}.",
            "Its record is as it was; hand it over as a file, or open it where it can be read.",
        ) from error


def _told(error: Exception) -> str:
    """What a programmer's error says, as the end of a sentence."""
    said = str(error).strip().rstrip(".")
    kind = type(error).__name__
    return f"{said} ({kind})" if said else kind

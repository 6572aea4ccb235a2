"""Errors the user may see: each says what happened and what to do, in whole sentences.

Every class derives from `FenmistError` and from the builtin a programmer expects. Anything raised
that is not a `FenmistError` is a bug and is reported as one.
"""


class FenmistError(Exception):
    """Base of all errors that are shown in words.

    Parameters
    ----------
    headline : str
        What happened, to what: one sentence.
    hint : str
        What to do about it: one sentence, or empty.
    """

    def __init__(self, headline: str, hint: str = "") -> None:
        super().__init__(headline)
        self.headline = headline
        self.hint = hint

    def __str__(self) -> str:
        return f"{self.headline} {self.hint}".strip()


class OutOfRangeError(FenmistError, ValueError):
    """A number lies where the formula or the instrument has no meaning."""


class UnreadableError(FenmistError, ValueError):
    """A typed text can't be read as what was asked for."""


class UnknownIdError(FenmistError, LookupError):
    """A record names something that isn't there."""


class FileFormatError(FenmistError, ValueError):
    """A file isn't what it should be; names it, and the line where there is one."""


class RecordError(FenmistError, OSError):
    """The logbook can't be read or written."""


class DamagedLogbookError(RecordError):
    """The file isn't a logbook, or is damaged."""


class NewerLogbookError(RecordError):
    """The logbook was written by a newer Fenmist."""


class LockedLogbookError(RecordError):
    """Another process holds the logbook."""


class InstrumentError(FenmistError, ConnectionError):
    """An instrument on a wire gives no reading."""


class UnkeepableError(FenmistError, ValueError):
    """A record holds something that would not come back as it was; nothing was kept."""


class UnworkableJobError(FenmistError, ArithmeticError):
    """A job from which nothing can be worked out; its record is as it was."""


class UnwritableError(FenmistError, OSError):
    """A file can't be written."""


class CancelledError(FenmistError, InterruptedError):
    """Long work was stopped by the user."""


class ReportError(FenmistError, RuntimeError):
    """A document could not be typeset."""

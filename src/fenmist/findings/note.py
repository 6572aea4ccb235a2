"""Judgements as values: any layer may return them, the desk draws them in the margin, paper prints them."""

import hashlib
from collections.abc import Mapping
from dataclasses import field
from enum import StrEnum

from fenmist.frozen import dataclass
from fenmist.units.moment import Moment


class Severity(StrEnum):
    """How much a note matters; the order of the members is the order on screen."""

    STOP = "stop"  # may hurt someone or something
    DOUBT = "doubt"  # the number shouldn't be used as it is
    WATCH = "watch"  # fine now, worth an eye
    GOOD_TO_KNOW = "good to know"

    @property
    def rank(self) -> int:
        """0 for the most severe."""
        return list(Severity).index(self)


@dataclass(frozen=True)
class Note:
    """One remark: what, why with the numbers, and what to try."""

    code: str  # the rule, e.g. "scope.bandwidth"
    severity: Severity
    about: str  # what it is about: "job", "load", or a point's id
    what: str
    why: str
    remedy: str
    evidence: dict[str, float | str] = field(default_factory=dict)  # the numbers the rule looked at, SI units

    @property
    def key(self) -> str:
        """Identity across recomputations: the rule and what it is about."""
        return f"{self.code}@{self.about}"

    @property
    def fingerprint(self) -> str:
        """Hash of the evidence to three digits: when it moves, an answer no longer holds."""
        rounded = {name: value if isinstance(value, str) else f"{value:.2e}" for name, value in self.evidence.items()}
        import json  # where a note was answered only

        text = json.dumps(rounded, sort_keys=True, ensure_ascii=True)
        return hashlib.sha256(text.encode()).hexdigest()[:16]


@dataclass(frozen=True)
class Answer:
    """What a person said to a note, tied to the evidence they saw."""

    note_key: str
    fingerprint: str
    text: str
    by: str
    at: Moment

    def holds_for(self, note: Note) -> bool:
        """True while the note's evidence is what was answered."""
        return self.note_key == note.key and self.fingerprint == note.fingerprint


@dataclass(frozen=True)
class Problem:
    """Why a draft can't be taken: the field, what is wrong, what to do."""

    field: str
    what: str
    remedy: str = ""


def unanswered(notes: tuple[Note, ...], answers: Mapping[str, Answer]) -> tuple[Note, ...]:
    """Stops and doubts that no answer holds for."""
    return tuple(
        note
        for note in notes
        if note.severity in (Severity.STOP, Severity.DOUBT)
        and not (note.key in answers and answers[note.key].holds_for(note))
    )


def in_order(notes: tuple[Note, ...], point: str = "") -> tuple[Note, ...]:
    """Stops first, then what is about a point in hand, then the rest; from the most severe on, else steady."""

    def place(note: Note) -> tuple[bool, bool, int]:
        here = note.about.partition("/")[0] == point
        return note.severity is not Severity.STOP, bool(point) and not here, note.severity.rank

    return tuple(sorted(notes, key=place))

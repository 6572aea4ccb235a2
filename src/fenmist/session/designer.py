"""The design in hand: what is typed of each shape, the stacks that were chosen, the file it is held against.

Kept in the logbook as it is typed, so that it is there again at the next start. No Qt.
"""

from collections.abc import Callable, Mapping
from contextlib import suppress
from dataclasses import field, replace
from pathlib import Path
from uuid import uuid4

import msgspec

from fenmist.design.design import Design
from fenmist.design.part import part_of, with_proof
from fenmist.design.proof import ANALYSERS, Analyser, Explained, Proof, fitted_strays, prove
from fenmist.design.response import trimmed
from fenmist.design.shapes import Shape
from fenmist.design.stack import Ranked
from fenmist.errors import FenmistError, UnreadableError
from fenmist.files.bounded import bytes_of
from fenmist.frozen import dataclass
from fenmist.kit.part import Part
from fenmist.kit.touchstone import MOST_BYTES, Touchstone, touchstone_from_bytes
from fenmist.session.designing import Worked, design_from, example_of, stacks_for, stock_of, worked
from fenmist.session.session import Session
from fenmist.units.moment import day_of

QUICK = 150
"""Different values of a stock that are searched through at once (0.1 s)."""

SAME = 1e-3
"""Relative: a chosen stack stands until what it was chosen for moves by more."""


@dataclass(frozen=True)
class Chosen:
    """A stack that was chosen, for what, and how it is said."""

    ohm: float
    said: str


@dataclass(frozen=True)
class Draft:
    """What is typed of one shape."""

    texts: Mapping[str, str]
    typed: Mapping[str, str] = field(default_factory=dict)  # values in place, by piece
    chosen: Mapping[str, Chosen] = field(default_factory=dict)


@dataclass(frozen=True)
class Kept:
    """All of it, as it is kept."""

    shape: str = str(Shape.RESISTIVE_TAP)
    drafts: Mapping[str, Draft] = field(default_factory=dict)


@dataclass(frozen=True, eq=False)
class Measured:
    """A file over the design."""

    name: str
    file: Touchstone


class Designer:
    """One design after the other."""

    def __init__(self, session: Session) -> None:
        self._session = session
        kept = _kept(session.kept_design())
        self.shape = Shape(kept.shape) if kept.shape in [str(item) for item in Shape] else Shape.RESISTIVE_TAP
        self._drafts = dict(kept.drafts)
        self._stacks: dict[tuple[Shape, str], Ranked] = {}
        self.measured: Measured | None = None
        self.analyser: Analyser = ANALYSERS[0]

    @property
    def draft(self) -> Draft:
        """What is typed of the shape in hand."""
        return self._drafts.get(str(self.shape)) or Draft(example_of(self.shape))

    def turn_to(self, shape: Shape) -> None:
        """Another shape; what was typed of the former stays."""
        self.shape, self.measured = shape, None
        self._keep(self.draft)

    def type_field(self, name: str, text: str) -> None:
        """A field's new text."""
        self._keep(replace(self.draft, texts={**self.draft.texts, name: text}))

    def type_value(self, piece: str, text: str) -> None:
        """A piece's value in place of what follows; empty gives that back."""
        typed = {name: value for name, value in self.draft.typed.items() if name != piece}
        self._keep(replace(self.draft, typed={**typed, piece: text} if text.strip() else typed))

    def choose(self, piece: str, item: Ranked) -> None:
        """A stack for a resistor."""
        self._stacks[self.shape, piece] = item
        wanted = self._bare().wanted[piece]
        chosen = {**self.draft.chosen, piece: Chosen(wanted, item.stack.said())}
        self._keep(replace(self.draft, chosen=chosen))

    def best_stacks(self) -> Callable[[], dict[str, Ranked]]:
        """A request: the best stack for each resistor. Raises FenmistError where there is none."""
        bare, texts = self._bare(), self.draft.texts
        return lambda: {item.id: stacks_for(bare, item.id, texts)[0] for item in bare.resistors}

    def take(self, stacks: Mapping[str, Ranked]) -> None:
        """Choose a stack for each of some resistors."""
        for piece, item in stacks.items():
            self.choose(piece, item)

    def as_drawn(self) -> None:
        """No stacks any more: each resistor of its very value."""
        self._keep(replace(self.draft, chosen={}))

    def offers(self, piece: str) -> Callable[[], tuple[Ranked, ...]]:
        """A request: stacks for a resistor, the best first. Raises FenmistError."""
        bare, texts = self._bare(), self.draft.texts
        return lambda: stacks_for(bare, piece, texts)

    @property
    def is_quick(self) -> bool:
        """Whether a search through the stock takes no longer than a blink; raises FenmistError."""
        return len(stock_of(self.draft.texts).around(1e3)) <= QUICK

    def best_trim(self) -> Callable[[], float]:
        """A request: the trim wire that flattens the band, in F. Raises FenmistError."""
        design = self.design
        return lambda: trimmed(design).strays.trim_f

    def take_trim(self, farad: float) -> None:
        """Take such a wire."""
        self.type_field("trim", f"{farad * 1e12:.3g} pF")

    @property
    def design(self) -> Design:
        """As it stands; raises FenmistError where a field can't be read."""
        bare = self._bare()
        stacks = {}
        for piece, chosen in self.draft.chosen.items():
            if piece in bare.wanted and abs(bare.wanted[piece] / chosen.ohm - 1.0) <= SAME:
                stacks[piece] = self._found(piece, chosen).stack
        return replace(bare, stacks=stacks)

    def worked(self) -> Worked:
        """All that follows; raises FenmistError."""
        return worked(self.design)

    def _bare(self) -> Design:
        return design_from(self.shape, self.draft.texts, self.draft.typed)

    def _found(self, piece: str, chosen: Chosen) -> Ranked:
        """The stack that is said so; after a new start it is looked for again, and the best stands for one gone."""
        known = self._stacks.get((self.shape, piece))
        if known is None or known.stack.said() != chosen.said:
            offered = self.offers(piece)()
            known = next((item for item in offered if item.stack.said() == chosen.said), offered[0])
            self._stacks[self.shape, piece] = known
        return known

    def _keep(self, draft: Draft) -> None:
        self._drafts[str(self.shape)] = draft
        self._session.keep_design(msgspec.json.encode(Kept(str(self.shape), self._drafts)).decode())

    # proof

    def open_file(self, path: Path) -> Proof:
        """A file to hold the design against; raises FenmistError, and keeps the former one then."""
        file = touchstone_from_bytes(bytes_of(path, MOST_BYTES), path.name)
        proof = prove(self.design, file, self.analyser)
        self.measured = Measured(path.name, file)
        return proof

    def close_file(self) -> None:
        """Without a file again."""
        self.measured = None

    def proof(self, design: Design) -> Proof | None:
        """The file over the design; none where none is open, or it isn't of such a thing any more."""
        if self.measured is None:
            return None
        with suppress(FenmistError):
            return prove(design, self.measured.file, self.analyser)
        return None

    def explain(self) -> Explained:
        """Strays that would explain the file; raises FenmistError where none is open."""
        proof = self.proof(self.design)
        if proof is None:
            raise UnreadableError("No file is held against the design.", "Open what an analyser measured: Ctrl+O.")
        return fitted_strays(self.design, proof)

    def take_strays(self, found: Explained) -> None:
        """Strays as they were fitted."""
        strays = found.strays
        texts = {
            "across": f"{strays.across_f * 1e12:.3g} pF", "joint": f"{strays.joint_f * 1e12:.3g} pF",
            "lead": f"{strays.lead_h * 1e9:.3g} nH", "output": f"{strays.output_f * 1e12:.3g} pF",
            "trim": f"{strays.trim_f * 1e12:.3g} pF",
        }  # fmt: skip
        self._keep(replace(self.draft, texts={**self.draft.texts, **texts}))

    # the shelf

    def part(self, label: str) -> Part:
        """The design as a part, as measured where a file says it; raises FenmistError."""
        if not label.strip():
            raise UnreadableError("What it is called is needed.", "Type a name, for example Tap 40 dB.")
        design = self.design
        part, proof = part_of(design, uuid4().hex, label.strip()), self.proof(design)
        if proof is None or self.measured is None:
            return part
        today = day_of(self._session.now())
        return with_proof(part, design, proof, self.measured.file, self.measured.name, today)

    def put_on_shelf(self, label: str) -> Part:
        """Keep the design as a part of the kit; raises FenmistError."""
        part = self.part(label)
        self._session.save_part(part)
        return part


def _kept(text: str) -> Kept:
    with suppress(msgspec.DecodeError, ValueError, RecursionError):
        return msgspec.json.decode(text.encode(), type=Kept)
    return Kept()

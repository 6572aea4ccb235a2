"""Needle echo of the entry in hand: one dial, or two crossing needles over one, with what they can be read to."""

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QVBoxLayout, QWidget

from fenmist.desk.theme import ThemeHolder
from fenmist.desk.widgets.crossed import CrossedDial, Needle
from fenmist.desk.widgets.dial import Dial
from fenmist.desk.widgets.labels import label, set_text
from fenmist.kit.dialsheet import needle_scale
from fenmist.kit.matchsheet import crosses
from fenmist.kit.part import Range
from fenmist.kit.scale import Scale
from fenmist.measurand import Kind
from fenmist.session.run import Run
from fenmist.session.view import View
from fenmist.units.level import dbm_from_watts


class Echo(QWidget):
    """Follows what is typed at the place in hand; a needle that is dragged tells which place, and where to."""

    dragged = Signal(int, str)  # position in the round, what is typed for it

    def __init__(self, run: Run, themes: ThemeHolder) -> None:
        super().__init__()
        self._run = run
        self.dial, self.crossed = Dial(themes), CrossedDial(themes)
        self.dial.value_dragged.connect(lambda value: self._tell(self.place, value))
        self.crossed.value_dragged.connect(self._on_crossed)
        self.crossed.hide()
        self.caption = label("", "second", wrap=True)
        self.caption.setAlignment(Qt.AlignmentFlag.AlignHCenter)
        box = QVBoxLayout(self)
        box.setContentsMargins(0, 0, 0, 0)
        for shown in (self.dial, self.crossed, self.caption):
            box.addWidget(shown)
        box.addStretch(1)

    def follow(self, view: View) -> None:
        """Show what stands, or is being typed, at the place in hand; of what has no needle nothing."""
        if self._run.point is None or self._run.slot is None:
            return
        place = self.place
        here, part_of_division = self._needle(view, place), view.job.part_of_division
        self.dial.show_range(here.used if here else None, part_of_division)
        self.dial.show_value(here.value if here else None, bool(here and here.draft))
        both = [self._needle(view, at) for at in self._pair_with(view, place)]
        forward, reflected = both if len(both) == 2 else (None, None)
        is_crossed = forward is not None and reflected is not None
        self.dial.setVisible(here is not None and not is_crossed)
        self.crossed.setVisible(is_crossed)
        if forward is not None and reflected is not None:
            self.crossed.show_needles(forward, reflected, part_of_division)
        set_text(self.caption, self.crossed.caption() if is_crossed else self.dial.caption())

    def nudged(self, steps: int) -> str | None:
        """What is typed for so many quarter divisions further, or none without a scale."""
        value = self.dial.nudged(steps)
        return None if value is None else self._typed(self.place, value)

    @property
    def place(self) -> int:
        """The place whose needle is shown: the entry in hand where it has one, else the device's."""
        here = self._run.slot.position if self._run.slot else 0
        if self._run.is_device(here) or self._needle(self._run.draft or self._run.job.view, here) is not None:
            return here
        return self._run.first(self._run.is_device)

    def _needle(self, view: View, position: int) -> Needle | None:
        """A needle as it stands at a place; none where there is no scale."""
        event = view.standing.get(self._run.at(position))
        entry = event.entry if event else None
        used = self._range(view, position, entry.range_id if entry else "")
        if used is None:
            return None
        drafted = self._run.draft is not None and self._run.slot is not None and self._run.slot.position == position
        value = entry.reading.value if entry and entry.reading else None
        if used.scale is not None:
            return Needle(used, value, drafted)
        scale = self._db_scale(view, position)
        if scale is None:
            return None
        shown = None if value is None or value <= 0.0 else float(dbm_from_watts(value / used.full_scale * 1e-3))
        return Needle(Range(used.id, scale.top, "dB", scale), shown, drafted)

    def _range(self, view: View, position: int, range_id: str) -> Range | None:
        """The range on which a place was read; of the device that on which it will be at the point in hand."""
        job, point = view.job, self._run.point
        if point is None:
            return None
        channel = point.sequence[position]
        return job.indicator(channel).range(range_id) or job.range_of(point, channel)

    def _db_scale(self, view: View, position: int) -> Scale | None:
        """The arc of a needle that shows dB relative to its range."""
        point = self._run.point
        return needle_scale(view.job.part_read(point.sequence[position])) if point is not None else None

    def _typed(self, position: int, value: float) -> str:
        """What somebody types who sees the needle there: relative to its range where it shows that."""
        view = self._run.draft or self._run.job.view
        needle = self._needle(view, position)
        if needle is None or needle.used.unit != "dB":
            return f"{value:.6g}"
        behind = "" if self._run.is_device(position) else f" on {needle.used.id}"
        return f"{value:.4g} dB{behind}"

    def _pair_with(self, view: View, position: int) -> tuple[int, ...]:
        """Places of forward and reflected power, of a meter whose needles cross; nothing of another."""
        job, point = view.job, self._run.point
        if point is None or not crosses(job.part_read(point.sequence[position])):
            return ()
        element = job.channel(point.sequence[position]).element
        places = {
            job.indicator(name).quantity: place
            for place, name in enumerate(point.sequence)
            if job.channel(name).element == element
        }
        kinds = (Kind.INCIDENT, Kind.REFLECTED)
        return tuple(places[kind] for kind in kinds) if all(kind in places for kind in kinds) else ()

    def _on_crossed(self, is_reflected: bool, value: float) -> None:
        pair = self._pair_with(self._run.job.view, self.place)
        if pair:
            self._tell(pair[int(is_reflected)], value)

    def _tell(self, position: int, value: float) -> None:
        if self._run.slot is not None:
            self.dragged.emit(position, self._typed(position, value))

"""Receive: whose the device is, what it is, what was looked over, its dial and its photos."""

from collections.abc import Sequence
from dataclasses import replace
from functools import cached_property
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import Qt
from PySide6.QtGui import QDragEnterEvent, QDropEvent
from PySide6.QtWidgets import QHBoxLayout, QStackedWidget, QVBoxLayout, QWidget

from fenmist.calibration.asked import (
    WHOSE,
    device_draft,
    device_fields,
    whose_draft,
    with_device,
    with_device_draft,
    with_look,
    with_whose,
)
from fenmist.calibration.job import Job
from fenmist.calibration.receipt import FINE, LOOK_OVER, NOT_FINE, NOT_THERE, Photo
from fenmist.desk.filing import PICTURES, Opening
from fenmist.desk.steps.step import Step
from fenmist.desk.theme import ThemeHolder
from fenmist.desk.widgets.dial import Dial
from fenmist.desk.widgets.dialogs import ask_to_open
from fenmist.desk.widgets.form import Form
from fenmist.desk.widgets.grid import Grid
from fenmist.desk.widgets.labels import button, clear_layout, label, scrolled, set_text
from fenmist.desk.widgets.pages import Columns
from fenmist.errors import FenmistError, FileFormatError
from fenmist.files.bounded import bytes_of
from fenmist.findings.note import Problem
from fenmist.judgement.headline import receive_headline
from fenmist.kit.scale import Scale
from fenmist.session.openjob import OpenJob
from fenmist.session.session import UNNAMED, Session
from fenmist.session.view import View

if TYPE_CHECKING:
    from fenmist.desk.widgets.photo_marks import PhotoMarks

MOST_PHOTO_BYTES = 20 * 1024 * 1024


class ReceiveStep(Step):
    """What came in."""

    where = "receive"

    def __init__(self, session: Session, job: OpenJob, themes: ThemeHolder) -> None:
        super().__init__(session, job, themes)
        self.form = Form(WHOSE, label_width=104)
        self.form.field_typed.connect(self._on_field_typed)
        self.device_place = QVBoxLayout()
        self._make_device_form()
        self.looks = Grid(("state", "item", "remark"), 0, "inspection", grows=False)
        self.looks.make_editable(2)
        self.looks.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.looks.row_opened.connect(self._on_look_opened)
        self.looks.cell_typed.connect(self._on_remark_typed)
        self.dial = Dial(themes)
        self.add_photo = button("Add a photo", "do")
        self.add_photo.clicked.connect(self._on_add_photo)
        self.from_photo = button("Marks from a photo", "link", "take the dial's marks from a photo")
        self.from_photo.clicked.connect(self.open_marks)
        self.photos = QHBoxLayout()
        self.photos.setSpacing(8)
        self.said = label("", "problem", wrap=True)
        self.said.hide()
        self.setAcceptDrops(True)
        self._lay_out()

    def _make_device_form(self) -> None:
        """The fields of the device's kind: another may take its place."""
        self._kind = self.job.job.dut_part.kind
        clear_layout(self.device_place)
        self.device = Form(device_fields(self._kind), label_width=104)
        self.device.field_typed.connect(self._on_device_typed)
        self.device_place.addWidget(self.device)

    def _lay_out(self) -> None:
        column = QVBoxLayout()
        column.setContentsMargins(0, 0, 10, 0)
        column.setSpacing(8)
        column.addWidget(label("Customer and purpose", "section"))
        column.addWidget(self.form)
        column.addSpacing(6)
        column.addWidget(label("The device, as labelled", "section"))
        column.addLayout(self.device_place)
        column.addStretch(1)
        holder = QWidget()
        holder.setLayout(column)
        right = QVBoxLayout()
        right.setSpacing(6)
        right.addWidget(label("Inspection: Enter or Space steps through fine, not fine, not there", "section"))
        right.addWidget(self.looks, 1)
        self.dial_title = label("Its dial, drawn from the marks at the left", "section")
        right.addWidget(self.dial_title)
        right.addWidget(self.dial)
        keys = QHBoxLayout()
        keys.setSpacing(14)
        keys.addWidget(self.add_photo)
        keys.addWidget(self.from_photo)
        keys.addLayout(self.photos)
        keys.addStretch(1)
        right.addLayout(keys)
        right.addWidget(self.said)
        page = QWidget()
        both = Columns()
        page.setLayout(both)
        both.setContentsMargins(0, 0, 0, 0)
        both.setSpacing(24)
        both.addWidget(scrolled(holder), 10)
        both.addLayout(right, 11)
        self.pages = QStackedWidget()
        self.pages.addWidget(page)
        self.body.addWidget(self.pages, 1)

    @property
    def drawing(self) -> tuple[str, QWidget] | None:
        return "dial", self.dial

    def headline_text(self, view: View) -> str:
        return receive_headline(view.job)

    def refresh(self) -> None:
        super().refresh()
        job = self.job.job
        self.form.fill(whose_draft(job))
        if job.dut_part.kind is not self._kind:
            self._make_device_form()
        self.device.fill(device_draft(job))
        self.looks.fill([_look_row(job, item) for item in LOOK_OVER])
        self._show_dial(job)
        self._show_photos(job.receipt.photos)

    def _show_dial(self, job: Job) -> None:
        """The dial of the device's highest range; nothing of what has no ranges."""
        shown = job.device_ranges[-1] if job.device_ranges else None
        for item in (self.dial, self.dial_title, self.from_photo):
            item.setVisible(shown is not None)
        if shown is not None:
            self.dial.show_range(shown, job.part_of_division)

    def enter(self) -> None:
        unsaid = next((name for name in ("title", "customer") if self._is_unsaid(name)), "title")
        field = self.form.inputs[unsaid]
        field.setFocus()
        if field.text() == UNNAMED:  # type: ignore[union-attr]
            field.selectAll()  # type: ignore[union-attr]

    def _is_unsaid(self, name: str) -> bool:
        """Whether nothing was typed there yet."""
        return self.form.inputs[name].text() in ("", UNNAMED)  # type: ignore[union-attr]

    def _on_field_typed(self, field_id: str, text: str) -> None:
        self._take(self.form, with_whose(self.job.job, {**whose_draft(self.job.job), field_id: text}), field_id)

    def _on_device_typed(self, field_id: str, text: str) -> None:
        draft = {**self.device.draft(), field_id: text}
        self._take(self.device, with_device_draft(self.job.job, draft), f"device {field_id}")

    def _take(self, form: Form, made: "Job | tuple[Problem, ...]", label_text: str) -> None:
        if isinstance(made, tuple):
            form.show_problems(made)
            return
        form.show_problems(())
        self.job.edit(made, label_text.replace("_", " "), merge=label_text)

    def _on_look_opened(self, row: int) -> None:
        item = list(LOOK_OVER)[row]
        self.job.edit(with_look(self.job.job, item), "inspection")

    def _on_remark_typed(self, row: int, _column: int, text: str) -> None:
        item = list(LOOK_OVER)[row]
        self.job.edit(with_look(self.job.job, item, text), "remark", merge=f"remark {item}")

    # photos

    def _show_photos(self, photos: Sequence[Photo]) -> None:
        if [photo.sha256 for photo in photos] == getattr(self, "_shown", None):
            return
        self._shown = [photo.sha256 for photo in photos]
        clear_layout(self.photos)
        for photo in photos[:4]:
            made = button(photo.name if len(photo.name) < 16 else f"{photo.name[:13]}…", "link", f"photo {photo.name}")
            made.clicked.connect(lambda _=False, p=photo: self._show_marks(p))
            self.photos.addWidget(made)
        self.from_photo.setEnabled(bool(photos))

    def _on_add_photo(self) -> None:
        ask_to_open(self, self.opening)

    @property
    def opening(self) -> Opening:
        return Opening("A photo of the device", "Pictures", PICTURES, self.take_photo)

    def take_photo(self, path: Path) -> None:
        """Keep a photo with the job; what is wrong with it is said."""
        try:
            self._keep_photo(path)
        except FenmistError as error:
            self._say(str(error))

    def _keep_photo(self, path: Path) -> None:
        from PySide6.QtGui import QImageReader

        data = bytes_of(path, MOST_PHOTO_BYTES, "Save a smaller picture.")
        if not data or not QImageReader(str(path)).canRead():
            raise FileFormatError(f"{path.name} is no picture of at most 20 MB.", f"Choose {', '.join(PICTURES)}.")
        digest = self.job.attach(data, path.name)
        receipt = self.job.job.receipt
        if all(photo.sha256 != digest for photo in receipt.photos):
            photos = (*receipt.photos, Photo(digest, path.name))
            self.job.edit(replace(self.job.job, receipt=replace(receipt, photos=photos)), "photo")
        self._say("")

    @cached_property
    def marks(self) -> "PhotoMarks":
        """The photo on which marks are clicked, made when first asked for."""
        from fenmist.desk.widgets.photo_marks import PhotoMarks

        made = PhotoMarks(self.themes)
        made.closed.connect(self.close_marks)
        made.taken.connect(self._on_marks_taken)
        self.pages.addWidget(made)
        return made

    def open_marks(self) -> None:
        """Show the newest photo to click the dial's marks on."""
        if self.job.job.receipt.photos:
            self._show_marks(self.job.job.receipt.photos[-1])

    def _show_marks(self, photo: Photo) -> None:
        ranges = self.job.job.device_ranges
        scale = ranges[-1].scale if ranges else None
        self.marks.show_photo(self.job.attached(photo.sha256), photo.name, scale)
        self.pages.setCurrentWidget(self.marks)
        self.marks.setFocus()

    def close_marks(self) -> None:
        """Back to the page."""
        self.pages.setCurrentIndex(0)
        self.device.inputs["marks"].setFocus()

    def _on_marks_taken(self, scale: Scale) -> None:
        part, read = self.job.job.dut_part, self.job.job.device_shows
        if read is None:
            return
        scaled = replace(read, ranges=tuple(replace(used, scale=scale) for used in read.ranges))
        changed = replace(part, indicators=tuple(scaled if item is read else item for item in part.indicators))
        self.job.edit(with_device(self.job.job, changed), "marks from the photo")
        self.close_marks()

    def _say(self, text: str) -> None:
        set_text(self.said, text)
        self.said.setVisible(bool(text))

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        if any(Path(url.toLocalFile()).suffix.lower() in PICTURES for url in event.mimeData().urls()):
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        for url in event.mimeData().urls():
            if url.isLocalFile():
                self.take_photo(Path(url.toLocalFile()))
        event.acceptProposedAction()


def _look_row(job: Job, item: str) -> list[str]:
    look = job.receipt.look(item)
    sign = {FINE: "✓ ", NOT_FINE: "✕ ", NOT_THERE: "– "}.get(look.state, "○ ")
    return [sign + (look.state or "not yet"), LOOK_OVER[item], look.remark]

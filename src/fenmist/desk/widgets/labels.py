"""Small makers, so that roles are set in one way."""

from collections.abc import Collection

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QFrame, QLabel, QLayout, QPushButton, QScrollArea, QSizePolicy, QWidget

from fenmist.desk.theme import load_letters


def label(text: str = "", role: str = "", name: str = "", wrap: bool = False) -> QLabel:
    """A label with a style role; its accessible name is its text unless another is given."""
    made = QLabel(text)
    made.setTextFormat(Qt.TextFormat.PlainText)
    if role:
        made.setProperty("role", role)
    if name:
        made.setAccessibleName(name)
    made.setWordWrap(wrap)
    if not wrap:
        made.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Fixed)
    return made


def key_cap(text: str) -> QLabel:
    """A key as it is drawn in the foot and on the shortcut page."""
    made = label(text.replace("++", "+ +"), "key")
    made.setSizePolicy(QSizePolicy.Policy.Fixed, QSizePolicy.Policy.Fixed)
    return made


def button(text: str, role: str, name: str = "") -> QPushButton:
    """A flat button with a style role; Enter presses it as Space does."""
    made = QPushButton(text)
    made.setProperty("role", role)
    made.setAccessibleName(name or text)
    made.setAutoDefault(True)
    return made


def scrolled(widget: QWidget) -> QScrollArea:
    """A widget that scrolls up and down where it doesn't fit."""
    made = QScrollArea()
    made.setWidgetResizable(True)
    made.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
    made.setFocusPolicy(Qt.FocusPolicy.NoFocus)
    made.setWidget(widget)
    return made


def room_across(area: QScrollArea) -> int:
    """How wide a page may be in an area that scrolls up and down, in pixels.

    Not asked of its viewport: Qt's bindings would make every name of every kind of window to tell what that is.
    """
    bar = area.verticalScrollBar()
    return area.contentsRect().width() - (bar.width() if bar.isVisible() else 0)


def hairline() -> QFrame:
    """A line across."""
    made = QFrame()
    made.setProperty("role", "hairline")
    made.setFixedHeight(1)
    return made


def set_state(widget: QWidget, **properties: object) -> None:
    """Set dynamic properties and restyle only where one truly changed; what was never shown is styled when it is."""
    changed = [name for name, value in properties.items() if (widget.property(name) or False) != (value or False)]
    for name in changed:
        widget.setProperty(name, properties[name])
    if changed and widget.testAttribute(Qt.WidgetAttribute.WA_WState_Polished):
        widget.style().unpolish(widget)
        widget.style().polish(widget)


def clear_layout(layout: QLayout, keep: Collection[QWidget] = ()) -> None:
    """Take everything out of a layout and let it go, but for what is put back."""
    while (item := layout.takeAt(0)) is not None:
        widget = item.widget()
        if widget is not None and widget not in keep:
            widget.hide()
            widget.deleteLater()


def as_html(text: str) -> str:
    """A text within markup, as it is."""
    return text.replace("&", "&amp;").replace("<", "&lt;")


def set_text(widget: QLabel, text: str) -> None:
    """Set a label's text where it differs."""
    if widget.text() != text:
        load_letters(text)
        widget.setText(text)

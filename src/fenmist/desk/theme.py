"""Colours by role and the one style template; painted widgets and plots take their pens from the same theme."""

import re
from dataclasses import fields
from functools import cache
from string import Template

from PySide6.QtGui import QColor, QFont, QFontDatabase, QPalette
from PySide6.QtWidgets import QApplication

from fenmist.desk.keypad import Keypad
from fenmist.frozen import dataclass
from fenmist.reports.fonts import ALL_FONTS, FALLBACK_FONTS, MONO_FAMILY, SANS_FAMILY, font_file, icon_file
from fenmist.session.listeners import Listeners


@dataclass(frozen=True)
class Theme:
    """Role colours as #RRGGBB."""

    name: str
    mist: str  # the ground
    paper: str  # raised: top, foot, fields
    ink: str
    second: str  # secondary text
    hairline: str
    teal: str  # what is, what is active
    teal_wash: str  # tolerance corridor, selection
    rust: str  # doubt, the needle, what is being said now
    rust_wash: str
    stop: str

    def color(self, role: str) -> QColor:
        """A role's colour."""
        return QColor(getattr(self, role))


MIST = Theme(
    "mist", "#EDF1F2", "#F9FBFB", "#1B2A30", "#50626B", "#C9D3D7", "#0E5A66", "#D3E6E8", "#A9480F", "#F6E3D3", "#8A1538"
)
NIGHT = Theme(
    "night bench",
    "#10191C", "#172327", "#DCE6E8", "#93A6AD", "#2C3C42", "#63BBC4", "#173338", "#E6985A", "#3A2415", "#F08AA4",
)  # fmt: skip
THEMES = {theme.name: theme for theme in (MIST, NIGHT)}

_STYLE = Template("""
QAbstractButton, QAbstractItemView, QComboBox { outline: none; }
QMainWindow, QWidget#ground { background: $mist; }
QScrollArea, QScrollArea > QWidget > QWidget { background: transparent; border: none; }
QFrame#top, QFrame#foot { background: $paper; }
QFrame#top { border-bottom: 1px solid $hairline; }
QFrame#foot { border-top: 1px solid $hairline; }
QFrame#margin { border-left: 1px solid $hairline; }
QFrame[role="hairline"] { background: $hairline; max-height: 1px; min-height: 1px; border: none; }
QLabel { background: transparent; }
QLabel[role="brand"] { color: $teal; font-weight: 600; font-size: 16px; }
QLabel[role="headline"] { font-size: 21px; font-weight: 500; }
QLabel[role="second"], QLabel[role="unit"] { color: $second; font-size: 12px; }
QLabel[role="section"] { font-weight: 600; font-size: 13px; }
QLabel[role="why"] { color: $second; font-size: 12px; }
QLabel[role="remedy"] { color: $teal; font-size: 12px; }
QLabel[role="what"] { font-weight: 600; font-size: 13px; }
QLabel[role="demo"] { color: $stop; font-weight: 600; font-size: 12px; }
QLabel[role="problem"] { color: $stop; font-size: 12px; }
QLabel[role="trouble"] { color: $stop; font-size: 13px; background: $paper; border-top: 1px solid $stop;
    padding: 5px 20px; }
QLabel[role="key"] { font-family: "$mono"; font-size: 11px; border: 1px solid $hairline; border-radius: 3px;
    padding: 1px 5px; background: $mist; }
QLabel[role="point"] { font-family: "$mono"; font-size: 46px; }
QLabel[role="point-unit"] { font-family: "$mono"; font-size: 21px; color: $second; }
QLabel[role="running"] { font-family: "$mono"; font-size: 26px; color: $second; }
QLabel[role="running"][kept="true"] { color: $ink; }
QLabel[role="alarm"] { font-size: 13px; font-weight: 600; color: $rust; }
QLabel[role="alarm"][severity="stop"] { color: $stop; }
QLabel[role="severity"] { font-size: 12px; font-weight: 600; color: $second; }
QLabel[role="severity"][severity="stop"] { color: $stop; }
QLabel[role="severity"][severity="doubt"] { color: $rust; }
QLabel[role="severity"][severity="watch"] { color: $second; }
QFrame[role="note"] { border: none; border-left: 2px solid $hairline; background: transparent; }
QFrame[role="note"][severity="stop"] { border-left-color: $stop; }
QFrame[role="note"][severity="doubt"] { border-left-color: $rust; }
QFrame[role="note"]:focus { background: $teal_wash; }
QPushButton { background: transparent; border: none; padding: 4px 2px; text-align: left; }
QPushButton:focus { color: $teal; text-decoration: underline; }
QPushButton[role="place"] { padding: 12px 2px 10px 2px; color: $second; border-bottom: 2px solid transparent; }
QPushButton[role="place"]:checked { color: $ink; border-bottom: 2px solid $teal; }
QPushButton[role="place"]:focus { color: $teal; }
QPushButton[role="do"] { color: $teal; border: 1px solid $teal; border-radius: 3px; padding: 5px 12px; }
QPushButton[role="do"]:focus, QPushButton[role="do"]:hover { background: $teal_wash; text-decoration: none; }
QPushButton[role="do"]:disabled { color: $second; border-color: $hairline; }
QPushButton[role="link"] { color: $teal; font-size: 12px; padding: 0; }
QPushButton[role="phase"] { color: $second; font-size: 12px; padding: 2px; border-bottom: 2px solid transparent; }
QPushButton[role="phase"]:checked { color: $ink; border-bottom: 2px solid $teal; }
QPushButton[role="phase"][begun="false"] { color: $teal; }
QPushButton[role="phase"]:disabled { color: $second; }
QPushButton::menu-indicator { image: none; width: 0; }
QLineEdit, QComboBox { background: $paper; border: 1px solid $hairline; border-radius: 2px; padding: 3px 6px;
    selection-background-color: $teal; selection-color: $paper; }
QLineEdit:focus, QComboBox:focus { border: 2px solid $teal; padding: 2px 5px; }
QLineEdit[role="entry"] { font-family: "$mono"; font-size: 34px; padding: 6px 12px; border: 1px solid transparent;
    background: transparent; }
QLineEdit[role="entry"]:focus { border: 2px solid $teal; background: $paper; padding: 5px 11px; }
QLineEdit[role="entry"][alarm="doubt"]:focus { border: 2px dashed $rust; }
QLineEdit[role="entry"][alarm="stop"]:focus { border: 3px double $stop; }
QLineEdit[role="entry"][long="true"] { font-size: 24px; }
QLineEdit[role="entry"][open="true"] { color: $rust; border: 1px dashed $rust; }
QPlainTextEdit[role="log"] { font-family: "$mono"; font-size: 11px; background: $paper; border: 1px solid $hairline;
    border-radius: 2px; selection-background-color: $teal; selection-color: $paper; }
QPlainTextEdit[role="log"]:focus { border: 2px solid $teal; }
QLabel[role="live"] { font-size: 13px; color: $teal; }
QCheckBox { spacing: 7px; background: transparent; }
QCheckBox::indicator { width: 13px; height: 13px; border: 1px solid $second; border-radius: 2px; background: $paper; }
QCheckBox::indicator:checked { background: $teal; border-color: $teal; image: url("$tick"); }
QCheckBox:focus { color: $teal; text-decoration: underline; }
QComboBox::drop-down { border: none; width: 20px; }
QComboBox::down-arrow { image: url("$arrow"); width: 9px; height: 6px; }
QAbstractScrollArea::corner { background: transparent; border: none; }
QComboBox QAbstractItemView, QMenu { background: $paper; border: 1px solid $hairline;
    selection-background-color: $teal_wash; selection-color: $ink; }
QMenu::item { padding: 5px 18px; }
QMenu::item:selected { background: $teal_wash; }
QMenu::item:disabled { color: $second; }
QProgressBar { background: $hairline; border: none; border-radius: 2px; }
QProgressBar::chunk { background: $teal; border-radius: 2px; }
#chooser { background: $paper; border: 1px solid $second; }
QListWidget { background: transparent; border: none; outline: none; }
QListWidget::item { padding: 3px 4px; }
QListWidget::item:selected { background: $teal_wash; color: $ink; }
QListWidget::item:disabled { color: $second; }
QTableWidget { background: transparent; border: none; gridline-color: transparent;
    selection-background-color: $teal_wash; selection-color: $ink; alternate-background-color: transparent; }
QTableWidget::item { padding: 3px 8px; border-bottom: 1px solid $hairline; }
QTableWidget[dense="true"]::item { padding: 3px 3px; }
QTableWidget::item:focus { background: $teal_wash; color: $ink; }
QTableWidget QLineEdit { padding: 0 4px; border: 2px solid $teal; }
QHeaderView, QHeaderView::section { background: transparent; color: $second; border: none; font-size: 12px;
    padding: 3px 3px; font-weight: 400; }
QTableCornerButton::section { background: transparent; border: none; }
QScrollBar:vertical { background: transparent; width: 9px; }
QScrollBar::handle:vertical { background: $hairline; border-radius: 4px; min-height: 24px; }
QScrollBar:horizontal { background: transparent; height: 9px; }
QScrollBar::handle:horizontal { background: $hairline; border-radius: 4px; min-width: 24px; }
QScrollBar::add-line, QScrollBar::sub-line, QScrollBar::add-page, QScrollBar::sub-page { background: none; height: 0;
    width: 0; }
QToolTip { background: $paper; color: $ink; border: 1px solid $hairline; }
""")


TEXT = 14
"""Size of what has none of its own, design pixels."""

SCALES = (0.8, 0.9, 1.0, 1.1, 1.25, 1.5, 1.75, 2.0)
"""Steps of the font scale."""

ARM = 1.55
"""How much larger digits and entries are at arm's length."""

_ARM_ROLES = ("point", "running", "entry", "alarm", "point-unit")


def font_scale() -> float:
    """How much larger than designed everything is, set with the style."""
    application = QApplication.instance()
    return float(application.property("font_scale") or 1.0) if application else 1.0


def _arm() -> float:
    application = QApplication.instance()
    return ARM if application and application.property("arms_length") else 1.0


def px(pixels: float, at_arm: bool = False) -> int:
    """Design pixels on this screen; `at_arm` for what grows at arm's length."""
    return round(pixels * font_scale() * (_arm() if at_arm else 1.0))


def _scaled(style: str) -> str:
    """The style with its font sizes scaled, digits and entries larger still at arm's length."""

    def rule(match: re.Match[str]) -> str:
        larger = any(f'"{role}"' in match[0] for role in _ARM_ROLES)
        return re.sub(r"font-size: (\d+)px", lambda m: f"font-size: {px(int(m[1]), larger)}px", match[0])

    return re.sub(r"[^{}]+\{[^{}]*\}", rule, style)


def style_sheet(theme: Theme) -> str:
    """The one template filled with a theme, at the font scale in use."""
    roles = {item.name: getattr(theme, item.name) for item in fields(theme)}
    by = "day" if theme is MIST else "night"
    icons = {name: icon_file(f"{name}-{by}.svg").as_posix() for name in ("arrow", "tick")}
    return _scaled(_STYLE.substitute(roles, mono=MONO_FAMILY, **icons))


def load_fonts() -> None:
    """Make the shipped fonts known to Qt."""
    for name in ALL_FONTS:
        QFontDatabase.addApplicationFont(str(font_file(name)))


_OTHERS = re.compile("[^\0-\u052f\u1e00-\u2bff\ua640-\ua69f]")
"""Letters that the faces of the window don't hold: neither Latin, Greek, Cyrillic nor signs."""


def load_letters(text: str) -> None:
    """Make the faces for other scripts known to Qt once a text needs them: a fifth of a second that few starts need."""
    application = QApplication.instance()
    if application is None or application.property("other_scripts") or not _OTHERS.search(text):
        return
    application.setProperty("other_scripts", True)
    for name in FALLBACK_FONTS:
        QFontDatabase.addApplicationFont(str(font_file(name)))


def sans(pixels: float, weight: int = 400) -> QFont:
    """The sans face for painted widgets."""
    return _font(SANS_FAMILY, pixels, weight)


def mono(pixels: float) -> QFont:
    """The mono face for painted widgets."""
    return _font(MONO_FAMILY, pixels, 400)


@cache
def _font(family: str, pixels: float, weight: int) -> QFont:
    """Not to be changed: whoever paints with it has the same one."""
    font = QFont(family)
    font.setPixelSize(round(pixels))
    font.setWeight(QFont.Weight(weight))
    return font


class ThemeHolder:
    """The theme in use and those who paint with it."""

    def __init__(self, application: QApplication, theme: Theme = MIST, keypad: Keypad | None = None) -> None:
        self._application = application
        self.keypad = keypad or Keypad()
        self.changed = Listeners()
        self.resized = Listeners()
        self.theme = theme
        self.use(theme)

    def use(self, theme: Theme) -> None:
        """Change to a theme."""
        self.theme = theme
        palette = QPalette()
        for role, name in (
            (QPalette.ColorRole.Window, "mist"), (QPalette.ColorRole.Base, "paper"), (QPalette.ColorRole.Text, "ink"),
            (QPalette.ColorRole.WindowText, "ink"), (QPalette.ColorRole.ButtonText, "ink"),
            (QPalette.ColorRole.Highlight, "teal"),
            (QPalette.ColorRole.HighlightedText, "paper"),
        ):  # fmt: skip
            palette.setColor(role, theme.color(name))
        example = theme.color("ink")
        example.setAlphaF(0.5)
        palette.setColor(QPalette.ColorRole.PlaceholderText, example)
        self._application.setPalette(palette)
        self._restyle()
        self.changed.tell()

    def _restyle(self) -> None:
        """Off and on again: where one sheet follows another Qt styles each widget once for every widget around it."""
        style = style_sheet(self.theme)
        if style != self._application.styleSheet():
            self._application.setStyleSheet("")
            self._application.setFont(sans(px(TEXT)))  # a rule for all would make a styled widget of every box
            self._application.setStyleSheet(style)

    @property
    def scale(self) -> float:
        """Font scale, one of `SCALES`."""
        return font_scale()

    @property
    def arms_length(self) -> bool:
        """Whether digits and entries are larger, to be read from a metre away."""
        return _arm() > 1.0

    def resize(self, scale: float, arms_length: bool) -> None:
        """Another font scale; whoever made fixed sizes makes them anew when told."""
        self._application.setProperty("font_scale", min(max(scale, SCALES[0]), SCALES[-1]))
        self._application.setProperty("arms_length", arms_length)
        self._restyle()
        self.resized.tell()

    def toggle(self) -> None:
        """Day to night and back."""
        self.use(NIGHT if self.theme is MIST else MIST)

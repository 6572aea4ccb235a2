"""What stands around the work: the places at the top, the keys that work here and what is kept at the foot."""

from collections.abc import Callable

from PySide6.QtWidgets import QFrame, QHBoxLayout, QMenu, QSizePolicy, QWidget

from fenmist.desk.actions import by_id, in_foot
from fenmist.desk.theme import px
from fenmist.desk.widgets.labels import button, clear_layout, key_cap, label, set_text

PLACES = ("bench", "tools", "kit", "logbook", "instruments")
"""As they stand at the top; each is an action `place.…`."""


class Top(QFrame):
    """Name, places, what is in hand, menu."""

    def __init__(self, go: Callable[[str], None], menu: QMenu, is_demo: bool) -> None:
        super().__init__()
        self.setObjectName("top")
        self.setFixedHeight(px(44))
        self.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)
        row = QHBoxLayout(self)
        row.setContentsMargins(px(20), 0, px(16), 0)
        row.setSpacing(px(26))
        row.addWidget(label("Fenmist", "brand"))
        self.places = {}
        for name in PLACES:
            made = button(by_id(f"place.{name}").text, "place")
            made.setCheckable(True)
            made.clicked.connect(lambda _=False, n=name: go(n))
            self.places[name] = made
            row.addWidget(made)
        row.addStretch(1)
        if is_demo:
            row.addWidget(label("DEMO", "demo", "this is the demonstration"))
        self.about = label("", "second")
        row.addWidget(self.about)
        self.more = button("menu", "link", "all actions")
        self.more.setMinimumWidth(px(46))
        self.more.setMenu(menu)
        row.addWidget(self.more)

    def mark(self, place: str) -> None:
        """Show which place is in front; none where it is a page without a button."""
        for name, made in self.places.items():
            made.setChecked(name == place)


class Foot(QFrame):
    """The keys that work here, and what is kept."""

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("foot")
        self.setFixedHeight(px(40))
        self.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)
        row = QHBoxLayout(self)
        row.setContentsMargins(px(20), 0, px(20), 0)
        self._keys = QHBoxLayout()
        self._keys.setSpacing(6)
        row.addLayout(self._keys)
        row.addStretch(1)
        self.kept = label("", "second", "what is kept")
        row.addWidget(self.kept)
        self._row = row
        self._shown: tuple[str, int] | None = None

    def add_busy(self, busy: QWidget) -> None:
        """Show work that belongs to no page, while it is late."""
        self._row.insertWidget(self._row.count() - 1, busy)

    def tell(self, text: str) -> None:
        """Say what was done, or what is kept."""
        set_text(self.kept, text)

    def show_keys(self, where: str, width: int) -> None:
        """Show the keys of a place, as many as a window of so many pixels has room for; the page of keys has all."""
        if self._shown == (where, width):
            return
        self._shown = (where, width)
        clear_layout(self._keys)
        room = width - px(240)
        for action in (by_id("view.keys"), *in_foot(where)):
            made = (key_cap(action.shortcut), label(f"{action.text}   ", "second"))
            for item in made:
                item.ensurePolished()  # else its size is that of another font
            room -= sum(item.sizeHint().width() + 6 for item in made)
            if room < 0:
                break
            for item in made:
                self._keys.addWidget(item)

"""Tools: each opens alone, one of them in front."""

from collections.abc import Callable
from functools import partial

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QHBoxLayout, QStackedWidget, QVBoxLayout, QWidget

from fenmist.desk.theme import ThemeHolder
from fenmist.desk.tools.aid import AidTool
from fenmist.desk.tools.designer import DesignerTool
from fenmist.desk.tools.power import PowerTool
from fenmist.desk.tools.speech import SpeechTool
from fenmist.desk.widgets.labels import button
from fenmist.session.aids import AIDS
from fenmist.session.session import Session

Tool = PowerTool | DesignerTool | AidTool | SpeechTool


class ToolsPlace(QWidget):
    """The tools by name, and the one in front."""

    did = Signal(str)  # what was done, for the foot
    job_wanted = Signal()  # a job was made or changed and belongs on the bench
    turned = Signal()  # another tool is in front
    question_wanted = Signal(str)  # a job is to be begun on this question

    def __init__(self, session: Session, themes: ThemeHolder) -> None:
        super().__init__()
        self.setObjectName("ground")
        self._makers: tuple[tuple[str, Callable[[], Tool]], ...] = (
            (PowerTool.title, lambda: PowerTool(session, themes)),
            *((aid.title, partial(AidTool, aid, session, themes)) for aid in AIDS),
            (DesignerTool.title, lambda: DesignerTool(session, themes)),
            (SpeechTool.title, lambda: SpeechTool(session, themes)),
        )
        self._tools: dict[int, Tool] = {}  # those that were looked at, by number: each is made when it is
        self._number = 0
        self.stack = QStackedWidget()
        names = QHBoxLayout()
        names.setContentsMargins(28, 4, 20, 0)
        names.setSpacing(22)
        self.names = []
        for number, (title, _) in enumerate(self._makers):
            made = button(title, "place")
            made.setCheckable(True)
            made.clicked.connect(lambda _=False, n=number: self.show_tool(n))
            self.names.append(made)
            names.addWidget(made)
        names.addStretch(1)
        box = QVBoxLayout(self)
        box.setContentsMargins(0, 0, 0, 0)
        box.setSpacing(0)
        box.addLayout(names)
        box.addWidget(self.stack, 1)

    @property
    def where(self) -> str:
        """Whose keys work here."""
        return f"tools, {self.tool.title.lower()}"

    @property
    def tool(self) -> Tool:
        """The one in front."""
        if self._number not in self._tools:
            self._tools[self._number] = self._made(self._number)
        return self._tools[self._number]

    def _made(self, number: int) -> Tool:
        tool = self._makers[number][1]()
        tool.did.connect(self.did)
        if isinstance(tool, PowerTool):
            tool.job_wanted.connect(self.job_wanted)
        else:
            tool.question_wanted.connect(self.question_wanted)
        self.stack.addWidget(tool)
        return tool

    def show_tool(self, number: int) -> None:
        """Bring a tool to the front."""
        self._number = number
        self.enter()

    def step(self, by: int) -> None:
        """On to the next tool, or back to the former."""
        self.show_tool((self._number + by) % len(self._makers))

    def next_panel(self) -> None:
        """On to the next view of the designer; no other tool has several."""
        if isinstance(self.tool, DesignerTool):
            self.tool.next_panel()

    def enter(self) -> None:
        """The place comes to the front."""
        for number, made in enumerate(self.names):
            made.setChecked(number == self._number)
        self.stack.setCurrentWidget(self.tool)
        self.tool.enter()
        self.turned.emit()

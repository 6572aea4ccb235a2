"""Views that listen to notices for as long as they live."""

from PySide6.QtCore import QObject

from fenmist.session.listeners import Listener, Listeners


def listen_while_alive(view: QObject, notices: Listeners, listener: Listener) -> None:
    """Tell `listener` of changes until Qt takes the view away, with its page or its window."""
    view.destroyed.connect(notices.listen(listener))

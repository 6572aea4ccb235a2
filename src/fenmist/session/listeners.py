"""Change notices without any toolkit: plain callables, told once per change."""

from collections.abc import Callable

Listener = Callable[[], None]


class Listeners:
    """Those who want to be told; `listen` returns the way to end it."""

    def __init__(self) -> None:
        self._listeners: list[Listener] = []

    def listen(self, listener: Listener) -> Listener:
        """Tell `listener` of changes until the returned callable is called."""
        self._listeners.append(listener)

        def end() -> None:
            if listener in self._listeners:
                self._listeners.remove(listener)

        return end

    def tell(self) -> None:
        """Tell all, in the order in which they came."""
        for listener in tuple(self._listeners):
            listener()

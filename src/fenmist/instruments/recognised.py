"""Which driver fits whoever is at an address."""

from collections.abc import Mapping

from fenmist.instruments.address import address
from fenmist.instruments.driver import Driver
from fenmist.instruments.reply import text_from
from fenmist.instruments.template import Template
from fenmist.instruments.trouble import State, Trouble
from fenmist.instruments.wire import Speech, Wire
from fenmist.instruments.wirelog import WireLog


def recognise(text: str, drivers: Mapping[str, Driver]) -> str | Trouble:
    """Ask who is there, and say which driver fits; a worker's request. Raises UnreadableError of an address.

    What doesn't answer a question may send lines: the driver whose pattern they fit is taken.
    """
    wire = Wire(address(text), Speech(timeout_s=1.5), WireLog())
    try:
        said = wire.ask("*IDN?")
        if isinstance(said, Trouble):
            said = wire.newest_line()
    finally:
        wire.close()
    answer = said if isinstance(said, Trouble) else text_from(said)
    if isinstance(answer, Trouble):
        return answer
    for name, driver in drivers.items():
        if any(word.casefold() in answer.casefold() for word in driver.identify.holds):
            return name
    fitting = {}
    for name, driver in drivers.items():
        listens = [item.reply for item in driver.read.values() if not item.ask]
        if listens and all(Template(reply).picked(answer) for reply in listens):
            fitting[name] = sum(len(reply) for reply in listens)
    if fitting:
        return max(fitting, key=fitting.__getitem__)  # the one that says most of the line
    return Trouble(State.GARBLED, f"No driver fits “{answer.strip()[:60]}”.", answer)

"""Frozen dataclasses as the standard library's, made in a third of its time (docs/decisions tell why).

The standard library compiles six methods for each class, one by one: of four hundred classes that was a fifth of a
start. Here those in which speed counts are compiled at once, when one of them is first asked for, and the others are
shared. What a class does is the same, and fields(), replace(), asdict() and astuple() work on it; a class that inherits
from one is made here, too.
"""

from dataclasses import MISSING, FrozenInstanceError, fields
from dataclasses import dataclass as _plain
from reprlib import recursive_repr
from typing import TYPE_CHECKING, Any, NoReturn

if TYPE_CHECKING:  # a checker knows the standard library's by its name
    from dataclasses import Field
    from dataclasses import dataclass as dataclass
else:

    def dataclass(cls: type | None = None, /, *, frozen: bool = False, eq: bool = True) -> Any:
        """As `dataclasses.dataclass`, with the two of its settings that are used here."""
        if not frozen:
            return _plain(cls, eq=eq)
        return (lambda made: _frozen(made, eq)) if cls is None else _frozen(cls, eq)


def _frozen(cls: type, eq: bool) -> type:
    own = dict(vars(cls))
    if own.get("__hash__") is None:
        own.pop("__hash__", None)  # left behind by an __eq__ of its own
    cls.__doc__ = cls.__doc__ or cls.__name__  # or a signature would be made for it
    _plain(cls, init=False, repr=False, eq=False)
    later = {name: _Later(cls, name, eq) for name in ("__init__", *(("__eq__", "__hash__") if eq else ()))}
    methods = {"__repr__": _repr, "__setattr__": _set, "__delattr__": _delete, **later}
    for name, method in methods.items():
        if name not in own:
            setattr(cls, name, method)
    return cls


class _Later:
    """Stands for a method until one of its class is asked for: most classes of a start make nothing."""

    def __init__(self, cls: type, name: str, eq: bool) -> None:
        self._cls, self._name, self._eq = cls, name, eq

    def __get__(self, instance: object, owner: type | None = None) -> Any:
        made = _compiled(self._cls, fields(self._cls), self._eq)
        for name, method in made.items():
            if isinstance(vars(self._cls).get(name), _Later):
                setattr(self._cls, name, method)
        return made[self._name].__get__(instance, owner)


def _compiled(cls: type, every: "tuple[Field[Any], ...]", eq: bool) -> dict[str, Any]:
    """The constructor, and what two are held against each other by: a text of the fields' names, and what it needs."""
    given, kept, defaults = ["self"], [], []
    needed: dict[str, Any] = {"_keep": object.__setattr__, "_MISSING": MISSING}
    for item in every:
        value = item.name
        if item.default_factory is not MISSING:
            needed[f"_new_{item.name}"] = item.default_factory
            value = f"_new_{item.name}() if {item.name} is _MISSING else {item.name}"
        optional = item.default is not MISSING or item.default_factory is not MISSING
        given.append(f"{item.name}=None" if optional else item.name)
        defaults += [item.default] * optional
        kept.append(f"{item.name!r}: {value}")
    text = f"def __init__({', '.join(given)}):\n _keep(self, '__dict__', {{{', '.join(kept)}}})\n"
    text += " self.__post_init__()\n" * hasattr(cls, "__post_init__")
    if eq:
        mine, theirs = ("".join(f"{of}.{item.name}, " for item in every if item.compare) for of in ("self", "other"))
        text += (
            "def __eq__(self, other):\n"
            f" return ({mine}) == ({theirs}) if other.__class__ is self.__class__ else NotImplemented\n"
            f"def __hash__(self):\n return hash(({mine}))\n"
        )
    exec(text, needed)
    made: dict[str, Any] = {name: needed[name] for name in ("__init__", "__eq__", "__hash__") if name in needed}
    made["__init__"].__defaults__ = tuple(defaults)
    made["__init__"].__annotations__ = {item.name: item.type for item in every}
    for name, method in made.items():
        method.__qualname__ = f"{cls.__qualname__}.{name}"
    return made


@recursive_repr()
def _repr(self: Any) -> str:
    said = ", ".join(f"{item.name}={getattr(self, item.name)!r}" for item in fields(self) if item.repr)
    return f"{type(self).__qualname__}({said})"


def _set(_self: object, name: str, _value: object) -> NoReturn:
    raise FrozenInstanceError(f"cannot assign to field {name!r}")


def _delete(_self: object, name: str) -> NoReturn:
    raise FrozenInstanceError(f"cannot delete field {name!r}")

"""How an earlier room hears of a later one: the later one registers, under a name that has one owner."""

from collections.abc import Callable, Iterator
from typing import Generic, TypeVar

T = TypeVar("T")


class Registry(Generic[T]):
    """What was registered by name. Rooms fill it from a module named `facts`, which the room that asks finds in every
    app (autodiscover_modules); a second owner of a name is an error at start."""

    def __init__(self, what: str) -> None:
        self.what = what
        self._owners: dict[str, T] = {}

    def add(self, name: str) -> Callable[[T], T]:
        """For use as a decorator: what follows answers for `name`."""

        def owner(thing: T) -> T:
            if name in self._owners:
                raise ValueError(f"{self.what}: “{name}” has an owner already, {self._owners[name]!r}.")
            self._owners[name] = thing
            return thing

        return owner

    def __getitem__(self, name: str) -> T:
        return self._owners[name]

    def __iter__(self) -> Iterator[str]:
        return iter(self._owners)

    def items(self):
        return self._owners.items()

    def values(self):
        return self._owners.values()

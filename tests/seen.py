"""What no test has seen: a list of a page that never had a row in it may be empty for ever, and nobody notices."""

import atexit
import os
import shutil
import tempfile
from collections.abc import Iterator
from pathlib import Path
from typing import IO

from django.template import Engine, Node
from django.template.defaulttags import ForNode

ROOT = Path(__file__).resolve().parents[1]


class Row(Node):
    """Stands at the beginning of each row of a loop, shows nothing, and notes that there is a row."""

    def __init__(self, loop: ForNode, seen: "Seen") -> None:
        self.loop, self.seen, self.is_noted = loop, seen, False

    def render(self, context) -> str:
        if not self.is_noted:
            self.is_noted = True
            self.seen.note(self.loop)
        return ""


class Seen:
    """Watches the loops of all templates from now on, in this process and those that come of it."""

    def __init__(self) -> None:
        self.folder = Path(tempfile.mkdtemp(prefix="seen-"))
        atexit.register(shutil.rmtree, self.folder, ignore_errors=True)
        self.files: dict[int, IO[str]] = {}
        begin, seen = ForNode.__init__, self

        def watched(loop: ForNode, *args, **named) -> None:
            begin(loop, *args, **named)
            loop.nodelist_loop.insert(0, Row(loop, seen))

        ForNode.__init__ = watched  # type: ignore[method-assign]

    def note(self, loop: ForNode) -> None:
        mine = self.files.get(os.getpid()) or (self.folder / str(os.getpid())).open("a", buffering=1)
        self.files[os.getpid()] = mine
        mine.write(f"{place_of(loop)}\n")

    def never(self) -> list[str]:
        """The loops of our templates that no process has seen a row of, as template:line and what is looped over."""
        had = {line for file in self.folder.iterdir() for line in file.read_text().splitlines()}
        # What is said of a mistake is shown the same way everywhere, and some fields can have none.
        ours = (place_of(loop) for loop in loops() if "errors" not in loop.token.contents)
        return sorted(place for place in ours if place not in had)


def place_of(loop: ForNode) -> str:
    return f"{os.path.relpath(loop.origin.name, ROOT)}:{loop.token.lineno} {loop.token.contents}"


def loops() -> Iterator[ForNode]:
    """Every loop of every template of ours."""
    for folder in sorted([*ROOT.glob("stations/*/templates"), ROOT / "config/templates"]):
        for file in sorted(path for path in folder.rglob("*") if path.suffix in {".html", ".xml", ".txt"}):
            template = Engine.get_default().get_template(str(file.relative_to(folder)))
            yield from template.nodelist.get_nodes_by_type(ForNode)

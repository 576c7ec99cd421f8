"""The photographs a machine must have before it can be listed honestly."""

from collections.abc import Iterable
from enum import StrEnum

from core.machine.casing import FormFactor


class Shot(StrEnum):
    FRONT = "front"
    BACK = "back"
    LEFT = "left"
    RIGHT = "right"
    TOP = "top"
    UNDERSIDE = "underside"
    PORTS = "ports"
    LABEL = "label"
    INSIDE = "inside"
    SCREEN = "screen"
    KEYBOARD = "keyboard"
    DEFECT = "defect"

    @property
    def label(self) -> str:
        return {
            "top": "top, component side",
            "underside": "underside, solder side",
            "label": "type plate, serial",
            "screen": "screen, lit",
            "defect": "a defect close up",
        }.get(self.value, self.value)


_ALL_ROUND = (Shot.FRONT, Shot.BACK, Shot.LEFT, Shot.RIGHT, Shot.TOP, Shot.UNDERSIDE, Shot.PORTS, Shot.LABEL)
# Common practice, no source: what a buyer asks for when it is missing.
WANTED: dict[FormFactor, tuple[Shot, ...]] = {
    FormFactor.KEYBOARD: (Shot.TOP, Shot.BACK, Shot.UNDERSIDE, Shot.PORTS, Shot.LABEL, Shot.INSIDE),
    FormFactor.DESKTOP: (*_ALL_ROUND, Shot.INSIDE),
    FormFactor.TOWER: (*_ALL_ROUND, Shot.INSIDE),
    FormFactor.ALL_IN_ONE: (*_ALL_ROUND, Shot.SCREEN),
    FormFactor.LAPTOP: (Shot.TOP, Shot.UNDERSIDE, Shot.SCREEN, Shot.KEYBOARD, Shot.PORTS, Shot.LABEL),
    FormFactor.LUGGABLE: (*_ALL_ROUND, Shot.SCREEN, Shot.KEYBOARD),
    FormFactor.TERMINAL: (Shot.FRONT, Shot.BACK, Shot.SCREEN, Shot.KEYBOARD, Shot.PORTS, Shot.LABEL),
    FormFactor.MONITOR: (Shot.FRONT, Shot.BACK, Shot.SCREEN, Shot.PORTS, Shot.LABEL),
    FormFactor.BOARD: (Shot.TOP, Shot.UNDERSIDE, Shot.LABEL),
    FormFactor.DRIVE: (Shot.FRONT, Shot.BACK, Shot.TOP, Shot.LABEL),
    FormFactor.CARD: (Shot.TOP, Shot.UNDERSIDE, Shot.BACK, Shot.LABEL),
    FormFactor.CHIP: (Shot.TOP, Shot.UNDERSIDE),
    FormFactor.CABINET: (Shot.FRONT, Shot.BACK, Shot.LEFT, Shot.RIGHT, Shot.TOP, Shot.INSIDE),
    FormFactor.ADAPTER: (Shot.TOP, Shot.LABEL, Shot.PORTS),
}


def shots_wanted(form: FormFactor, more: Iterable[str] = (), defects: bool = False) -> tuple[Shot, ...]:
    """What must be photographed: by shape, what the model asks for besides, and a close-up if anything is wrong."""
    asked = [*WANTED[form], *(Shot(name) for name in more), *([Shot.DEFECT] if defects else [])]
    return tuple(dict.fromkeys(asked))


def read_shots(text: str) -> tuple[Shot, ...]:
    """Shots by name with commas between; ValueError names one that is none."""
    found = []
    for word in filter(None, (part.strip().lower() for part in text.split(","))):
        if word not in set(Shot):
            raise ValueError(f"“{word}” is no shot. There are: {', '.join(Shot)}.")
        found.append(Shot(word))
    return tuple(dict.fromkeys(found))

"""What the time was spent on: by what became of the units that were worked at."""

from enum import StrEnum

from core.flow.stage import Stage


class Became(StrEnum):
    """What became of what was worked at."""

    SOLD = "sold"
    HERE = "here still"
    LOST = "written off"
    GIVEN_BACK = "given back to its owner"

    @classmethod
    def of(cls, stage: Stage) -> "Became":
        if stage.bought:
            return cls.SOLD
        return {Stage.SCRAPPED: cls.LOST, Stage.RETURNED: cls.GIVEN_BACK}.get(stage, cls.HERE)

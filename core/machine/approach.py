"""The approach: which school of practice a machine is treated under."""

from enum import StrEnum


class Approach(StrEnum):
    CONSERVE = "conserve"
    PERIOD = "period"
    ENHANCED = "enhanced"
    DONOR = "donor"

    @property
    def label(self) -> str:
        return {
            "conserve": "conserve",
            "period": "period-correct",
            "enhanced": "upgraded",
            "donor": "donor",
        }[self.value]

    @property
    def meaning(self) -> str:
        return {
            "conserve": "Only work that can be undone. Every original part kept, patina stays.",
            "period": "Looks and works as when new. Modern parts only out of sight, originals kept.",
            "enhanced": "The best machine to use today. Modern storage, supply and display allowed.",
            "donor": "Worth more in parts.",
        }[self.value]

"""What is known of a machine or a part, and how sure it is."""

from enum import StrEnum


class KnowledgeKind(StrEnum):
    MANUAL = "manual"
    DATA_SHEET = "data_sheet"
    PINOUT = "pinout"
    JUMPERS = "jumpers"
    FIRMWARE = "firmware"
    IMAGE = "image"
    DESIGN = "design"
    PICTURE = "picture"
    QUESTION = "question"
    NOTE = "note"

    @property
    def label(self) -> str:
        return {
            "data_sheet": "data sheet",
            "jumpers": "table of jumpers or switches",
            "firmware": "firmware image, read out",
            "image": "image of a disk or card",
            "design": "file it is made from",
            "question": "question asked outside",
        }.get(self.value, self.value)


class Sure(StrEnum):
    """From surest to least sure; an answer from outside is evidence with a name, never silently a fact."""

    PRINTED = "printed"
    MEASURED = "measured"
    OUTSIDER = "outsider"
    GUESSED = "guessed"

    @property
    def label(self) -> str:
        return {"printed": "printed", "measured": "measured here", "outsider": "said by an outsider"}.get(
            self.value, self.value
        )


# What is nothing without a file.
_FILES = {
    KnowledgeKind.FIRMWARE: "An image",
    KnowledgeKind.IMAGE: "An image",
    KnowledgeKind.DESIGN: "A design",
    KnowledgeKind.PICTURE: "A picture",
}


def why_incomplete(kind: KnowledgeKind, sure: Sure, from_whom: str, answer: str, has_file: bool) -> tuple[str, str]:
    """What is missing, in words, and at which field; two empty texts when nothing is.

    An outsider has a name, a question is asked of somebody and is no fact; a firmware image, a design and a picture are
    files.
    """
    if (sure is Sure.OUTSIDER or kind is KnowledgeKind.QUESTION) and not from_whom:
        return "Say who said it, or who was asked.", "from_whom"
    if kind is KnowledgeKind.QUESTION and answer and sure in {Sure.PRINTED}:
        return "An answer from outside is what somebody said: measure it, or find it printed, and note that.", "sure"
    if kind in _FILES and not has_file:
        return f"{_FILES[kind]} is a file: choose it.", "file"
    return "", ""

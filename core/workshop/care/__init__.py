"""Care of what one sees: what may meet what, how strong and how much, when to stop, when the next coat goes on."""


class CareError(ValueError):
    """What can't be planned, in words; `at` names the field."""

    def __init__(self, message: str, at: str = "") -> None:
        super().__init__(message)
        self.at = at

"""Storage and software: volumes that every system can use, in what order things are installed, and what was tried."""


class StorageError(ValueError):
    """What can't be planned or read, in words; `at` names the field, `line` the line of it (from 1; 0: the whole)."""

    def __init__(self, message: str, at: str = "", line: int = 0) -> None:
        super().__init__(message)
        self.at, self.line = at, line

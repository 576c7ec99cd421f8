"""What goes out as CSV, so that a spreadsheet opens it as text and numbers and never as formulas."""

_BEGINS = ("=", "+", "-", "@", "\t", "\r")


def harmless(cell):
    """The cell, marked as text when it would begin a formula."""
    return f"'{cell}" if isinstance(cell, str) and cell.startswith(_BEGINS) else cell


def unmarked(cell: str) -> str:
    """What `harmless` was given, when a file of ours comes back."""
    return cell[1:] if cell.startswith("'") and cell[1:].startswith(_BEGINS) else cell

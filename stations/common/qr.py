"""QR codes as they are printed or shown, drawn so that whatever reads QR codes reads these."""

import segno

# Modules of white around a code, ISO/IEC 18004. A label or a page that is white beyond it may be cut where it likes.
QUIET = 4


def rows(words: str) -> list[list[bool]]:
    """The modules of the code row by row, dark ones true, with the quiet zone.

    Never the smaller Micro QR, which neither phones nor most scanners read."""
    return [[module != 0 for module in row] for row in _made(words).matrix_iter(border=QUIET)]


def svg(words: str, scale: int = 2) -> str:
    """To be put in a page: `scale` px a module, with the quiet zone."""
    return _made(words).svg_inline(scale=scale, border=QUIET)


def _made(words: str) -> segno.QRCode:
    return segno.make(words, error="m", micro=False)

"""How the advice is made and how well it holds: docs/judgement.md as a page."""

from functools import lru_cache
from itertools import pairwise
from pathlib import Path

from django.http import FileResponse, Http404
from django.shortcuts import render
from django.urls import reverse
from django.utils.safestring import SafeString
from markdown_it import MarkdownIt

DOCS = Path(__file__).resolve().parents[3] / "docs"


def judgement(request):
    return render(request, "floor/judgement.html", {"text": _text()})


@lru_cache(maxsize=1)
def _text() -> SafeString:
    # Our own file, with raw HTML switched off all the same.
    made = MarkdownIt("commonmark", {"html": False}).enable("table")
    tokens = made.parse((DOCS / "judgement.md").read_text(encoding="utf-8"))
    for picture_token in (inner for token in tokens for inner in token.children or () if inner.type == "image"):
        name = Path(str(picture_token.attrGet("src"))).stem
        picture_token.attrSet("src", reverse("floor:judgement-picture", args=[name]))
    for token, inside in pairwise(tokens):
        # Headings can be linked to by their first word.
        if token.type == "heading_open":
            token.attrSet("id", inside.content.split()[0].strip(",:").lower())
    return SafeString(made.renderer.render(tokens, made.options, {}))


def picture(request, name):
    """A picture of the text; `name` is a slug, so that it can’t lead out of the folder."""
    there = DOCS / "judgement" / f"{name}.svg"
    if not there.is_file():
        raise Http404
    return FileResponse(there.open("rb"), content_type="image/svg+xml")

"""What a class looks like is said once among the sheets of a page: a second meaning of its name would go unseen."""

import re
from collections import defaultdict
from unittest import TestCase

import tinycss2
from django.conf import settings

from stations.common.templatetags.shell import SHELL_STYLES, STYLES

CSS = settings.ROOT / "static" / "css"


def alone(sheet: str) -> list[tuple[str, str, int]]:
    """Selector, property and line of every rule that is no list of several and stands in no condition."""
    rules = tinycss2.parse_stylesheet((CSS / f"{sheet}.css").read_text(), skip_comments=True, skip_whitespace=True)
    found = []
    for rule in rules:
        selector = tinycss2.serialize(rule.prelude).strip()
        if rule.type == "qualified-rule" and "," not in selector:
            said = tinycss2.parse_blocks_contents(rule.content)
            found += [(selector, one.lower_name, rule.source_line) for one in said if one.type == "declaration"]
    return found


class OneMeaning(TestCase):
    maxDiff = None

    def test_no_property_of_a_selector_is_set_twice_on_a_page(self):
        sheets = {path.stem: alone(path.stem) for path in CSS.glob("*.css")}
        self.assertGreater(sum(map(len, sheets.values())), 2000)
        wrong = set()
        for loaded in STYLES.values():
            at = defaultdict(list)
            for sheet in (*SHELL_STYLES, *loaded):
                for selector, name, line in sheets[sheet]:
                    at[selector, name].append(f"{sheet}.css:{line}")
            wrong |= {(*what, *places) for what, places in at.items() if len(places) > 1}
        self.assertEqual(sorted(wrong), [])

    def test_every_kind_of_a_piece_that_a_template_names_is_drawn(self):
        """`st st--ok` and its like: a kind that no sheet knows looks like none."""
        drawn = set(re.findall(r"\.([\w-]+--[\w-]+)", "".join(path.read_text() for path in CSS.glob("*.css"))))
        unknown = set()
        for path in settings.ROOT.glob("**/templates/**/*.html"):
            for words in re.findall(r'class="([^"]*)"', path.read_text()):
                words = re.sub(r"\{%.*?%\}", " ", words)
                # What is put together of a variable is known only when it is drawn.
                words = re.sub(r"[\w-]*\{\{.*?\}\}[\w-]*", " ", words)
                unknown |= {(word, path.name) for word in re.findall(r"[\w-]+--[\w-]+", words) if word not in drawn}
        self.assertEqual(sorted(unknown), [])

    def test_a_page_changes_by_the_readers_own_letters(self):
        """Widths in px would keep three columns for letters twice as large."""
        asked = [
            f"{path.name}: {words}"
            for path in CSS.glob("*.css")
            for words in re.findall(r"@media[^{]*", path.read_text())
            if re.search(r"\d+px", words)
        ]
        self.assertEqual(asked, [])

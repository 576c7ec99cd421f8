"""What a class looks like is said once among the sheets of a page: a second meaning of its name would go unseen."""

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

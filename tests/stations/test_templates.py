"""Templates as the house wants them: short lines, every one of them compiles, and no rule in any."""

import re

from django.conf import settings
from django.template.loader import get_template
from django.test import SimpleTestCase

ROOT = settings.ROOT
TEMPLATES = sorted([*ROOT.glob("stations/*/templates/*/*.html"), *ROOT.glob("config/templates/**/*.html")])
# The sheet of symbols is path data, a symbol a line.
DRAWN = {"sprite.html"}
COMPARED = re.compile(r"""{%[^%]*?(==|!=)\s*["']|["']\s*(==|!=)[^%]*?%}""")
# Words of Django's own that a template may look at.
ALLOWED = ("widget_type ==", "message.level_tag ==")


class Templates(SimpleTestCase):
    def test_every_one_compiles(self):
        for path in TEMPLATES:
            with self.subTest(path.name):
                get_template(str(path.relative_to(next(p for p in path.parents if p.name == "templates"))))

    def test_lines_are_short(self):
        lines = [(path, line) for path in TEMPLATES if path.name not in DRAWN for line in path.read_text().splitlines()]
        long = [f"{path.name}: {line.strip()[:60]}" for path, line in lines if len(line) > 160]
        self.assertEqual(long, [])
        self.assertLess(sum(len(line.encode()) + 1 for _, line in lines) / len(lines), 60)

    def test_no_value_is_compared_with_words(self):
        """A property or a tag says it, so that a value that is renamed is not silently never met."""
        found = [
            f"{path.name}: {line.strip()}"
            for path in TEMPLATES
            for line in path.read_text().splitlines()
            if COMPARED.search(line) and not any(words in line for words in ALLOWED)
        ]
        self.assertEqual(found, [])

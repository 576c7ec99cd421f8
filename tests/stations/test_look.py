"""A screen is light or dark, as its device remembers; in both what is written can be read."""

import re
from pathlib import Path

from django.conf import settings
from django.urls import reverse

from tests.stations.base import ShopTest

TEXTS = ("ink", "ink-2", "mat", "mat-dk", "copper", "amber", "danger", "info")
GROUNDS = ("paper", "sheet", "putty", "mat-tint", "copper-tint", "amber-tint", "danger-tint", "info-tint")
SOLID = ("ink", "ink-2", "mat", "mat-dk", "copper", "danger", "info")


def tokens(*sheets: str) -> dict[str, str]:
    """Colours by name, a later sheet over an earlier one; of three digits only white."""
    text = "".join((Path(settings.ROOT) / f"static/css/{sheet}.css").read_text() for sheet in sheets)
    found = dict(re.findall(r"--([a-z0-9-]+): (#[0-9a-f]{3,6})\b", text))
    return {name: "#" + told[1:] * (2 if len(told) == 4 else 1) for name, told in found.items()}


def contrast(one: str, other: str) -> float:
    """WCAG 2.2, *contrast ratio* and *relative luminance*."""

    def luminance(colour: str) -> float:
        parts = [int(colour[at : at + 2], 16) / 255 for at in (1, 3, 5)]
        red, green, blue = (part / 12.92 if part <= 0.04045 else ((part + 0.055) / 1.055) ** 2.4 for part in parts)
        return 0.2126 * red + 0.7152 * green + 0.0722 * blue

    dark, light = sorted((luminance(one), luminance(other)))
    return (light + 0.05) / (dark + 0.05)


class InBothItCanBeRead(ShopTest):
    def test_the_measure(self):
        # WCAG 2.2: black on white is 21 to 1; #767676 on white is the lightest grey that reaches 4.5 (from memory).
        self.assertAlmostEqual(contrast("#000000", "#ffffff"), 21)
        self.assertGreater(contrast("#767676", "#ffffff"), 4.5)
        self.assertLess(contrast("#777777", "#ffffff"), 4.5)

    def test_words_lines_and_what_stands_on_a_mark(self):
        for sheets in (("tokens",), ("tokens", "dark")):
            told = tokens(*sheets)
            # WCAG 2.2, 1.4.3: words 4.5 to 1; 1.4.11: what carries meaning 3 to 1.
            pairs = [(text, ground, 4.5) for text in TEXTS for ground in GROUNDS]
            pairs += [("on", mark, 4.5) for mark in SOLID]
            pairs += [(line, ground, 3) for line in ("line-2", "focus") for ground in ("paper", "sheet", "putty")]
            pairs += [("mat-lt", "bar", 4.5), ("copper-lt", "bar", 4.5), ("bar", "amber-fill", 4.5)]
            for one, other, least in pairs:
                with self.subTest(sheets=sheets, one=one, other=other):
                    self.assertGreaterEqual(contrast(told[one], told[other]), least)

    def test_no_colour_is_left_as_it_is_by_day(self):
        day, night = tokens("tokens"), tokens("dark")
        # What is graphite or stands on it is so by day and night; the paper of the light is said once.
        self.assertEqual(set(day) - set(night), {"mat-lt", "copper-lt", "amber-fill"})


class AsTheDeviceRemembers(ShopTest):
    def setUp(self):
        super().setUp()
        self.client.force_login(self.viewer, backend="django.contrib.auth.backends.ModelBackend")

    def dark_for(self, address: str) -> str | None:
        """For which media the dark colours hold on a page; None for none."""
        found = re.search(r'css/dark[^"]*" media="([^"]*)"', self.client.get(address).content.decode())
        return found and found[1]

    def test_light_until_somebody_says(self):
        here = reverse("people:me")
        self.assertIsNone(self.dark_for(here))
        for said, media in (
            ("dark", "screen"),
            ("device", "screen and (prefers-color-scheme: dark)"),
            ("purple", "screen and (prefers-color-scheme: dark)"),
            ("light", None),
        ):
            self.assertRedirects(self.client.post(reverse("people:look"), {"look": said}), here)
            self.assertEqual(self.dark_for(here), media, said)
        self.client.cookies["look"] = "neither"
        self.assertIsNone(self.dark_for(here))

    def test_what_is_chosen_is_said(self):
        self.client.post(reverse("people:look"), {"look": "dark"})
        page = self.client.get(reverse("people:me")).content.decode()
        self.assertRegex(page, r'value="dark" aria-current="true"')
        self.assertNotRegex(page, r'value="light" aria-current')

    def test_it_stays_when_somebody_else_signs_in_and_the_public_shop_is_light(self):
        self.client.post(reverse("people:look"), {"look": "dark"})
        self.client.logout()
        self.client.cookies["look"] = "dark"
        self.assertEqual(self.dark_for(reverse("people:sign-in")), "screen")
        self.assertIsNone(self.dark_for(reverse("shop:front")))

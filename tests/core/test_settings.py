import unittest

from core.workshop.settings import Bank, Link, SettingKind, read_state


class States(unittest.TestCase):
    def test_as_typed(self):
        self.assertEqual(read_state(SettingKind.LINK, "3: 1-2"), Link(3, (1,)))
        self.assertEqual(read_state(SettingKind.LINK, "8: 7-8, 1-2"), Link(8, (1, 7)))
        self.assertEqual(read_state(SettingKind.LINK, "3:"), Link(3, ()))
        self.assertEqual(read_state(SettingKind.BANK, " 101 "), Bank((True, False, True)))
        self.assertEqual(read_state(SettingKind.FIRMWARE, "rev 2.1"), "rev 2.1")

    def test_what_can_not_be(self):
        for kind, text in (
            (SettingKind.BANK, "102"),
            (SettingKind.BANK, "1" * 17),
            (SettingKind.LINK, "1-2"),
            (SettingKind.LINK, "3: 1-3"),
            (SettingKind.LINK, "3: 3-4"),
            (SettingKind.LINK, "4: 1-2 2-3"),
            (SettingKind.LINK, "4: 1-2 1-2"),
            (SettingKind.LINK, "1: "),
            (SettingKind.OTHER, " "),
        ):
            with self.subTest(text), self.assertRaises(ValueError):
                read_state(kind, text)

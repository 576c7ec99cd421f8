"""Codes at sign-in against RFC 6238, *TOTP: Time-Based One-Time Password Algorithm*, appendix B."""

from unittest import TestCase

from stations.people.second_factor import step_of

# The key of the table, “12345678901234567890”, in base 32 (RFC 4648).
SECRET = "GEZDGNBVGY3TQOJQGEZDGNBVGY3TQOJQ"
# Seconds since 1970, and the code of eight figures for SHA-1; one of six is its last six (RFC 4226, 5.3).
TABLE = (
    (59, "94287082"),
    (1111111109, "07081804"),
    (1111111111, "14050471"),
    (1234567890, "89005924"),
    (2000000000, "69279037"),
    (20000000000, "65353130"),
)


class Codes(TestCase):
    def test_of_the_table(self):
        for seconds, code in TABLE:
            self.assertEqual(step_of(SECRET, code[2:], seconds), seconds // 30)
            self.assertIsNone(step_of(SECRET, code[2:], seconds + 90))
            # 5.2: what was used once is not taken again.
            self.assertIsNone(step_of(SECRET, code[2:], seconds, after=seconds // 30))

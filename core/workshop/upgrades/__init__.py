"""What an upgrade is worth: to whom, which set leaves most, and what else would do."""

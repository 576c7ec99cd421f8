"""Settings: `base` for all, `desk` for bin/start and the tests, `production` for a server of one's own."""

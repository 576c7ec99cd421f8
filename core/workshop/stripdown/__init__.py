"""Taking a machine apart and closing it: the way in, the way back, what holds it, what must not be closed yet."""

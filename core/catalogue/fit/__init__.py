"""Does it fit: what a machine offers, what a part needs, and the rules between them."""

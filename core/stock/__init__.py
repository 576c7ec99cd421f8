"""Parts: how they are measured, what they cost wherever they go, and how they are got."""

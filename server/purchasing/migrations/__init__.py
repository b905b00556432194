"""Schema changes."""

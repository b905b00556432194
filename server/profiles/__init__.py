"""Acceptance profiles of the shop, beside those that ship with the core."""

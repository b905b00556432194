"""Panels, offers and what fits."""

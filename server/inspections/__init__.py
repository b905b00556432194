"""Runs of patterns, their photos and what they showed."""

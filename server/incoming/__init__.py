"""Panels that came from a supplier or lie on the shelf: looked at, graded and decided without a customer's job."""

"""Readings of a luminance meter or colorimeter."""

from lens.meter.read import Reading, against_nominal, read_readings, typed_reading

__all__ = ["Reading", "against_nominal", "read_readings", "typed_reading"]

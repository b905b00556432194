"""Files read in the background: labels, backs of panels, tables."""

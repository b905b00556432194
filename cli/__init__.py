"""The command line over the core."""

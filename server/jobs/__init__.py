"""Jobs and their record."""

"""A job as a file: with its photos, its touch sessions and its record, from one installation to another."""

"""People, roles and what they may do."""

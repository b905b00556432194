"""Evidence and what it says of the causes."""

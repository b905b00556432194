"""Gates of fitting a panel."""

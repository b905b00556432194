"""The shop itself: what its reports and its clocks go by."""

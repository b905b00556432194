"""The simulated bench and the demo world."""

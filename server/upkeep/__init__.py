"""Keeping itself alive: worker processes, work of the dead, the watchdog, the state of health."""

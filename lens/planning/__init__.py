"""The day at the bench: which piece of which job is done when, around what cures, dries or is clamped."""

from lens.planning.day import DayJob, DayPlan, DaySlot, Piece, plan_day
from lens.planning.pieces import pieces_left

__all__ = ["DayJob", "DayPlan", "DaySlot", "Piece", "pieces_left", "plan_day"]

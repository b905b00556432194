"""Touch: sessions, what was crossed, what did not answer, and touches that nobody made."""

from lens.touch.analyse import Suspect, TouchResult, analyse
from lens.touch.plan import standard_plan
from lens.touch.session import Plan, Session, Step, read_session

__all__ = ["Plan", "Session", "Step", "Suspect", "TouchResult", "analyse", "read_session", "standard_plan"]

"""Does an offered panel fit in place of the one that is to be replaced?"""

from lens.matching.match import Match, MatchItem, PanelSpec, match

__all__ = ["Match", "MatchItem", "PanelSpec", "match"]

"""Does an offered panel fit in place of the one that is to be replaced?"""

from lens.matching.link import Link, Timing, link_of, reduced_blanking
from lens.matching.look_alikes import LookAlike, Named, look_alikes
from lens.matching.match import SCHOOLS, Match, MatchItem, School, check_school, match, rules
from lens.matching.specification import PanelSpec, normal_number

__all__ = [
    "SCHOOLS",
    "Link",
    "LookAlike",
    "Match",
    "MatchItem",
    "Named",
    "PanelSpec",
    "School",
    "Timing",
    "check_school",
    "link_of",
    "look_alikes",
    "match",
    "normal_number",
    "reduced_blanking",
    "rules",
]

"""Does an offered panel fit in place of the one that is to be replaced?"""

from lens.matching.data_sheet import DataSheetLine, read_data_sheet
from lens.matching.identity import IdentityEvidence, PanelIdentity, edid_identity, identify, spec_of_edid
from lens.matching.link import Link, Timing, link_of, reduced_blanking
from lens.matching.look_alikes import LookAlike, Named, look_alikes
from lens.matching.match import SCHOOLS, Match, Matcher, MatchItem, School, check_school, match, rules
from lens.matching.sources import VALUE_SOURCES, Source, Taken, ValueSource, known, set_by_hand, take_over
from lens.matching.specification import PanelSpec, normal_number

__all__ = [
    "SCHOOLS",
    "VALUE_SOURCES",
    "DataSheetLine",
    "IdentityEvidence",
    "Link",
    "LookAlike",
    "Match",
    "MatchItem",
    "Matcher",
    "Named",
    "PanelIdentity",
    "PanelSpec",
    "School",
    "Source",
    "Taken",
    "Timing",
    "ValueSource",
    "check_school",
    "edid_identity",
    "identify",
    "known",
    "link_of",
    "look_alikes",
    "match",
    "normal_number",
    "read_data_sheet",
    "reduced_blanking",
    "rules",
    "set_by_hand",
    "spec_of_edid",
    "take_over",
]

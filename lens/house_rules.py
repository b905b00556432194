"""House rules: the questions on which good practitioners differ, and the schools that a shop can choose from, as checked data."""

from collections.abc import Mapping
from functools import cache
from pathlib import Path

from pydantic import Field, model_validator

from lens.records.base import Record
from lens.tables import not_known, shipped

DATA = Path(__file__).with_suffix(".yaml")


class School(Record):
    """One way of doing it, and why."""

    title: str = Field(min_length=1, max_length=80)
    reason: str = Field(min_length=1, max_length=300)


class HouseRule(Record):
    """A question. ``default`` holds until the shop has chosen."""

    title: str = Field(min_length=1, max_length=80)
    about: str = ""
    default: str
    schools: dict[str, School] = Field(min_length=2)

    @model_validator(mode="after")
    def _default_is_a_school(self) -> "HouseRule":
        if self.default not in self.schools:
            raise ValueError(f"the default '{self.default}' is none of its schools")
        return self


class _Rules(Record):
    rules: dict[str, HouseRule]


@cache
def house_rules() -> Mapping[str, HouseRule]:
    """All questions by id."""
    return shipped(_Rules, DATA).rules


def check_school(rule: str, school: str) -> str:
    """The school's id; raises BadInput for a question or a school that is none."""
    if rule not in house_rules():
        raise not_known("house rule", rule, house_rules(), "unknown_rule")
    schools = house_rules()[rule].schools
    if school not in schools:
        raise not_known("school", school, schools, "unknown_school")
    return school

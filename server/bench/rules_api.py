"""House rules: what the shop does where good practitioners differ."""

from datetime import datetime

from django.http import HttpRequest
from ninja import Router, Schema

from lens.house_rules import School, house_rules
from server.accounts.doors import lead_profiles
from server.profiles import actions
from server.profiles.history import PastVersion, history_of
from server.profiles.models import HouseRule

router = Router(tags=["house rules"])


class SchoolOut(School):
    id: str


class RuleOut(Schema):
    """``changed_by`` is empty while the default holds."""

    id: str
    title: str
    about: str
    chosen: str
    schools: list[SchoolOut]
    changed_by: str
    changed_at: datetime | None


class RuleIn(Schema):
    school: str


@router.get("/house-rules", response=list[RuleOut], operation_id="listHouseRules")
def list_rules(request: HttpRequest) -> list[RuleOut]:
    chosen = {one.name: one for one in HouseRule.objects.select_related("changed_by")}
    return [
        RuleOut(
            id=name,
            title=rule.title,
            about=rule.about,
            chosen=chosen[name].value if name in chosen else rule.default,
            schools=[SchoolOut(id=school, **told.model_dump()) for school, told in rule.schools.items()],
            changed_by=chosen[name].changed_by.username if name in chosen else "",
            changed_at=chosen[name].changed_at if name in chosen else None,
        )
        for name, rule in house_rules().items()
    ]


@router.get("/house-rules/{name}/history", response=list[PastVersion], operation_id="houseRuleHistory")
def rule_history(request: HttpRequest, name: str) -> list[PastVersion]:
    """Which school was chosen when and by whom; the latest first."""
    told, rule = history_of(f"rule:{name}"), house_rules().get(name)
    schools = {school: one.title for school, one in rule.schools.items()} if rule else {}
    for one in told:
        for change in one.changes:
            change.field = rule.title if rule else name
            change.before, change.after = (schools.get(word, word) for word in (change.before, change.after))
    return told


@router.put("/house-rules/{name}", auth=lead_profiles, response=list[RuleOut], operation_id="setHouseRule")
def set_rule(request: HttpRequest, name: str, body: RuleIn) -> list[RuleOut]:
    """Holds for jobs that are taken in from now on; those under way keep what they were begun with."""
    actions.set_house_rule(request.user, name, body.school)
    return list_rules(request)

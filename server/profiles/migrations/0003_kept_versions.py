"""Profiles and house rules keep what they were; those that are there begin with what they are."""

from typing import Any

import django.db.models.deletion
from django.conf import settings
from django.db import migrations, models

from lens.acceptance import read_profile
from lens.reporting import digest


def keep_what_is(apps: Any, schema_editor: Any) -> None:
    kept = apps.get_model("profiles", "KeptVersion")
    for one in apps.get_model("profiles", "OwnProfile").objects.all():
        sha256 = digest(read_profile(one.content).model_dump(mode="json", exclude_defaults=True))
        kept.objects.create(what=f"profile:{one.slug}", version=one.version, content=one.content, sha256=sha256, made_by_id=one.changed_by_id)
    for rule in apps.get_model("profiles", "HouseRule").objects.all():
        content = {"value": rule.value}
        kept.objects.create(what=f"rule:{rule.name}", version=1, content=content, sha256=digest(content), made_by_id=rule.changed_by_id)


class Migration(migrations.Migration):
    dependencies = [migrations.swappable_dependency(settings.AUTH_USER_MODEL), ("profiles", "0002_house_rules")]
    operations = [
        migrations.CreateModel(
            name="KeptVersion",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("what", models.CharField(max_length=60)),
                ("version", models.PositiveIntegerField()),
                ("content", models.JSONField()),
                ("sha256", models.CharField(db_index=True, max_length=64)),
                ("made_at", models.DateTimeField(auto_now_add=True)),
                ("made_by", models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, related_name="+", to=settings.AUTH_USER_MODEL)),
            ],
            options={"ordering": ("what", "version")},
        ),
        migrations.AddConstraint(model_name="keptversion", constraint=models.UniqueConstraint(fields=("what", "version"), name="kept_once")),
        migrations.RunPython(keep_what_is, migrations.RunPython.noop),
    ]

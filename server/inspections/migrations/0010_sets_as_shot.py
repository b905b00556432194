"""Runs that were begun with the standard set of pure colours keep it: it is called by its use now."""

from django.apps.registry import Apps
from django.db import migrations
from django.db.backends.base.schema import BaseDatabaseSchemaEditor


def keep(apps: Apps, schema_editor: BaseDatabaseSchemaEditor) -> None:
    apps.get_model("inspections", "Run").objects.filter(pattern_set="standard").update(pattern_set="manual")


class Migration(migrations.Migration):
    dependencies = [("inspections", "0009_tried_at")]
    operations = [migrations.RunPython(keep, migrations.RunPython.noop)]

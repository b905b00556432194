"""Results that were stored before the proven shares of pixels and subpixels stood in them: the lower of the two stands for both."""

from django.apps.registry import Apps
from django.db import migrations
from django.db.backends.base.schema import BaseDatabaseSchemaEditor


def add_shares(apps: Apps, schema_editor: BaseDatabaseSchemaEditor) -> None:
    for run in apps.get_model("inspections", "Run").objects.filter(result__isnull=False):
        if "proven" not in run.result:
            share = run.result["verdict"]["proven_fraction"]
            run.result["proven"] = {"pixels": share, "subpixels": share}
            run.save(update_fields=["result"])


class Migration(migrations.Migration):
    dependencies = [("inspections", "0002_judgement")]
    operations = [migrations.RunPython(add_shares, migrations.RunPython.noop)]

from django.contrib.postgres.indexes import GinIndex
from django.contrib.postgres.operations import TrigramExtension
from django.db import migrations, models

from lens.matching import normal_number


def fill(apps, schema_editor):
    """Names that differ by dashes only were two panels until now: they stay two."""
    seen = set()
    for panel in apps.get_model("parts", "PanelModel").objects.order_by("id"):
        normal = normal_number(panel.name)[:60]
        panel.normal = normal if normal not in seen else f"{normal}~{panel.pk}"
        seen.add(panel.normal)
        panel.save(update_fields=["normal"])


class Migration(migrations.Migration):
    dependencies = [("parts", "0001_initial")]
    operations = [
        TrigramExtension(),
        migrations.AddField("panelmodel", "normal", models.CharField(default="", max_length=80), preserve_default=False),
        migrations.AddField("panelmodel", "retired", models.BooleanField(default=False)),
        migrations.AddField("panelmodel", "version", models.PositiveIntegerField(default=1)),
        migrations.AlterField("panelmodel", "maker", models.CharField(blank=True, max_length=80)),
        migrations.AddField("offer", "withdrawn", models.BooleanField(default=False)),
        migrations.RunPython(fill, migrations.RunPython.noop),
        migrations.AlterField("panelmodel", "normal", models.CharField(max_length=80, unique=True)),
        migrations.AddIndex(
            "panelmodel", GinIndex(fields=["normal"], opclasses=["gin_trgm_ops"], name="parts_normal")
        ),
    ]

import django.db.models.deletion
from django.contrib.postgres.indexes import GinIndex
from django.db import migrations, models


def suppliers(apps, schema_editor):
    """Suppliers were names on offers until now."""
    offers, made = apps.get_model("parts", "Offer"), apps.get_model("parts", "Supplier")
    for name in offers.objects.order_by("supplier_name").values_list("supplier_name", flat=True).distinct():
        one, _ = made.objects.get_or_create(name=name)
        offers.objects.filter(supplier_name=name).update(supplier=one)


class Migration(migrations.Migration):
    # data and its tables change in one step: row triggers wait otherwise
    atomic = True
    dependencies = [("parts", "0002_register")]
    operations = [
        migrations.CreateModel(
            "Device",
            [
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("kind", models.CharField(max_length=20)),
                ("maker", models.CharField(blank=True, max_length=80)),
                ("names", models.JSONField()),
                ("generation", models.CharField(blank=True, max_length=40)),
                ("diagonal_in", models.FloatField(blank=True, null=True)),
                ("panel_width", models.PositiveIntegerField(blank=True, null=True)),
                ("panel_height", models.PositiveIntegerField(blank=True, null=True)),
                ("build", models.CharField(blank=True, max_length=40)),
                ("normals", models.CharField(max_length=400)),
                ("version", models.PositiveIntegerField(default=1)),
                ("retired", models.BooleanField(default=False)),
            ],
            options={
                "ordering": ("normals", "id"),
                "indexes": [GinIndex(fields=["normals"], name="parts_device_normals", opclasses=["gin_trgm_ops"])],
            },
        ),
        migrations.CreateModel(
            "Supplier",
            [
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("name", models.CharField(max_length=80, unique=True)),
                ("cut_off", models.TimeField(blank=True, null=True)),
                ("free_freight_from", models.DecimalField(blank=True, decimal_places=2, max_digits=8, null=True)),
                ("return_cost", models.DecimalField(decimal_places=2, default=0, max_digits=8)),
                ("terms", models.TextField(blank=True, max_length=1000)),
                ("version", models.PositiveIntegerField(default=1)),
                ("retired", models.BooleanField(default=False)),
            ],
            options={"ordering": ("name",)},
        ),
        migrations.RenameField("offer", "supplier", "supplier_name"),
        migrations.AddField(
            "offer",
            "supplier",
            models.ForeignKey(
                null=True, on_delete=django.db.models.deletion.PROTECT, related_name="offers", to="parts.supplier"
            ),
        ),
        migrations.RunPython(suppliers, migrations.RunPython.noop),
        migrations.RunSQL("SET CONSTRAINTS ALL IMMEDIATE", migrations.RunSQL.noop),
        migrations.RemoveField("offer", "supplier_name"),
        migrations.AlterField(
            "offer",
            "supplier",
            models.ForeignKey(
                on_delete=django.db.models.deletion.PROTECT, related_name="offers", to="parts.supplier"
            ),
        ),
        migrations.AddField("offer", "grade", models.CharField(blank=True, max_length=20)),
        migrations.AddField("offer", "currency", models.CharField(default="EUR", max_length=3)),
        migrations.AddField("offer", "breaks", models.JSONField(default=list)),
        migrations.AddField("offer", "duty_percent", models.DecimalField(decimal_places=2, default=0, max_digits=5)),
        migrations.AddField("offer", "comes_with", models.JSONField(default=list)),
        migrations.AddField("offer", "on_shelf", models.PositiveIntegerField(blank=True, null=True)),
    ]

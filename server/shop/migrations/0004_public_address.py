from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("shop", "0003_logo")]

    operations = [
        migrations.AddField(
            model_name="shop", name="public_address", field=models.CharField(blank=True, max_length=200)
        ),
    ]

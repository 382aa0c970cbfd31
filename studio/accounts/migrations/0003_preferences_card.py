from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("accounts", "0002_preferences_kept")]

    operations = [
        migrations.AddField(
            model_name="preferences", name="card", field=models.JSONField(default=dict)
        ),
        migrations.AddField(
            model_name="preferences", name="presets", field=models.JSONField(default=list)
        ),
        migrations.AddField(
            model_name="preferences", name="looks", field=models.JSONField(default=list)
        ),
    ]

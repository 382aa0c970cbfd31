from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("accounts", "0001_initial")]

    operations = [
        migrations.AddField(
            model_name="preferences", name="kept", field=models.JSONField(default=list)
        ),
    ]

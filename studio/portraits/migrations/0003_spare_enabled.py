from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("portraits", "0002_seen")]

    operations = [
        migrations.AddField("touch", "spare", models.JSONField(default=list)),
        migrations.AddField("touch", "enabled", models.BooleanField(default=True)),
    ]

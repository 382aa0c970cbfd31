from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("portraits", "0007_pressure")]

    operations = [migrations.AddField("pass", "bound", models.JSONField(null=True))]

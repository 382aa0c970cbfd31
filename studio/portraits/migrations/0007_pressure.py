from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("portraits", "0006_elsewhere")]

    operations = [migrations.AddField("touch", "pressure", models.JSONField(default=list))]

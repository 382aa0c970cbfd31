from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("portraits", "0005_jobs_fit")]

    operations = [migrations.AddField("touch", "elsewhere", models.JSONField(null=True))]

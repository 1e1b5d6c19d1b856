from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("people", "0005_agreements_and_keeping")]
    operations = [
        migrations.AddField("user", "keeps", models.BooleanField(db_default=False, default=False)),
    ]

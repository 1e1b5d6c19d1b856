from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("takes", "0008_a_guests_drill_stays")]

    operations = [
        migrations.AddField(model_name="take", name="hidden_at", field=models.DateTimeField(null=True)),
    ]

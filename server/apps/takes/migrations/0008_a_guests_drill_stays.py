import django.db.models.deletion
from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("takes", "0007_indexes_that_cover"), ("drills", "0004_forms_facts_partners")]

    operations = [
        migrations.AlterField(
            "guestlink",
            "drill",
            models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, related_name="+", to="drills.drill"),
        ),
    ]

from config.columns import unused
from django.db import migrations


class Migration(migrations.Migration):
    dependencies = [("drills", "0006_shapes"), ("jobs", "0001_initial")]
    operations = [
        unused("scoreimport", "drills_scoreimport", "asked_at", "'2026-01-01'"),
        unused("scoreimport", "drills_scoreimport", "attempts", "0"),
    ]

from config.columns import unused
from django.db import migrations


class Migration(migrations.Migration):
    dependencies = [("reports", "0002_asked_at"), ("jobs", "0001_initial")]
    operations = [
        unused("lessonsheet", "reports_lessonsheet", "asked_at", None),
        unused("lessonsheet", "reports_lessonsheet", "attempts", "0"),
    ]

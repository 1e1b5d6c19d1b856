from django.db import migrations


class Migration(migrations.Migration):
    dependencies = [("reports", "0001_initial")]

    operations = [migrations.RenameField("lessonsheet", "pdf_asked_at", "asked_at")]

from config.columns import unused
from django.db import migrations


class Migration(migrations.Migration):
    dependencies = [("takes", "0010_deleted_recordings"), ("jobs", "0001_initial")]
    operations = [
        migrations.RemoveIndex("take", "take_to_do"),
        unused("take", "takes_take", "stage", "''"),
        unused("take", "takes_take", "fraction", "0"),
        unused("take", "takes_take", "attempts", "0"),
        unused("take", "takes_take", "queued_at", None),
        unused("take", "takes_take", "claim", None),
        unused("take", "takes_take", "claimed_until", None),
        unused("trial", "takes_trial", "attempts", "0"),
        unused("drillguess", "takes_drillguess", "attempts", "0"),
    ]

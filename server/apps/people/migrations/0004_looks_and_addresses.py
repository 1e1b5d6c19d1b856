"""One line of the log a look and day; addresses that were attached to accounts from outside go."""

from typing import Any

from django.db import migrations, models
from django.db.models import F
from django.db.models.functions import Lower


def forget_foreign_addresses(apps: Any, _schema_editor: object) -> None:
    """An account's address is the one it signs in with."""
    rows = apps.get_model("account", "EmailAddress").objects.annotate(own=Lower("user__email"), said=Lower("email"))
    for row in rows.exclude(own=F("said")):
        row.delete()


class Migration(migrations.Migration):
    dependencies = [("people", "0003_left_handed"), ("account", "0009_emailaddress_unique_primary_email")]

    operations = [
        migrations.AddField(
            model_name="auditentry",
            name="look",
            field=models.CharField(max_length=64, null=True, unique=True),
        ),
        migrations.RunPython(forget_foreign_addresses, migrations.RunPython.noop),
    ]

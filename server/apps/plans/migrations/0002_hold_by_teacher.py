from typing import Any

from django.db import migrations, models


def who_set_them(apps: Any, _schema_editor: object) -> None:
    """Holds that a teacher's line of the logbook set."""
    apps.get_model("plans", "Hold").objects.filter(entry__made_by__role="teacher").update(by_teacher=True)


class Migration(migrations.Migration):
    dependencies = [("plans", "0001_initial")]

    operations = [
        migrations.AddField(model_name="hold", name="by_teacher", field=models.BooleanField(default=False)),
        migrations.RunPython(who_set_them, migrations.RunPython.noop),
    ]

"""Every guitar gets a description; those that are there begin as a typical one of their kind."""

from django.db import migrations, models


def describe(apps, _schema_editor) -> None:  # type: ignore[no-untyped-def]
    from fortimetra.model import preset

    for guitar in apps.get_model("guitars", "Guitar").objects.filter(description=None):
        guitar.description = preset(guitar.kind).model_dump(mode="json")
        guitar.save(update_fields=["description"])


class Migration(migrations.Migration):
    dependencies = [("guitars", "0001_initial")]

    operations = [
        migrations.AlterModelOptions(name="guitar", options={"ordering": ("created_at", "id")}),
        migrations.AddField("guitar", "description", models.JSONField(null=True)),
        migrations.RunPython(describe, migrations.RunPython.noop),
        migrations.AlterField("guitar", "description", models.JSONField()),
    ]

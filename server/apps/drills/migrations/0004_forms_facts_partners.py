from typing import Any

import django.db.models.deletion
from django.db import migrations, models


def fill(apps: Any, _editor: Any) -> None:
    """What a list says of the drills that are there already."""
    from fortimetra import Drill as DrillContent
    from fortimetra.drills import digest, facts

    Drill = apps.get_model("drills", "Drill")
    for drill in Drill.objects.exclude(current=None).select_related("current").iterator(chunk_size=100):
        content = DrillContent.model_validate(drill.current.content).model_copy(update={"shelf": None})
        drill.facts, drill.digest = facts(content), digest(content.model_dump(mode="json", by_alias=True))
        drill.save(update_fields=["facts", "digest"])


class Migration(migrations.Migration):
    dependencies = [("drills", "0003_levels_tags_imports"), ("people", "0001_initial")]

    operations = [
        migrations.AddField(
            "drill", "form", models.CharField(blank=True, max_length=40, default=""), preserve_default=False
        ),
        migrations.AddField("drill", "values", models.JSONField(default=dict)),
        migrations.AddField("drill", "facts", models.JSONField(default=dict)),
        migrations.AddField(
            "drill", "digest", models.CharField(blank=True, max_length=64, default=""), preserve_default=False
        ),
        migrations.AddField(
            "drill",
            "partner",
            models.ForeignKey(
                blank=True, null=True, on_delete=django.db.models.deletion.SET_NULL, related_name="+", to="drills.drill"
            ),
        ),
        migrations.AddIndex("drill", models.Index(fields=["studio", "digest"], name="drill_of_digest")),
        migrations.RunPython(fill, migrations.RunPython.noop),
    ]

from typing import Any

from django.db import migrations


def fill(apps: Any, _editor: Any) -> None:
    """How the drills that are there already begin, for their pictures in lists."""
    from fortimetra import Drill as DrillContent
    from fortimetra.drills import facts

    Drill = apps.get_model("drills", "Drill")
    for drill in Drill.objects.exclude(current=None).select_related("current").iterator(chunk_size=100):
        drill.facts = facts(DrillContent.model_validate(drill.current.content))
        drill.save(update_fields=["facts"])


class Migration(migrations.Migration):
    dependencies = [("drills", "0005_cards_and_order")]

    operations = [migrations.RunPython(fill, migrations.RunPython.noop)]

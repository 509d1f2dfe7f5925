"""What a build tells of its steps is typed from here on: heads are built again, older results are let go."""

from typing import Any

from django.db import migrations


def build_heads_again(apps: Any, schema_editor: Any) -> None:
    tasks, jobs = apps.get_model("bench", "Task"), apps.get_model("bench", "Job")
    builds = tasks.objects.filter(kind="build").exclude(result="")
    heads = builds.filter(revision__in=jobs.objects.exclude(head=None).values("head"))
    newest = {row.revision_id: row.id for row in heads.order_by("created").only("id", "revision_id")}
    tasks.objects.filter(id__in=newest.values()).update(
        status="queued", result="", problem=None, cancel=False, attempts=0, claim=None, heartbeat=None
    )
    builds.delete()


class Migration(migrations.Migration):
    dependencies = [("bench", "0005_products_and_cards")]
    operations = [migrations.RunPython(build_heads_again, migrations.RunPython.noop)]

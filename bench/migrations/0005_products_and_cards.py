"""Whose a product is becomes a table, and jobs keep what the shelf shows of them."""

import json

import django.db.models.deletion
from django.db import migrations, models


def _keys(result):
    steps = result.get("steps", [])
    keys = [s["key"] for s in steps if s.get("key")]
    keys += [key for part in ("scans", "raw", "health") for key in result.get(part, {}).values()]
    keys += [key for s in steps for part in ("after", "scans") for key in s.get(part, {}).values()]
    return keys + ([result["fit"]["key"]] if result.get("fit") else [])


def fill(apps, schema_editor):
    product, job_rows = apps.get_model("bench", "JobProduct"), apps.get_model("bench", "Job")
    tasks = apps.get_model("bench", "Task").objects.filter(kind="build").exclude(result="")
    for job in job_rows.objects.filter(head__isnull=False).select_related("head").iterator():
        keys, newest = set(), None
        for row in tasks.filter(job=job).order_by("created").iterator():
            result = json.loads(row.result)
            keys.update(_keys(result))
            if newest is None or row.revision_id == job.head_id or newest[0] != job.head_id:
                newest = (row.revision_id, result)
        product.objects.bulk_create([product(job=job, key=k) for k in sorted(keys)], ignore_conflicts=True)
        recipe, result = json.loads(job.head.recipe), newest[1] if newest else {}
        fit = result.get("fit")
        job_rows.objects.filter(id=job.id).update(
            card={
                "name": recipe["name"],
                "scans": sum(e["kind"] == "scan" for e in recipe.get("evidence", [])),
                "steps": len(recipe.get("steps", [])),
                "acceptance_mm": recipe.get("acceptance_mm", 0.1),
                "unit": recipe.get("unit", "mm"),
                "bodies": len(result.get("bodies", [])),
                "inside_share": fit["figures"]["inside_share"] if fit else None,
            }
        )


class Migration(migrations.Migration):
    dependencies = [("bench", "0004_kept_file")]

    operations = [
        migrations.AddField("job", "card", models.JSONField(default=dict)),
        migrations.CreateModel(
            name="JobProduct",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("key", models.CharField(max_length=60)),
                (
                    "job",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE, related_name="products", to="bench.job"
                    ),
                ),
            ],
        ),
        migrations.AddConstraint(
            model_name="jobproduct",
            constraint=models.UniqueConstraint(fields=["job", "key"], name="a_product_is_a_jobs_once"),
        ),
        migrations.RunPython(fill, migrations.RunPython.noop),
    ]

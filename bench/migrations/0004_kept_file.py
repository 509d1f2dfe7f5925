"""Files get owners: uploads by who brought them in, all else by whose job names it."""

import re

import django.db.models.deletion
from django.conf import settings
from django.db import migrations, models

_HASH = re.compile(r'"([0-9a-f]{64})"')


def owners_of_what_is_there(apps, schema_editor):
    kept = apps.get_model("bench", "KeptFile")
    rows = set(apps.get_model("bench", "Upload").objects.values_list("owner_id", "blob"))
    for owner, recipe in apps.get_model("bench", "Revision").objects.values_list("job__owner_id", "recipe").iterator():
        rows.update((owner, digest) for digest in _HASH.findall(recipe))
    kept.objects.bulk_create(kept(owner_id=owner, digest=digest) for owner, digest in sorted(rows))


class Migration(migrations.Migration):
    dependencies = [
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
        ("bench", "0003_caliper_line"),
    ]

    operations = [
        migrations.CreateModel(
            name="KeptFile",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("digest", models.CharField(max_length=64)),
                (
                    "owner",
                    models.ForeignKey(
                        null=True, on_delete=django.db.models.deletion.CASCADE, to=settings.AUTH_USER_MODEL
                    ),
                ),
            ],
        ),
        migrations.AddConstraint(
            model_name="keptfile",
            constraint=models.UniqueConstraint(
                fields=["digest", "owner"], name="a_file_is_somebodys_once"
            ),
        ),
        migrations.RunPython(owners_of_what_is_there, migrations.RunPython.noop),
    ]

"""Walk-up answers are one a person, whatever they are called: two of one name no longer overwrite each other."""

from django.conf import settings
from django.db import migrations, models
from django.db.models import Q


def one_row_a_person(apps, schema_editor):
    """Where one person answered under two names, the older answer stays under its name alone."""
    seen = set()
    for row in apps.get_model("survey", "HazardAnswer").objects.exclude(person=None).order_by("-at", "-pk"):
        key = row.tree_id, row.hazard, row.person_id
        if key in seen:
            row.person = None
            row.save(update_fields=["person"])
        seen.add(key)


class Migration(migrations.Migration):
    dependencies = [
        ("jobs", "0003_historicaltree_yard_job_origin_lat_job_origin_lon_and_more"),
        ("survey", "0002_complete_felling"),
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]

    operations = [
        migrations.RemoveConstraint(model_name="hazardanswer", name="hazard_once_each"),
        migrations.RunPython(one_row_a_person, migrations.RunPython.noop),
        migrations.AddConstraint(
            model_name="hazardanswer",
            constraint=models.UniqueConstraint(
                condition=Q(("person__isnull", False)),
                fields=("tree", "hazard", "person"),
                name="hazard_once_a_person",
            ),
        ),
        migrations.AddConstraint(
            model_name="hazardanswer",
            constraint=models.UniqueConstraint(
                condition=Q(("person__isnull", True)), fields=("tree", "hazard", "by"), name="hazard_once_a_name"
            ),
        ),
    ]

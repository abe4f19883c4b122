"""A crew's own lines keep the key their answers name them by, whatever yard they come to."""

from django.db import migrations, models
from django.db.models import F, Value
from django.db.models.functions import Cast, Concat

import apps.survey.models


def as_they_were(apps, schema_editor):
    for name, number in (("CrewHazard", "pk"), ("HistoricalCrewHazard", "id")):
        key = Concat(Value("own-"), Cast(F(number), models.CharField()))
        apps.get_model("survey", name).objects.update(key=key)


class Migration(migrations.Migration):
    dependencies = [("crews", "0007_step_person"), ("survey", "0005_findings_by_key")]

    operations = [
        migrations.AddField(
            model_name=name,
            name="key",
            field=models.CharField(default=apps.survey.models.own_key, max_length=24),
        )
        for name in ("crewhazard", "historicalcrewhazard")
    ] + [
        migrations.RunPython(as_they_were, migrations.RunPython.noop),
        migrations.AddConstraint(
            model_name="crewhazard",
            constraint=models.UniqueConstraint(fields=("crew", "key"), name="crew_hazard_key_once"),
        ),
    ]

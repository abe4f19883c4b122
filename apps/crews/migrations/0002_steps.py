"""Steps that can be taken back: of every scope, of a crew, a job or a tree; those there are keep their place."""

import django.core.serializers.json
import django.db.models.deletion
from django.db import migrations, models

TABLE = "jobs_step"


def name_scopes(apps, schema_editor):
    step = apps.get_model("crews", "Step")
    step.objects.filter(tree__isnull=True).update(scope="site")
    step.objects.filter(tree__isnull=False).update(scope="body")


class Migration(migrations.Migration):
    dependencies = [("crews", "0001_initial"), ("jobs", "0009_steps_move")]

    operations = [
        migrations.SeparateDatabaseAndState(
            state_operations=[
                migrations.CreateModel(
                    name="Step",
                    fields=[
                        ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                        ("label", models.CharField(max_length=120)),
                        ("changes", models.JSONField(encoder=django.core.serializers.json.DjangoJSONEncoder)),
                        ("undone", models.BooleanField(default=False)),
                        ("by", models.CharField(blank=True, max_length=150)),
                        ("at", models.DateTimeField(auto_now_add=True)),
                        ("job", models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name="steps", to="jobs.job")),
                        ("tree", models.ForeignKey(blank=True, null=True, on_delete=django.db.models.deletion.CASCADE, related_name="steps", to="jobs.tree")),
                    ],
                    options={"ordering": ["pk"], "db_table": TABLE},
                )
            ]
        ),
        migrations.AddField(
            model_name="step",
            name="crew",
            field=models.ForeignKey(blank=True, null=True, on_delete=django.db.models.deletion.CASCADE, related_name="steps", to="crews.crew"),
        ),
        migrations.AlterField(
            model_name="step",
            name="job",
            field=models.ForeignKey(blank=True, null=True, on_delete=django.db.models.deletion.CASCADE, related_name="steps", to="jobs.job"),
        ),
        migrations.AddField(model_name="step", name="scope", field=models.CharField(default="site", max_length=12), preserve_default=False),
        migrations.RunPython(name_scopes, migrations.RunPython.noop),
        migrations.AddIndex(
            model_name="step",
            index=models.Index(fields=["scope", "job", "tree", "undone"], name="step_of_scope"),
        ),
    ]

"""Steps that can be taken back belong to every room now; the table stays as it is."""

from django.db import migrations


class Migration(migrations.Migration):
    dependencies = [("jobs", "0008_declared_ranges")]

    operations = [
        migrations.RemoveIndex(model_name="step", name="step_scope"),
        migrations.SeparateDatabaseAndState(state_operations=[migrations.DeleteModel(name="Step")]),
    ]

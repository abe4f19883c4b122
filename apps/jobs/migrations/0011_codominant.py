"""A stem beside the stem goes by the field's own word."""

from django.db import migrations


class Migration(migrations.Migration):
    dependencies = [("jobs", "0010_choices_by_name")]

    operations = [
        migrations.RenameField(model_name="limb", old_name="lead", new_name="codominant"),
        migrations.RenameField(model_name="historicallimb", old_name="lead", new_name="codominant"),
    ]

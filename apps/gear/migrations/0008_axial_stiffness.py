"""How stiff a rope is goes by the field's own word."""

from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("gear", "0007_choices_by_name")]

    operations = [
        migrations.RemoveConstraint(model_name="gearitem", name="gear_modulus"),
        migrations.RenameField(model_name="gearitem", old_name="modulus", new_name="axial_stiffness"),
        migrations.RenameField(model_name="historicalgearitem", old_name="modulus", new_name="axial_stiffness"),
        migrations.AddConstraint(
            model_name="gearitem",
            constraint=models.CheckConstraint(
                condition=models.Q(
                    models.Q(("axial_stiffness__gte", 1000.0), ("axial_stiffness__lte", 10000000.0)),
                    ("axial_stiffness__isnull", True),
                    _connector="OR",
                ),
                name="gear_axial_stiffness",
            ),
        ),
    ]

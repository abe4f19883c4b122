"""Devices that have settings say their own; they were told by their wraps before."""

from django.db import migrations


def say_settings(apps, schema_editor):
    for plan in apps.get_model("takedown", "TakedownPlan").objects.all():
        told = [pick for pick in plan.picks if pick.get("device_kind") == "intree" and not pick.get("setting")]
        for pick in told:
            pick["setting"] = 2 if pick.get("wraps", 2.0) >= 1.0 else 1
        if told:
            plan.save()


class Migration(migrations.Migration):
    dependencies = [("takedown", "0004_pick_ids")]

    operations = [migrations.RunPython(say_settings, migrations.RunPython.noop)]

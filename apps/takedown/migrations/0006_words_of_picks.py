"""Picks say redirect and far anchor, in what is kept and in what was."""

from django.db import migrations

WORDS = {"lead": "redirect", "lead_sling": "redirect_sling", "lead_block": "redirect_block", "far": "far_anchor"}


def rename(apps, schema_editor):
    for name in ("TakedownPlan", "HistoricalTakedownPlan"):
        for row in apps.get_model("takedown", name).objects.all().iterator():
            picks = [{WORDS.get(key, key): value for key, value in pick.items()} for pick in row.picks]
            if picks != row.picks:
                row.picks = picks
                row.save(update_fields=["picks"])


class Migration(migrations.Migration):
    dependencies = [("takedown", "0005_settings_said")]

    operations = [migrations.RunPython(rename, migrations.RunPython.noop)]

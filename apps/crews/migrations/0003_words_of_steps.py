"""Steps name columns by the words they have now."""

from django.db import migrations

WORDS = {"limb": {"lead": "codominant"}}


def rename(apps, schema_editor):
    for step in apps.get_model("crews", "Step").objects.filter(scope="body").iterator():
        changed = False
        for key, sides in step.changes.items():
            words = WORDS.get(key.partition(":")[0], {})
            for side in sides:
                for old, new in words.items():
                    if side and old in side:
                        side[new] = side.pop(old)
                        changed = True
        if changed:
            step.save(update_fields=["changes"])


class Migration(migrations.Migration):
    dependencies = [("crews", "0002_steps"), ("jobs", "0011_codominant")]

    operations = [migrations.RunPython(rename, migrations.RunPython.noop)]

"""Steps name what a choice may be by keys."""

from django.db import migrations

WORDS = {
    "limb": ("union", {"included bark": "included", "included, strapped": "strapped"}),
    "answer": ("finding", {"not looked at": "not_looked"}),
}


def to_keys(apps, schema_editor):
    for step in apps.get_model("crews", "Step").objects.filter(scope__in=["body", "walk"]).iterator():
        changed = False
        for name, sides in step.changes.items():
            column, words = WORDS.get(name.partition(":")[0], ("", {}))
            for side in sides:
                if side and side.get(column) in words:
                    side[column] = words[side[column]]
                    changed = True
        if changed:
            step.save(update_fields=["changes"])


class Migration(migrations.Migration):
    dependencies = [
        ("crews", "0003_words_of_steps"),
        ("jobs", "0012_unions_by_key"),
        ("survey", "0005_findings_by_key"),
    ]

    operations = [migrations.RunPython(to_keys, migrations.RunPython.noop)]

"""Every pick is named by an id of its own; a signature takes no notice of them."""

from secrets import token_hex

from django.db import migrations


def named(apps, schema_editor):
    """Give each stored pick an id; the histories stay as they were."""
    plans = apps.get_model("takedown", "TakedownPlan")
    for plan in plans.objects.all():
        if any(not pick.get("id") for pick in plan.picks):
            plan.picks = [{**pick, "id": pick.get("id") or f"p{token_hex(4)}"} for pick in plan.picks]
            plan.save(update_fields=["picks"])


class Migration(migrations.Migration):
    dependencies = [("takedown", "0003_revisions")]
    operations = [migrations.RunPython(named, migrations.RunPython.noop)]

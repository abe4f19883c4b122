"""Every yard has an owner: of those there were, the one who came first of its planners."""

from django.db import migrations


def choose(apps, schema_editor):
    Person = apps.get_model("crews", "Person")
    for crew in apps.get_model("crews", "Crew").objects.all():
        people = Person.objects.filter(crew=crew, is_active=True)
        first = people.filter(role="planner").order_by("pk").first()
        if first and not people.filter(role="owner").exists():
            Person.objects.filter(pk=first.pk).update(role="owner")


class Migration(migrations.Migration):
    dependencies = [("crews", "0005_people")]

    operations = [migrations.RunPython(choose, migrations.RunPython.noop)]

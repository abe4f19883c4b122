"""What was found is kept as a key."""

from django.conf import settings
from django.db import migrations, models


WORD, KEY = "not looked at", "not_looked"


def to_keys(apps, schema_editor):
    for name in ("HazardAnswer", "HistoricalHazardAnswer"):
        apps.get_model("survey", name).objects.filter(finding=WORD).update(finding=KEY)


def to_words(apps, schema_editor):
    for name in ("HazardAnswer", "HistoricalHazardAnswer"):
        apps.get_model("survey", name).objects.filter(finding=KEY).update(finding=WORD)


class Migration(migrations.Migration):

    dependencies = [
        ('jobs', '0012_unions_by_key'),
        ('survey', '0004_declared_ranges'),
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]

    operations = [
        migrations.RemoveConstraint(
            model_name='hazardanswer',
            name='hazard_finding',
        ),
        migrations.AlterField(
            model_name='hazardanswer',
            name='finding',
            field=models.CharField(choices=[('present', 'present'), ('absent', 'absent'), ('not_looked', 'not looked at')], default='not_looked', max_length=14),
        ),
        migrations.AlterField(
            model_name='historicalhazardanswer',
            name='finding',
            field=models.CharField(choices=[('present', 'present'), ('absent', 'absent'), ('not_looked', 'not looked at')], default='not_looked', max_length=14),
        ),
        migrations.RunPython(to_keys, to_words),
        migrations.AddConstraint(
            model_name='hazardanswer',
            constraint=models.CheckConstraint(condition=models.Q(('finding__in', ['present', 'absent', 'not_looked'])), name='hazard_finding'),
        ),
    ]

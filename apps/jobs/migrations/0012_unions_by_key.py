"""How a limb is joined is kept as a key."""

from django.db import migrations, models

WORDS = (("included bark", "included"), ("included, strapped", "strapped"))


def to_keys(apps, schema_editor):
    for name in ("Limb", "HistoricalLimb"):
        for word, key in WORDS:
            apps.get_model("jobs", name).objects.filter(union=word).update(union=key)


def to_words(apps, schema_editor):
    for name in ("Limb", "HistoricalLimb"):
        for word, key in WORDS:
            apps.get_model("jobs", name).objects.filter(union=key).update(union=word)


class Migration(migrations.Migration):
    dependencies = [("jobs", "0011_codominant")]

    operations = [
        migrations.RunPython(to_keys, to_words),
        migrations.AlterField(
            model_name='historicallimb',
            name='union',
            field=models.CharField(choices=[('sound', 'sound'), ('included', 'included bark'), ('strapped', 'included bark, strapped'), ('decayed', 'decayed'), ('cracked', 'cracked')], default='sound', max_length=24),
        ),
        migrations.AlterField(
            model_name='limb',
            name='union',
            field=models.CharField(choices=[('sound', 'sound'), ('included', 'included bark'), ('strapped', 'included bark, strapped'), ('decayed', 'decayed'), ('cracked', 'cracked')], default='sound', max_length=24),
        ),
    ]

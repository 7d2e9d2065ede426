import django.db.models.deletion
from django.db import migrations, models
from django.db.models import OuterRef, Subquery


def from_the_slip(apps, schema_editor):
    """Until now every region failed in the attempt that its slip was written on."""
    part, slip = apps.get_model("slips", "SlipRegion"), apps.get_model("slips", "Slip")
    of = Subquery(slip.objects.filter(pk=OuterRef("slip_id")).values("attempt_id")[:1])
    part.objects.filter(attempt=None).update(attempt_id=of)


class Migration(migrations.Migration):
    dependencies = [
        ("attempts", "0001_initial"),
        ("slips", "0004_lock_saved_anew"),
    ]

    operations = [
        migrations.AddField("slip", "method", models.JSONField(null=True)),
        migrations.AddField("slip", "due", models.DateField(null=True)),
        migrations.AddField("slip", "elsewhere", models.JSONField(null=True)),
        migrations.AddField("slipregion", "followed", models.JSONField(null=True)),
        migrations.AddField("return", "dry", models.BooleanField(default=False)),
        migrations.AddField("return", "followed", models.JSONField(default=dict)),
        migrations.AddField("return", "report", models.JSONField(null=True)),
        migrations.AddField(
            "slipregion",
            "attempt",
            models.ForeignKey(
                null=True,
                on_delete=django.db.models.deletion.PROTECT,
                related_name="+",
                to="attempts.attempt",
            ),
        ),
        migrations.RunPython(from_the_slip, migrations.RunPython.noop),
        migrations.AlterField(
            "slipregion",
            "attempt",
            models.ForeignKey(
                on_delete=django.db.models.deletion.PROTECT,
                related_name="+",
                to="attempts.attempt",
            ),
        ),
    ]

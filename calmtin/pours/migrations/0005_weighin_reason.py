from django.db import migrations, models
from django.db.models import Min


def say_what_was_poured(apps, schema_editor):
    """Keep on each version when a pour of it was first done."""
    done = apps.get_model("pours", "Pour").objects.filter(poured_at__isnull=False, called_off_at=None)
    versions = apps.get_model("formulas", "Version").objects
    for row in done.order_by().values("version").annotate(first=Min("poured_at")):
        versions.filter(pk=row["version"]).update(first_poured_at=row["first"])


class Migration(migrations.Migration):
    dependencies = [
        ("pours", "0004_called_off"),
        ("formulas", "0012_first_poured_and_strength_typed"),
    ]
    operations = [
        migrations.AddField(
            model_name="weighin",
            name="reason",
            field=models.CharField(
                blank=True, help_text="why a closed sheet was corrected", max_length=200, default=""
            ),
            preserve_default=False,
        ),
        migrations.RunPython(say_what_was_poured, migrations.RunPython.noop),
    ]

"""A simulated pot gives its heat off along the solids of its blend, not at one temperature."""

from django.db import migrations, models

STEP_C, POINTS = 2, 51
SHARE, OVER_C = 0.15, 10.0  # a stove of before knew only where its pot sets


def fill_solids(apps, _):
    for stove in apps.get_model("devices", "Stove").objects.all():
        set_c = stove.set_c
        stove.solids = [
            0.0 if set_c is None else round(SHARE * min(max((set_c - STEP_C * n) / OVER_C, 0.0), 1.0), 5)
            for n in range(POINTS)
        ]
        stove.save(update_fields=["solids"])


class Migration(migrations.Migration):
    dependencies = [("devices", "0001_initial")]

    operations = [
        migrations.AddField(
            model_name="stove",
            name="solids",
            field=models.JSONField(
                default=list, help_text="the solid share of its pot along core.process.heat.GRID_C"
            ),
            preserve_default=False,
        ),
        migrations.RunPython(fill_solids, migrations.RunPython.noop),
        migrations.RemoveField(model_name="stove", name="latent_k"),
    ]

"""What refers to something does so by a key: what took from a lot, what a correction was of."""

import django.db.models.deletion
from django.conf import settings
from django.db import migrations, models

# The book called a cause "weigh-in 12" and a corrected row "own material 3".
CORRECTED = {
    "own material": ("own_material_id", "pantry_ownmaterial"),
    "own container": ("own_container_id", "pantry_owncontainer"),
    "infusion": ("infusion_id", "pantry_infusion"),
}
NUMBER = "CAST(substr(words, {} + 2) AS INTEGER)"


def refer(apps, schema_editor):
    """Make a withdrawal of each cause in the ledger; let it and each correction refer to their rows."""
    with schema_editor.connection.cursor() as cursor:
        cursor.execute(
            "INSERT INTO pantry_withdrawal (owner_id, words, at) SELECT l.owner_id, m.source, min(m.at) "
            "FROM pantry_movement m JOIN pantry_lot l ON l.id = m.lot_id WHERE m.source <> '' "
            "GROUP BY l.owner_id, m.source ORDER BY min(m.id)"
        )
        cursor.execute("CREATE INDEX for_a_while ON pantry_withdrawal (words, owner_id)")
        cursor.execute(
            "UPDATE pantry_movement SET withdrawal_id = (SELECT w.id FROM pantry_withdrawal w "
            "JOIN pantry_lot l ON l.owner_id = w.owner_id WHERE l.id = lot_id AND w.words = source) "
            "WHERE source <> ''"
        )
        cursor.execute("DROP INDEX for_a_while")
        # "infusion 3, corrected 1": the number ends where the words go on.
        number = NUMBER.format(len("infusion"))
        cursor.execute(
            f"UPDATE pantry_withdrawal SET infusion_id = {number}, words = '' WHERE words LIKE 'infusion %' "
            f"AND EXISTS (SELECT 1 FROM pantry_infusion i WHERE i.id = {number} "
            "AND i.owner_id = pantry_withdrawal.owner_id)"
        )
        for words, (column, table) in CORRECTED.items():
            number = NUMBER.format(len(words))
            cursor.execute(
                f"UPDATE pantry_correction SET {column} = {number}, words = '' WHERE words LIKE '{words} %' "
                f"AND EXISTS (SELECT 1 FROM {table} t WHERE t.id = {number} "
                "AND t.owner_id = pantry_correction.owner_id)"
            )


class Migration(migrations.Migration):
    dependencies = [
        ("pantry", "0008_ledger_indexes"),
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]

    operations = [
        *(
            migrations.AddField(model, "deleted_at", models.DateTimeField(blank=True, null=True))
            for model in ("owncontainer", "ownmaterial", "infusion")
        ),
        migrations.CreateModel(
            name="Withdrawal",
            fields=[
                (
                    "id",
                    models.BigAutoField(
                        auto_created=True, primary_key=True, serialize=False, verbose_name="ID"
                    ),
                ),
                ("words", models.CharField(blank=True, max_length=60)),
                ("at", models.DateTimeField(auto_now_add=True)),
                (
                    "infusion",
                    models.ForeignKey(
                        blank=True,
                        null=True,
                        on_delete=django.db.models.deletion.PROTECT,
                        related_name="withdrawals",
                        to="pantry.infusion",
                    ),
                ),
                (
                    "owner",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE, to=settings.AUTH_USER_MODEL
                    ),
                ),
            ],
            options={"ordering": ["pk"]},
        ),
        migrations.AddField(
            "movement",
            "withdrawal",
            models.ForeignKey(
                blank=True,
                null=True,
                on_delete=django.db.models.deletion.PROTECT,
                related_name="movements",
                to="pantry.withdrawal",
            ),
        ),
        migrations.RenameField("correction", "what", "words"),
        migrations.AlterField("correction", "words", models.CharField(blank=True, max_length=80)),
        *(
            migrations.AddField(
                "correction",
                name,
                models.ForeignKey(
                    blank=True,
                    null=True,
                    on_delete=django.db.models.deletion.PROTECT,
                    related_name="corrections",
                    to=f"pantry.{name.replace('_', '')}",
                ),
            )
            for name in ("own_material", "own_container", "infusion")
        ),
        migrations.RunPython(refer, migrations.RunPython.noop, elidable=False),
        migrations.RemoveConstraint("movement", "one_movement_per_source"),
        migrations.RemoveIndex("movement", "ledger_by_source"),
        migrations.RemoveField("movement", "source"),
        migrations.AddConstraint(
            "movement",
            models.UniqueConstraint(
                condition=models.Q(withdrawal__isnull=False),
                fields=("lot", "kind", "withdrawal"),
                name="one_movement_per_withdrawal",
            ),
        ),
        migrations.AddConstraint(
            "correction",
            models.CheckConstraint(
                condition=models.Q(own_material__isnull=False, own_container=None, infusion=None, words="")
                | models.Q(own_material=None, own_container__isnull=False, infusion=None, words="")
                | models.Q(own_material=None, own_container=None, infusion__isnull=False, words="")
                | (models.Q(own_material=None, own_container=None, infusion=None) & ~models.Q(words="")),
                name="a_correction_is_of_one_row",
            ),
        ),
    ]

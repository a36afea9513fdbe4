"""What refers to something does so by a key: a weight to what it took, a pour to its container, a lot to its pot."""

import re

import django.db.models.deletion
import django.utils.timezone
from django.db import migrations, models

TOOK = {
    "weigh-in": (
        "pours_weighin",
        "SELECT p.owner_id FROM pours_weighline l JOIN pours_pour p ON p.id = l.pour_id WHERE l.id = line_id",
    ),
    "finish weigh-in": (
        "pours_finishweighin",
        "SELECT p.owner_id FROM pours_pourfinishpart f JOIN pours_pour p ON p.id = f.pour_id "
        "WHERE f.id = part_id",
    ),
    "addition": ("pours_potaddition", "SELECT p.owner_id FROM pours_pour p WHERE p.id = pour_id"),
}
NAMED = {
    "pours_pour": ("container", "own_container_id", "pantry_owncontainer", "owner_id"),
    "pours_pourfilling": (
        "container",
        "own_container_id",
        "pantry_owncontainer",
        "(SELECT p.owner_id FROM pours_pour p WHERE p.id = pour_id)",
    ),
    "pours_labeltext": (
        "sheet",
        "own_sheet_id",
        "pours_labelsheet",
        "(SELECT f.owner_id FROM formulas_formula f WHERE f.id = formula_id)",
    ),
}
LEFT_OVER = re.compile(r"left over from (\S+(?: \d+)?)")


def refer(apps, schema_editor):
    """Let weights, additions, pours, labels and leftovers refer to what they named in words."""
    with schema_editor.connection.cursor() as cursor:
        cursor.execute("CREATE INDEX for_a_while ON pantry_withdrawal (words, owner_id)")
        for words, (table, owner) in TOOK.items():
            cursor.execute(
                f"UPDATE {table} SET withdrawal_id = (SELECT w.id FROM pantry_withdrawal w "
                f"WHERE w.words = '{words} ' || {table}.id AND w.owner_id = ({owner}))"
            )
            cursor.execute(
                "UPDATE pantry_withdrawal SET words = '' "
                f"WHERE id IN (SELECT withdrawal_id FROM {table} WHERE withdrawal_id IS NOT NULL)"
            )
        cursor.execute("DROP INDEX for_a_while")
        for table, (name, key, target, owner) in NAMED.items():
            number = f"CAST(substr({name}, 4) AS INTEGER)"
            cursor.execute(
                f"UPDATE {table} SET {key} = (SELECT t.id FROM {target} t WHERE t.id = {number} "
                f"AND t.owner_id = {owner}), {name} = '' WHERE {name} LIKE 'my@_%' ESCAPE '@'"
            )
    refer_leftovers(apps)


def refer_leftovers(apps):
    """Find the pot that each leftover lot is of: by its note, by what its note was, by its blend's name."""
    Pour, Lot = apps.get_model("pours", "Pour"), apps.get_model("pantry", "Lot")
    OwnBlend, Leftover = apps.get_model("pantry", "OwnBlend"), apps.get_model("pours", "Leftover")
    Movement = apps.get_model("pantry", "Movement")
    pours = {(owner, code): pk for pk, owner, code in Pour.objects.values_list("pk", "owner", "code")}
    blends = OwnBlend.objects.filter(name__contains="left over from ").values_list("owner", "slug", "name")
    named = {(owner, slug): name for owner, slug, name in blends}
    was = dict(
        Movement.objects.filter(kind="corrected", reason__contains="left over from ")
        .order_by("-pk")
        .values_list("lot", "reason")
    )
    for lot in Lot.objects.all().iterator():
        for words in (lot.note, was.get(lot.pk, ""), named.get((lot.owner_id, lot.material), "")):
            found = LEFT_OVER.search(words)
            pour = found and pours.get((lot.owner_id, found[1]))
            if pour and (lot.owner_id, lot.material) in named:
                Leftover.objects.create(pour_id=pour, lot=lot, at=lot.added_at)
                break


def took():
    """Return the column of what takes from the shelf."""
    return models.OneToOneField(
        blank=True,
        help_text="what it took from the shelf",
        null=True,
        on_delete=django.db.models.deletion.PROTECT,
        to="pantry.withdrawal",
    )


def container():
    """Return the column of a container that comes along."""
    return models.SlugField(blank=True, help_text="of the library; else empty", max_length=60)


class Migration(migrations.Migration):
    dependencies = [
        ("pantry", "0009_references"),
        ("pours", "0017_labels_pieces_needs"),
    ]

    operations = [
        *(
            migrations.AddField(model, "withdrawal", took())
            for model in ("weighin", "finishweighin", "potaddition")
        ),
        *(
            migrations.AddField(
                model,
                "own_container",
                models.ForeignKey(
                    blank=True,
                    null=True,
                    on_delete=django.db.models.deletion.PROTECT,
                    related_name=related,
                    to="pantry.owncontainer",
                ),
            )
            for model, related in (("pour", "pours"), ("pourfilling", "fillings"))
        ),
        *(migrations.AlterField(model, "container", container()) for model in ("pour", "pourfilling")),
        migrations.AddField(
            "labeltext",
            "own_sheet",
            models.ForeignKey(
                blank=True,
                null=True,
                on_delete=django.db.models.deletion.SET_NULL,
                to="pours.labelsheet",
            ),
        ),
        migrations.AlterField(
            "labeltext",
            "sheet",
            models.SlugField(blank=True, help_text="one that comes along; else empty", max_length=60),
        ),
        migrations.CreateModel(
            name="Leftover",
            fields=[
                (
                    "id",
                    models.BigAutoField(
                        auto_created=True, primary_key=True, serialize=False, verbose_name="ID"
                    ),
                ),
                ("at", models.DateTimeField(default=django.utils.timezone.now)),
                (
                    "lot",
                    models.OneToOneField(
                        on_delete=django.db.models.deletion.PROTECT, to="pantry.lot"
                    ),
                ),
                (
                    "pour",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.PROTECT,
                        related_name="leftovers",
                        to="pours.pour",
                    ),
                ),
            ],
            options={"ordering": ["pk"]},
        ),
        migrations.RunPython(refer, migrations.RunPython.noop, elidable=False),
    ]

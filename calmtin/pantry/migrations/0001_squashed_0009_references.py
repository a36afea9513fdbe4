# A new book's tables in one step. Books of 1.0.x go by the steps that it replaces.

import datetime
import django.db.models.deletion
from django.conf import settings
from django.db import migrations, models


class Migration(migrations.Migration):

    replaces = [('pantry', '0001_initial'), ('pantry', '0002_supplier_limit'), ('pantry', '0003_bounds'), ('pantry', '0004_corrections'), ('pantry', '0005_fill_plan'), ('pantry', '0006_lot_and_bath'), ('pantry', '0007_override_inci'), ('pantry', '0008_ledger_indexes'), ('pantry', '0009_references')]

    initial = True

    dependencies = [
        ('accounts', '__first__'),
    ]

    operations = [
        migrations.CreateModel(
            name='Lot',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('material', models.SlugField(max_length=60)),
                ('bought_on', models.DateField()),
                ('amount_g', models.DecimalField(decimal_places=2, max_digits=10)),
                ('typed', models.CharField(blank=True, help_text='the amount as it was typed', max_length=120)),
                ('price', models.DecimalField(blank=True, decimal_places=2, max_digits=9, null=True)),
                ('best_before', models.DateField(blank=True, null=True)),
                ('opened_on', models.DateField(blank=True, null=True)),
                ('note', models.CharField(blank=True, max_length=200)),
                ('added_at', models.DateTimeField(auto_now_add=True)),
                ('voided_at', models.DateTimeField(blank=True, help_text='when it was taken off the shelf', null=True)),
                ('owner', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='lots', to=settings.AUTH_USER_MODEL)),
            ],
            options={
                'ordering': [models.OrderBy(models.F('best_before'), nulls_last=True), 'bought_on', 'pk'],
                'constraints': [models.CheckConstraint(condition=models.Q(models.Q(('amount_g__gte', 0.01), ('amount_g__lte', 1000000.0)), ('amount_g__isnull', True), _connector='OR'), name='lot_amount_g_within'), models.CheckConstraint(condition=models.Q(models.Q(('price__gte', 0.0), ('price__lte', 100000.0)), ('price__isnull', True), _connector='OR'), name='lot_price_within'), models.CheckConstraint(condition=models.Q(models.Q(('bought_on__gte', datetime.date(1990, 1, 1)), ('bought_on__lte', datetime.date(2100, 12, 31))), ('bought_on__isnull', True), _connector='OR'), name='lot_bought_on_within'), models.CheckConstraint(condition=models.Q(models.Q(('best_before__gte', datetime.date(1990, 1, 1)), ('best_before__lte', datetime.date(2100, 12, 31))), ('best_before__isnull', True), _connector='OR'), name='lot_best_before_within'), models.CheckConstraint(condition=models.Q(models.Q(('opened_on__gte', datetime.date(1990, 1, 1)), ('opened_on__lte', datetime.date(2100, 12, 31))), ('opened_on__isnull', True), _connector='OR'), name='lot_opened_on_within')],
            },
        ),
        migrations.CreateModel(
            name='Infusion',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('deleted_at', models.DateTimeField(blank=True, null=True)),
                ('herb', models.CharField(max_length=80)),
                ('herb_g', models.DecimalField(decimal_places=2, max_digits=9)),
                ('oil', models.SlugField(max_length=60)),
                ('oil_g', models.DecimalField(decimal_places=2, max_digits=9)),
                ('method', models.CharField(choices=[('cold', 'cold, for weeks'), ('warm', 'warm, for hours')], default='cold', max_length=4)),
                ('started_on', models.DateField()),
                ('due_on', models.DateField()),
                ('strained_on', models.DateField(blank=True, null=True)),
                ('recovered_g', models.DecimalField(blank=True, decimal_places=2, max_digits=9, null=True)),
                ('owner', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, to=settings.AUTH_USER_MODEL)),
                ('lot', models.ForeignKey(blank=True, null=True, on_delete=django.db.models.deletion.PROTECT, to='pantry.lot')),
            ],
            options={
                'ordering': ['-started_on', '-pk'],
                'constraints': [models.CheckConstraint(condition=models.Q(models.Q(('herb_g__gte', 0.1), ('herb_g__lte', 10000.0)), ('herb_g__isnull', True), _connector='OR'), name='infusion_herb_g_within'), models.CheckConstraint(condition=models.Q(models.Q(('oil_g__gte', 1.0), ('oil_g__lte', 50000.0)), ('oil_g__isnull', True), _connector='OR'), name='infusion_oil_g_within'), models.CheckConstraint(condition=models.Q(models.Q(('recovered_g__gte', 0.0), ('recovered_g__lte', 50000.0)), ('recovered_g__isnull', True), _connector='OR'), name='infusion_recovered_g_within'), models.CheckConstraint(condition=models.Q(models.Q(('started_on__gte', datetime.date(1990, 1, 1)), ('started_on__lte', datetime.date(2100, 12, 31))), ('started_on__isnull', True), _connector='OR'), name='infusion_started_on_within'), models.CheckConstraint(condition=models.Q(models.Q(('due_on__gte', datetime.date(1990, 1, 1)), ('due_on__lte', datetime.date(2100, 12, 31))), ('due_on__isnull', True), _connector='OR'), name='infusion_due_on_within'), models.CheckConstraint(condition=models.Q(models.Q(('strained_on__gte', datetime.date(1990, 1, 1)), ('strained_on__lte', datetime.date(2100, 12, 31))), ('strained_on__isnull', True), _connector='OR'), name='infusion_strained_on_within')],
            },
        ),
        migrations.CreateModel(
            name='Override',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('material', models.SlugField(max_length=60)),
                ('density', models.FloatField(blank=True, null=True)),
                ('strength_pct', models.FloatField(blank=True, null=True)),
                ('typical_low_pct', models.FloatField(blank=True, null=True)),
                ('typical_high_pct', models.FloatField(blank=True, null=True)),
                ('limit_pct', models.FloatField(blank=True, help_text="the supplier's own limit, %", null=True)),
                ('inci', models.CharField(blank=True, help_text='what its bottle says is in it', max_length=200)),
                ('notes', models.TextField(blank=True)),
                ('owner', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, to=settings.AUTH_USER_MODEL)),
            ],
            options={
                'constraints': [models.UniqueConstraint(fields=('owner', 'material'), name='one_override_per_material'), models.CheckConstraint(condition=models.Q(models.Q(('density__gte', 0.5), ('density__lte', 8.0)), ('density__isnull', True), _connector='OR'), name='override_density_within'), models.CheckConstraint(condition=models.Q(models.Q(('strength_pct__gte', 10.0), ('strength_pct__lte', 400.0)), ('strength_pct__isnull', True), _connector='OR'), name='override_strength_pct_within'), models.CheckConstraint(condition=models.Q(models.Q(('typical_low_pct__gte', 0.0), ('typical_low_pct__lte', 100.0)), ('typical_low_pct__isnull', True), _connector='OR'), name='override_typical_low_pct_within'), models.CheckConstraint(condition=models.Q(models.Q(('typical_high_pct__gte', 0.0), ('typical_high_pct__lte', 100.0)), ('typical_high_pct__isnull', True), _connector='OR'), name='override_typical_high_pct_within'), models.CheckConstraint(condition=models.Q(models.Q(('limit_pct__gte', 0.0), ('limit_pct__lte', 100.0)), ('limit_pct__isnull', True), _connector='OR'), name='override_limit_pct_within')],
            },
        ),
        migrations.CreateModel(
            name='OwnBlend',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('slug', models.SlugField(max_length=60)),
                ('name', models.CharField(max_length=80)),
                ('parts', models.JSONField(help_text='[slug, percent] of each material that is in it')),
                ('made_at', models.DateTimeField(auto_now_add=True)),
                ('owner', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, to=settings.AUTH_USER_MODEL)),
            ],
            options={
                'ordering': ['pk'],
                'constraints': [models.UniqueConstraint(fields=('owner', 'slug'), name='one_blend_per_slug')],
            },
        ),
        migrations.CreateModel(
            name='OwnContainer',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('deleted_at', models.DateTimeField(blank=True, null=True)),
                ('name', models.CharField(max_length=80)),
                ('brim_ml', models.FloatField()),
                ('usual_level_pct', models.FloatField(default=95.0)),
                ('cavities', models.PositiveSmallIntegerField(default=1)),
                ('tare_g', models.DecimalField(blank=True, decimal_places=2, max_digits=8, null=True)),
                ('on_hand', models.PositiveIntegerField(blank=True, null=True)),
                ('price', models.DecimalField(blank=True, decimal_places=2, max_digits=8, null=True)),
                ('owner', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, to=settings.AUTH_USER_MODEL)),
            ],
            options={
                'ordering': ['name'],
                'constraints': [models.CheckConstraint(condition=models.Q(models.Q(('brim_ml__gte', 0.1), ('brim_ml__lte', 20000.0)), ('brim_ml__isnull', True), _connector='OR'), name='container_brim_ml_within'), models.CheckConstraint(condition=models.Q(models.Q(('usual_level_pct__gte', 5.0), ('usual_level_pct__lte', 100.0)), ('usual_level_pct__isnull', True), _connector='OR'), name='container_usual_level_pct_within'), models.CheckConstraint(condition=models.Q(models.Q(('cavities__gte', 1), ('cavities__lte', 200)), ('cavities__isnull', True), _connector='OR'), name='container_cavities_within'), models.CheckConstraint(condition=models.Q(models.Q(('on_hand__gte', 0), ('on_hand__lte', 100000)), ('on_hand__isnull', True), _connector='OR'), name='container_on_hand_within'), models.CheckConstraint(condition=models.Q(models.Q(('price__gte', 0.0), ('price__lte', 100000.0)), ('price__isnull', True), _connector='OR'), name='container_price_within'), models.CheckConstraint(condition=models.Q(models.Q(('tare_g__gte', 0.0), ('tare_g__lte', 50000.0)), ('tare_g__isnull', True), _connector='OR'), name='container_tare_g_within')],
            },
        ),
        migrations.CreateModel(
            name='OwnMaterial',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('deleted_at', models.DateTimeField(blank=True, null=True)),
                ('slug', models.SlugField(max_length=60)),
                ('name', models.CharField(max_length=80)),
                ('inci', models.CharField(blank=True, max_length=120, verbose_name='INCI name')),
                ('group', models.CharField(choices=[('wax', 'wax'), ('butter', 'butter'), ('soft_fat', 'soft fat'), ('oil', 'oil'), ('antioxidant', 'antioxidant'), ('scent', 'scent'), ('powder', 'powder'), ('colour', 'colour'), ('water_bearing', 'water bearing'), ('other', 'other')], max_length=20)),
                ('behaves_like', models.SlugField(max_length=60)),
                ('melt_low_c', models.FloatField(blank=True, null=True)),
                ('melt_high_c', models.FloatField(blank=True, null=True)),
                ('density', models.FloatField(blank=True, null=True)),
                ('strength_pct', models.FloatField(default=100.0)),
                ('allergens', models.CharField(blank=True, help_text='separated by semicolons', max_length=120)),
                ('vegan', models.BooleanField(default=True)),
                ('grain_prone', models.BooleanField(default=False)),
                ('limit_pct', models.FloatField(blank=True, help_text="the supplier's own limit, %", null=True)),
                ('notes', models.TextField(blank=True)),
                ('added_at', models.DateTimeField(auto_now_add=True)),
                ('owner', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, to=settings.AUTH_USER_MODEL)),
            ],
            options={
                'ordering': ['name'],
                'constraints': [models.UniqueConstraint(fields=('owner', 'slug'), name='one_own_material_per_slug'), models.CheckConstraint(condition=models.Q(models.Q(('melt_low_c__gte', -40.0), ('melt_low_c__lte', 120.0)), ('melt_low_c__isnull', True), _connector='OR'), name='own_material_melt_low_c_within'), models.CheckConstraint(condition=models.Q(models.Q(('melt_high_c__gte', -40.0), ('melt_high_c__lte', 120.0)), ('melt_high_c__isnull', True), _connector='OR'), name='own_material_melt_high_c_within'), models.CheckConstraint(condition=models.Q(models.Q(('density__gte', 0.5), ('density__lte', 8.0)), ('density__isnull', True), _connector='OR'), name='own_material_density_within'), models.CheckConstraint(condition=models.Q(models.Q(('strength_pct__gte', 10.0), ('strength_pct__lte', 400.0)), ('strength_pct__isnull', True), _connector='OR'), name='own_material_strength_pct_within'), models.CheckConstraint(condition=models.Q(models.Q(('limit_pct__gte', 0.0), ('limit_pct__lte', 100.0)), ('limit_pct__isnull', True), _connector='OR'), name='own_material_limit_pct_within'), models.CheckConstraint(condition=models.Q(models.Q(('melt_high_c', None), ('melt_low_c', None)), ('melt_low_c__lte', models.F('melt_high_c')), _connector='OR'), name='own_material_melts_upwards')],
            },
        ),
        migrations.CreateModel(
            name='Correction',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('words', models.CharField(blank=True, max_length=80)),
                ('was', models.JSONField()),
                ('reason', models.CharField(max_length=200)),
                ('at', models.DateTimeField(auto_now_add=True)),
                ('owner', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, to=settings.AUTH_USER_MODEL)),
                ('infusion', models.ForeignKey(blank=True, null=True, on_delete=django.db.models.deletion.PROTECT, related_name='corrections', to='pantry.infusion')),
                ('own_container', models.ForeignKey(blank=True, null=True, on_delete=django.db.models.deletion.PROTECT, related_name='corrections', to='pantry.owncontainer')),
                ('own_material', models.ForeignKey(blank=True, null=True, on_delete=django.db.models.deletion.PROTECT, related_name='corrections', to='pantry.ownmaterial')),
            ],
            options={
                'ordering': ['pk'],
                'constraints': [models.CheckConstraint(condition=models.Q(models.Q(('infusion', None), ('own_container', None), ('own_material__isnull', False), ('words', '')), models.Q(('infusion', None), ('own_container__isnull', False), ('own_material', None), ('words', '')), models.Q(('infusion__isnull', False), ('own_container', None), ('own_material', None), ('words', '')), models.Q(('infusion', None), ('own_container', None), ('own_material', None), models.Q(('words', ''), _negated=True)), _connector='OR'), name='a_correction_is_of_one_row')],
            },
        ),
        migrations.CreateModel(
            name='Rendering',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('done_on', models.DateField()),
                ('raw_g', models.DecimalField(decimal_places=2, max_digits=9)),
                ('clean_g', models.DecimalField(decimal_places=2, max_digits=9)),
                ('lot', models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, to='pantry.lot')),
                ('owner', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, to=settings.AUTH_USER_MODEL)),
            ],
            options={
                'ordering': ['-done_on', '-pk'],
                'constraints': [models.CheckConstraint(condition=models.Q(models.Q(('raw_g__gte', 0.1), ('raw_g__lte', 100000.0)), ('raw_g__isnull', True), _connector='OR'), name='rendering_raw_g_within'), models.CheckConstraint(condition=models.Q(models.Q(('clean_g__gte', 0.1), ('clean_g__lte', 100000.0)), ('clean_g__isnull', True), _connector='OR'), name='rendering_clean_g_within'), models.CheckConstraint(condition=models.Q(models.Q(('done_on__gte', datetime.date(1990, 1, 1)), ('done_on__lte', datetime.date(2100, 12, 31))), ('done_on__isnull', True), _connector='OR'), name='rendering_done_on_within')],
            },
        ),
        migrations.CreateModel(
            name='Vessel',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('name', models.CharField(max_length=60)),
                ('use', models.CharField(choices=[('pot', 'pot to melt in'), ('bowl', 'bowl to whip in'), ('jug', 'jug to pour from'), ('bath', 'water bath, for pots of up to')], default='pot', max_length=4)),
                ('brim_ml', models.FloatField()),
                ('owner', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, to=settings.AUTH_USER_MODEL)),
            ],
            options={
                'ordering': ['use', 'brim_ml'],
                'constraints': [models.UniqueConstraint(fields=('owner', 'name'), name='one_vessel_per_name'), models.CheckConstraint(condition=models.Q(models.Q(('brim_ml__gte', 0.1), ('brim_ml__lte', 20000.0)), ('brim_ml__isnull', True), _connector='OR'), name='vessel_brim_ml_within')],
            },
        ),
        migrations.CreateModel(
            name='Withdrawal',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('words', models.CharField(blank=True, max_length=60)),
                ('at', models.DateTimeField(auto_now_add=True)),
                ('infusion', models.ForeignKey(blank=True, null=True, on_delete=django.db.models.deletion.PROTECT, related_name='withdrawals', to='pantry.infusion')),
                ('owner', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, to=settings.AUTH_USER_MODEL)),
            ],
            options={
                'ordering': ['pk'],
            },
        ),
        migrations.CreateModel(
            name='Movement',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('kind', models.CharField(choices=[('bought', 'bought'), ('weighed', 'weighed into a pour'), ('put_back', 'put back'), ('corrected', 're-weighed'), ('used', 'used otherwise'), ('voided', 'taken off the shelf')], max_length=10)),
                ('grams', models.DecimalField(decimal_places=2, max_digits=10)),
                ('reason', models.CharField(blank=True, max_length=200)),
                ('at', models.DateTimeField(auto_now_add=True)),
                ('lot', models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, related_name='movements', to='pantry.lot')),
                ('withdrawal', models.ForeignKey(blank=True, null=True, on_delete=django.db.models.deletion.PROTECT, related_name='movements', to='pantry.withdrawal')),
            ],
            options={
                'ordering': ['pk'],
                'indexes': [models.Index(fields=['lot', 'grams'], name='balance_of_lot')],
                'constraints': [models.UniqueConstraint(condition=models.Q(('withdrawal__isnull', False)), fields=('lot', 'kind', 'withdrawal'), name='one_movement_per_withdrawal'), models.CheckConstraint(condition=models.Q(models.Q(('grams__gte', -1000000.0), ('grams__lte', 1000000.0)), ('grams__isnull', True), _connector='OR'), name='movement_grams_within')],
            },
        ),
    ]

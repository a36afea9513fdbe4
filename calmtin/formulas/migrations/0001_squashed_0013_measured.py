# A new book's tables in one step. Books of 1.0.x go by the steps that it replaces.

import calmtin.formulas.models
import django.db.models.deletion
from decimal import Decimal
from django.conf import settings
from django.db import migrations, models


class Migration(migrations.Migration):

    replaces = [('formulas', '0001_initial'), ('formulas', '0002_process'), ('formulas', '0003_typed_and_strength'), ('formulas', '0004_lock'), ('formulas', '0005_audience_and_acknowledgements'), ('formulas', '0006_steps_finishes_on_top'), ('formulas', '0007_notes'), ('formulas', '0008_acknowledged_level'), ('formulas', '0009_finishes_are_kept'), ('formulas', '0010_bounds'), ('formulas', '0011_put_away'), ('formulas', '0012_first_poured_and_strength_typed'), ('formulas', '0013_measured')]

    initial = True

    dependencies = [
        ('accounts', '__first__'),
    ]

    operations = [
        migrations.CreateModel(
            name='Formula',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('name', models.CharField(max_length=80)),
                ('kind', models.CharField(choices=calmtin.formulas.models.kind_choices, max_length=20)),
                ('audience', models.CharField(choices=[('adult_body_leave_on', 'adults, body'), ('adult_face', 'adults, face'), ('adult_lips', 'lips'), ('short_term_local_use', 'adults, a small spot for a few days'), ('elderly_or_sensitive', 'old or sensitive skin'), ('pregnancy', 'in pregnancy'), ('child_6_to_15_years', 'children of 6 to 15'), ('child_2_to_6_years', 'children of 2 to 6'), ('child_3_to_24_months', 'children of 3 to 24 months'), ('infant_under_3_months', 'babies under 3 months')], default='adult_body_leave_on', max_length=30, verbose_name='for whom')),
                ('sees_sun', models.BooleanField(default=True, verbose_name='skin that sees the sun')),
                ('notes', models.TextField(blank=True, max_length=2000)),
                ('created_at', models.DateTimeField(auto_now_add=True)),
                ('touched_at', models.DateTimeField(auto_now=True)),
                ('revision', models.PositiveIntegerField(default=0, help_text='counts the edits of name, kind and notes')),
                ('put_away_at', models.DateTimeField(blank=True, help_text='out of the lists since then', null=True)),
                ('code', models.CharField(blank=True, help_text='what its pours are called by, once there is one', max_length=8)),
                ('owner', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='formulas', to=settings.AUTH_USER_MODEL)),
            ],
            options={
                'ordering': ['-touched_at', '-pk'],
                'constraints': [models.UniqueConstraint(condition=models.Q(('code', ''), _negated=True), fields=('owner', 'code'), name='one_formula_per_code')],
            },
        ),
        migrations.CreateModel(
            name='Finish',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('name', models.CharField(max_length=40)),
                ('removed_at', models.DateTimeField(blank=True, null=True)),
                ('formula', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='finishes', to='formulas.formula')),
            ],
            options={
                'ordering': ['pk'],
                'constraints': [models.UniqueConstraint(condition=models.Q(('removed_at', None)), fields=('formula', 'name'), name='one_finish_per_name')],
            },
        ),
        migrations.CreateModel(
            name='Acknowledgement',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('key', models.CharField(max_length=20)),
                ('material', models.SlugField(blank=True, max_length=60)),
                ('level', models.CharField(default='stop', help_text='how strong it was then', max_length=5)),
                ('reason', models.CharField(max_length=200)),
                ('at', models.DateTimeField(auto_now_add=True)),
                ('formula', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='acknowledgements', to='formulas.formula')),
            ],
            options={
                'ordering': ['pk'],
            },
        ),
        migrations.CreateModel(
            name='Version',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('number', models.PositiveIntegerField()),
                ('batch_g', models.DecimalField(decimal_places=2, default=Decimal('100'), max_digits=9)),
                ('overrun_pct', models.PositiveSmallIntegerField(default=0, verbose_name='gain in volume by whipping, %')),
                ('cooling', models.CharField(choices=calmtin.formulas.models.cooling_choices, default='rest_then_chill', max_length=20)),
                ('revision', models.PositiveIntegerField(default=0)),
                ('step', models.PositiveIntegerField(default=0, help_text='the step that it shows now')),
                ('started_at', models.DateTimeField(auto_now_add=True)),
                ('poured_at', models.DateTimeField(blank=True, help_text='when it was closed for a pour', null=True)),
                ('first_poured_at', models.DateTimeField(blank=True, help_text='when a pour of it was first done', null=True)),
                ('formula', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='versions', to='formulas.formula')),
                ('parent', models.ForeignKey(blank=True, null=True, on_delete=django.db.models.deletion.SET_NULL, to='formulas.version')),
            ],
            options={
                'ordering': ['number'],
                'constraints': [models.UniqueConstraint(fields=('formula', 'number'), name='one_version_per_number'), models.CheckConstraint(condition=models.Q(models.Q(('batch_g__gte', 1.0), ('batch_g__lte', 50000.0)), ('batch_g__isnull', True), _connector='OR'), name='version_batch_g_within'), models.CheckConstraint(condition=models.Q(models.Q(('overrun_pct__gte', 0.0), ('overrun_pct__lte', 300.0)), ('overrun_pct__isnull', True), _connector='OR'), name='version_overrun_pct_within')],
            },
        ),
        migrations.CreateModel(
            name='Step',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('number', models.PositiveIntegerField()),
                ('came_from', models.PositiveIntegerField(null=True)),
                ('state', models.JSONField()),
                ('at', models.DateTimeField(auto_now_add=True)),
                ('version', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='steps', to='formulas.version')),
            ],
            options={
                'ordering': ['number'],
                'constraints': [models.UniqueConstraint(fields=('version', 'number'), name='one_step_per_number')],
            },
        ),
        migrations.CreateModel(
            name='Line',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('key', models.CharField(default=calmtin.formulas.models.new_key, max_length=12)),
                ('position', models.PositiveSmallIntegerField()),
                ('material', models.SlugField(max_length=60)),
                ('percent', models.DecimalField(decimal_places=3, max_digits=6)),
                ('is_balancing', models.BooleanField(default=False)),
                ('is_locked', models.BooleanField(default=False)),
                ('on_top_pct', models.DecimalField(blank=True, decimal_places=3, help_text='% of the base, if it goes on top', max_digits=6, null=True)),
                ('typed', models.CharField(blank=True, help_text='the measure as it was written', max_length=200)),
                ('typed_g', models.DecimalField(blank=True, decimal_places=3, help_text='what the measure weighed then, g', max_digits=9, null=True)),
                ('low_g', models.DecimalField(blank=True, decimal_places=3, help_text='the least that the measure may be', max_digits=9, null=True)),
                ('high_g', models.DecimalField(blank=True, decimal_places=3, help_text='the most that the measure may be', max_digits=9, null=True)),
                ('alcohol_pct', models.FloatField(blank=True, help_text="a tincture's strength by volume", null=True)),
                ('alcohol_typed', models.CharField(blank=True, help_text='the strength as it was written', max_length=20)),
                ('version', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='lines', to='formulas.version')),
            ],
            options={
                'ordering': ['position'],
                'constraints': [models.UniqueConstraint(fields=('version', 'key'), name='one_line_per_key'), models.UniqueConstraint(condition=models.Q(('is_balancing', True)), fields=('version',), name='one_balancing_line'), models.CheckConstraint(condition=models.Q(models.Q(('percent__gte', 0.0), ('percent__lte', 100.0)), ('percent__isnull', True), _connector='OR'), name='line_percent_within'), models.CheckConstraint(condition=models.Q(models.Q(('alcohol_pct__gte', 0.0), ('alcohol_pct__lte', 100.0)), ('alcohol_pct__isnull', True), _connector='OR'), name='line_alcohol_pct_within'), models.CheckConstraint(condition=models.Q(models.Q(('on_top_pct__gte', 0.0), ('on_top_pct__lte', 30.0)), ('on_top_pct__isnull', True), _connector='OR'), name='line_on_top_pct_within'), models.CheckConstraint(condition=models.Q(('is_balancing', False), ('on_top_pct', None), _connector='OR'), name='what_is_on_top_balances_nothing')],
            },
        ),
        migrations.CreateModel(
            name='FinishPart',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('material', models.SlugField(max_length=60)),
                ('percent', models.DecimalField(decimal_places=3, max_digits=6)),
                ('finish', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='parts', to='formulas.finish')),
            ],
            options={
                'ordering': ['pk'],
                'constraints': [models.UniqueConstraint(fields=('finish', 'material'), name='one_part_per_material'), models.CheckConstraint(condition=models.Q(('percent__gt', 0), ('percent__lte', 30)), name='finish_part_0_to_30')],
            },
        ),
        migrations.AddField(
            model_name='formula',
            name='came_from',
            field=models.ForeignKey(blank=True, null=True, on_delete=django.db.models.deletion.SET_NULL, related_name='branches', to='formulas.version'),
        ),
    ]

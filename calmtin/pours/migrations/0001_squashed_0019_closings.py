# A new book's tables in one step. Books of 1.0.x go by the steps that it replaces.

import datetime
import django.core.validators
import django.db.models.deletion
import django.utils.timezone
from decimal import Decimal
from django.conf import settings
from django.db import migrations, models


class Migration(migrations.Migration):

    replaces = [('pours', '0001_initial'), ('pours', '0002_bounds'), ('pours', '0003_overrun'), ('pours', '0004_called_off'), ('pours', '0005_weighin_reason'), ('pours', '0006_step_of_an_ounce'), ('pours', '0007_fill_plan'), ('pours', '0008_lot_and_bath'), ('pours', '0009_rescue'), ('pours', '0010_run_sheet'), ('pours', '0011_pour_day'), ('pours', '0012_own_route'), ('pours', '0013_rehearsal_and_scale'), ('pours', '0014_check_left_out'), ('pours', '0015_looks_series_kept'), ('pours', '0016_storage'), ('pours', '0017_labels_pieces_needs'), ('pours', '0018_references'), ('pours', '0019_closings')]

    initial = True

    dependencies = [
        ('accounts', '__first__'),
        ('devices', '0001_initial'),
        ('formulas', '0001_squashed_0013_measured'),
        ('pantry', '0001_squashed_0009_references'),
    ]

    operations = [
        migrations.CreateModel(
            name='LabelSheet',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('name', models.CharField(max_length=60)),
                ('page_w', models.FloatField()),
                ('page_h', models.FloatField()),
                ('kind', models.CharField(choices=[('round', 'round'), ('rectangle', 'rectangle'), ('wrap', 'wrap for a tube')], max_length=10)),
                ('width_mm', models.FloatField()),
                ('height_mm', models.FloatField()),
                ('columns', models.PositiveSmallIntegerField()),
                ('rows', models.PositiveSmallIntegerField()),
                ('left_mm', models.FloatField()),
                ('top_mm', models.FloatField()),
                ('across_mm', models.FloatField()),
                ('down_mm', models.FloatField()),
                ('owner', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='label_sheets', to=settings.AUTH_USER_MODEL)),
            ],
            options={
                'ordering': ['name'],
                'constraints': [models.UniqueConstraint(fields=('owner', 'name'), name='one_label_sheet_per_name'), models.CheckConstraint(condition=models.Q(models.Q(('page_w__gte', 50.0), ('page_w__lte', 500.0)), ('page_w__isnull', True), _connector='OR'), name='label_sheet_page_w_within'), models.CheckConstraint(condition=models.Q(models.Q(('page_h__gte', 50.0), ('page_h__lte', 500.0)), ('page_h__isnull', True), _connector='OR'), name='label_sheet_page_h_within'), models.CheckConstraint(condition=models.Q(models.Q(('width_mm__gte', 10.0), ('width_mm__lte', 300.0)), ('width_mm__isnull', True), _connector='OR'), name='label_sheet_width_mm_within'), models.CheckConstraint(condition=models.Q(models.Q(('height_mm__gte', 10.0), ('height_mm__lte', 300.0)), ('height_mm__isnull', True), _connector='OR'), name='label_sheet_height_mm_within')],
            },
        ),
        migrations.CreateModel(
            name='LabelText',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('finish', models.CharField(blank=True, max_length=40)),
                ('name', models.CharField(max_length=60)),
                ('use', models.CharField(blank=True, max_length=200)),
                ('note', models.CharField(blank=True, max_length=200)),
                ('naming', models.CharField(choices=[('inci', 'by INCI'), ('both', 'by INCI, common name beside it'), ('common', 'in common words')], default='inci', max_length=6)),
                ('sheet', models.SlugField(blank=True, help_text='one that comes along; else empty', max_length=60)),
                ('formula', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='label_texts', to='formulas.formula')),
                ('own_sheet', models.ForeignKey(blank=True, null=True, on_delete=django.db.models.deletion.SET_NULL, to='pours.labelsheet')),
            ],
            options={
                'constraints': [models.UniqueConstraint(fields=('formula', 'finish'), name='one_label_text_per_finish')],
            },
        ),
        migrations.CreateModel(
            name='Need',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('what_for', models.CharField(max_length=80)),
                ('needed_on', models.DateField()),
                ('count', models.PositiveSmallIntegerField()),
                ('asked_at', models.DateTimeField(default=django.utils.timezone.now)),
                ('called_off_at', models.DateTimeField(blank=True, null=True)),
                ('formula', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='needs', to='formulas.formula')),
                ('owner', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='needs', to=settings.AUTH_USER_MODEL)),
            ],
            options={
                'ordering': ['needed_on', 'pk'],
                'constraints': [models.CheckConstraint(condition=models.Q(models.Q(('count__gte', 1), ('count__lte', 500)), ('count__isnull', True), _connector='OR'), name='need_count_within'), models.CheckConstraint(condition=models.Q(models.Q(('needed_on__gte', datetime.date(1990, 1, 1)), ('needed_on__lte', datetime.date(2100, 12, 31))), ('needed_on__isnull', True), _connector='OR'), name='need_needed_on_within')],
            },
        ),
        migrations.CreateModel(
            name='Route',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('kind', models.SlugField(max_length=40)),
                ('way', models.SlugField(help_text='pour, whip or cold_whip', max_length=20)),
                ('steps', models.JSONField(default=list, help_text='key, title and whether it is left out')),
                ('owner', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='routes', to=settings.AUTH_USER_MODEL)),
            ],
            options={
                'constraints': [models.UniqueConstraint(fields=('owner', 'kind', 'way'), name='one_route_per_kind_and_way')],
            },
        ),
        migrations.CreateModel(
            name='Series',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('varies', models.CharField(help_text='what differs, in words', max_length=200)),
                ('started_at', models.DateTimeField(default=django.utils.timezone.now)),
                ('owner', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='series', to=settings.AUTH_USER_MODEL)),
            ],
            options={
                'ordering': ['-pk'],
            },
        ),
        migrations.CreateModel(
            name='Pour',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('number', models.PositiveIntegerField(help_text="counts the formula's pours")),
                ('code', models.CharField(help_text='a short name for labels, once on a bench', max_length=14)),
                ('container', models.SlugField(blank=True, help_text='of the library; else empty', max_length=60)),
                ('container_name', models.CharField(max_length=80)),
                ('container_ml', models.FloatField()),
                ('count', models.PositiveIntegerField()),
                ('level', models.FloatField(help_text='fill level, 0 to 1')),
                ('loss', models.FloatField(help_text='share that stays in the pot, 0 to 1')),
                ('batch_g', models.DecimalField(decimal_places=2, max_digits=9)),
                ('scale_step_g', models.DecimalField(decimal_places=11, max_digits=13)),
                ('pour_c', models.FloatField(help_text='none where nothing in it sets', null=True)),
                ('clung_g', models.DecimalField(decimal_places=2, default=0, help_text='planned to cling', max_digits=9)),
                ('test_g', models.DecimalField(decimal_places=2, default=0, max_digits=9)),
                ('driven_off_g', models.DecimalField(decimal_places=2, default=0, help_text='spirit and water that leave before the wax', max_digits=9)),
                ('powder_g', models.DecimalField(decimal_places=2, default=0, help_text='lost as dust', max_digits=9)),
                ('started_at', models.DateTimeField(default=django.utils.timezone.now)),
                ('poured_at', models.DateTimeField(blank=True, null=True)),
                ('called_off_at', models.DateTimeField(blank=True, null=True)),
                ('called_off_why', models.CharField(blank=True, max_length=200)),
                ('weighed_into', models.CharField(choices=[('pot', 'all into one pot, tared between'), ('cups', 'each in its own cup')], default='pot', max_length=4)),
                ('storage', models.CharField(choices=[('cool', 'cool and dark'), ('room', 'in a room'), ('bathroom', 'in a bathroom'), ('car', 'in a car or a pocket')], default='room', help_text='where it is kept', max_length=8)),
                ('use_by', models.DateField(blank=True, help_text='when the first of what is in it is past its life', null=True)),
                ('hours', models.FloatField(blank=True, help_text='of work in it, for its price', null=True)),
                ('own_container', models.ForeignKey(blank=True, null=True, on_delete=django.db.models.deletion.PROTECT, related_name='pours', to='pantry.owncontainer')),
                ('owner', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='pours', to=settings.AUTH_USER_MODEL)),
                ('stove', models.OneToOneField(blank=True, help_text='of a rehearsal', null=True, on_delete=django.db.models.deletion.PROTECT, related_name='pour', to='devices.stove')),
                ('version', models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, related_name='pours', to='formulas.version')),
                ('series', models.ForeignKey(blank=True, null=True, on_delete=django.db.models.deletion.PROTECT, related_name='pours', to='pours.series')),
            ],
            options={
                'ordering': ['-started_at', '-pk'],
                'constraints': [models.UniqueConstraint(fields=('owner', 'code'), name='one_pour_per_code'), models.CheckConstraint(condition=models.Q(models.Q(('count__gte', 1), ('count__lte', 500)), ('count__isnull', True), _connector='OR'), name='pour_count_within'), models.CheckConstraint(condition=models.Q(models.Q(('level__gte', 0.0), ('level__lte', 1.0)), ('level__isnull', True), _connector='OR'), name='pour_level_within'), models.CheckConstraint(condition=models.Q(models.Q(('loss__gte', 0.0), ('loss__lte', 1.0)), ('loss__isnull', True), _connector='OR'), name='pour_loss_within'), models.CheckConstraint(condition=models.Q(models.Q(('batch_g__gte', 0.01), ('batch_g__lte', 50000.0)), ('batch_g__isnull', True), _connector='OR'), name='pour_batch_g_within'), models.CheckConstraint(condition=models.Q(models.Q(('container_ml__gte', 0.1), ('container_ml__lte', 20000.0)), ('container_ml__isnull', True), _connector='OR'), name='pour_container_ml_within'), models.CheckConstraint(condition=models.Q(models.Q(('hours__gte', 0.0), ('hours__lte', 100.0)), ('hours__isnull', True), _connector='OR'), name='pour_hours_within')],
            },
        ),
        migrations.CreateModel(
            name='Check',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('made_at', models.DateTimeField(default=django.utils.timezone.now)),
                ('temp_c', models.FloatField()),
                ('felt_rung', models.DecimalField(decimal_places=1, max_digits=3, null=True, validators=[django.core.validators.MinValueValidator(Decimal('0')), django.core.validators.MaxValueValidator(Decimal('10'))])),
                ('overrun_pct', models.PositiveSmallIntegerField(help_text='gain in volume by whipping, as it was measured, %', null=True)),
                ('verdict', models.CharField(blank=True, choices=[('keep', 'Keep'), ('tweak', 'Tweak'), ('drop', 'Drop')], max_length=5)),
                ('set_test', models.CharField(blank=True, choices=[('lid', 'on a cold lid'), ('spoon', 'on a cold spoon'), ('lip', 'on the lip')], help_text='where a drop was tried before it was poured', max_length=5)),
                ('notes', models.TextField(blank=True)),
                ('look', models.SlugField(blank=True, max_length=12)),
                ('press_g', models.JSONField(blank=True, default=list, help_text='the highest readings of a press test, g')),
                ('rod_mm', models.FloatField(blank=True, null=True)),
                ('signs', models.JSONField(blank=True, default=dict)),
                ('who', models.CharField(blank=True, help_text='who tried it; the maker, if empty', max_length=40)),
                ('pour', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='checks', to='pours.pour')),
            ],
            options={
                'ordering': ['pk'],
                'constraints': [models.CheckConstraint(condition=models.Q(models.Q(('temp_c__gte', -40.0), ('temp_c__lte', 110.0)), ('temp_c__isnull', True), _connector='OR'), name='check_temp_c_within'), models.CheckConstraint(condition=models.Q(models.Q(('felt_rung__gte', 0.0), ('felt_rung__lte', 10.0)), ('felt_rung__isnull', True), _connector='OR'), name='check_felt_rung_within'), models.CheckConstraint(condition=models.Q(models.Q(('overrun_pct__gte', 0.0), ('overrun_pct__lte', 300.0)), ('overrun_pct__isnull', True), _connector='OR'), name='check_overrun_pct_within'), models.CheckConstraint(condition=models.Q(models.Q(('rod_mm__gte', 0.5), ('rod_mm__lte', 60.0)), ('rod_mm__isnull', True), _connector='OR'), name='check_rod_mm_within')],
            },
        ),
        migrations.CreateModel(
            name='CheckLeftOut',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('reason', models.CharField(blank=True, help_text='empty: it counts again', max_length=200)),
                ('at', models.DateTimeField(default=django.utils.timezone.now)),
                ('of', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='left_out', to='pours.check')),
            ],
            options={
                'ordering': ['pk'],
            },
        ),
        migrations.CreateModel(
            name='CheckPhoto',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('image', models.ImageField(height_field='height', upload_to='checks/%Y/%m', width_field='width')),
                ('width', models.PositiveIntegerField()),
                ('height', models.PositiveIntegerField()),
                ('of', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='photos', to='pours.check')),
            ],
            options={
                'ordering': ['pk'],
            },
        ),
        migrations.CreateModel(
            name='PotReading',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('place', models.CharField(choices=[('pot', 'in the pot'), ('room', 'in the room')], default='pot', max_length=4)),
                ('temp_c', models.FloatField()),
                ('at', models.DateTimeField(default=django.utils.timezone.now)),
                ('pour', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='readings', to='pours.pour')),
            ],
            options={
                'ordering': ['at', 'pk'],
                'constraints': [models.CheckConstraint(condition=models.Q(models.Q(('temp_c__gte', -40.0), ('temp_c__lte', 110.0)), ('temp_c__isnull', True), _connector='OR'), name='pot_reading_temp_c_within')],
            },
        ),
        migrations.CreateModel(
            name='PotAddition',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('material', models.SlugField(max_length=60)),
                ('grams', models.DecimalField(decimal_places=2, max_digits=9)),
                ('why', models.CharField(max_length=200)),
                ('by_feel', models.BooleanField(default=False, help_text='`why` then says it as it was typed')),
                ('at', models.DateTimeField(default=django.utils.timezone.now)),
                ('withdrawal', models.OneToOneField(blank=True, help_text='what it took from the shelf', null=True, on_delete=django.db.models.deletion.PROTECT, to='pantry.withdrawal')),
                ('pour', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='additions', to='pours.pour')),
            ],
            options={
                'ordering': ['pk'],
                'constraints': [models.CheckConstraint(condition=models.Q(models.Q(('grams__gte', 0.0), ('grams__lte', 50000.0)), ('grams__isnull', True), _connector='OR'), name='pot_addition_grams_within')],
            },
        ),
        migrations.CreateModel(
            name='PieceGone',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('position', models.PositiveSmallIntegerField(help_text='of the filling')),
                ('went', models.CharField(choices=[('kept', 'kept'), ('given', 'given away'), ('sold', 'sold'), ('refill', 'refilled into a jar that came back'), ('aside', 'set aside as too light'), ('gone', 'broken or thrown away')], max_length=6)),
                ('count', models.PositiveSmallIntegerField()),
                ('who', models.CharField(blank=True, max_length=60)),
                ('price', models.DecimalField(blank=True, decimal_places=2, help_text='of each, where it was sold', max_digits=9, null=True)),
                ('on', models.DateField()),
                ('note', models.CharField(blank=True, max_length=200)),
                ('at', models.DateTimeField(default=django.utils.timezone.now)),
                ('undoes', models.OneToOneField(blank=True, null=True, on_delete=django.db.models.deletion.PROTECT, related_name='undone_by', to='pours.piecegone')),
                ('pour', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='pieces_gone', to='pours.pour')),
            ],
            options={
                'ordering': ['pk'],
                'constraints': [models.CheckConstraint(condition=models.Q(models.Q(('count__gte', 1), ('count__lte', 500)), ('count__isnull', True), _connector='OR'), name='piece_gone_count_within'), models.CheckConstraint(condition=models.Q(models.Q(('price__gte', 0.0), ('price__lte', 100000.0)), ('price__isnull', True), _connector='OR'), name='piece_gone_price_within'), models.CheckConstraint(condition=models.Q(models.Q(('on__gte', datetime.date(1990, 1, 1)), ('on__lte', datetime.date(2100, 12, 31))), ('on__isnull', True), _connector='OR'), name='piece_gone_on_within')],
            },
        ),
        migrations.CreateModel(
            name='Leftover',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('at', models.DateTimeField(default=django.utils.timezone.now)),
                ('lot', models.OneToOneField(on_delete=django.db.models.deletion.PROTECT, to='pantry.lot')),
                ('pour', models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, related_name='leftovers', to='pours.pour')),
            ],
            options={
                'ordering': ['pk'],
            },
        ),
        migrations.CreateModel(
            name='LabelPrint',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('finish', models.CharField(blank=True, max_length=40)),
                ('count', models.PositiveSmallIntegerField()),
                ('first', models.PositiveSmallIntegerField(help_text='the place of the sheet that it began at')),
                ('cut_lines', models.BooleanField(default=False)),
                ('text', models.JSONField(help_text='what the labels said')),
                ('sheet', models.JSONField(help_text='the grid, mm')),
                ('at', models.DateTimeField(default=django.utils.timezone.now)),
                ('pour', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='label_prints', to='pours.pour')),
            ],
            options={
                'ordering': ['pk'],
            },
        ),
        migrations.CreateModel(
            name='Kept',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('is_kept', models.BooleanField(default=True)),
                ('why', models.CharField(blank=True, max_length=300)),
                ('at', models.DateTimeField(default=django.utils.timezone.now)),
                ('pour', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='kept', to='pours.pour')),
            ],
            options={
                'ordering': ['pk'],
            },
        ),
        migrations.CreateModel(
            name='Closing',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('formula_name', models.CharField(max_length=80)),
                ('kind', models.CharField(max_length=20)),
                ('audience', models.CharField(max_length=30)),
                ('sees_sun', models.BooleanField()),
                ('currency', models.CharField(blank=True, max_length=4)),
                ('materials', models.JSONField()),
                ('planned', models.JSONField()),
                ('made', models.JSONField()),
                ('cautions', models.JSONField(default=list)),
                ('containers', models.JSONField(default=list)),
                ('at', models.DateTimeField(default=django.utils.timezone.now)),
                ('pour', models.OneToOneField(on_delete=django.db.models.deletion.PROTECT, related_name='closing', to='pours.pour')),
            ],
            options={
                'ordering': ['pk'],
            },
        ),
        migrations.CreateModel(
            name='PourFilling',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('position', models.PositiveSmallIntegerField()),
                ('container', models.SlugField(blank=True, help_text='of the library; else empty', max_length=60)),
                ('container_name', models.CharField(max_length=80)),
                ('container_ml', models.FloatField()),
                ('count', models.PositiveIntegerField()),
                ('each_ml', models.FloatField()),
                ('each_g', models.DecimalField(decimal_places=2, max_digits=9)),
                ('finish', models.CharField(blank=True, max_length=40)),
                ('own_container', models.ForeignKey(blank=True, null=True, on_delete=django.db.models.deletion.PROTECT, related_name='fillings', to='pantry.owncontainer')),
                ('pour', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='fillings', to='pours.pour')),
            ],
            options={
                'ordering': ['position'],
                'constraints': [models.UniqueConstraint(fields=('pour', 'position'), name='one_filling_per_position'), models.CheckConstraint(condition=models.Q(models.Q(('count__gte', 1), ('count__lte', 500)), ('count__isnull', True), _connector='OR'), name='pour_filling_count_within')],
            },
        ),
        migrations.CreateModel(
            name='PourFinishPart',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('finish', models.CharField(max_length=40)),
                ('material', models.SlugField(max_length=60)),
                ('percent', models.DecimalField(decimal_places=3, help_text='of the base beneath it', max_digits=6)),
                ('planned_g', models.DecimalField(decimal_places=2, max_digits=9)),
                ('pour', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='finish_parts', to='pours.pour')),
            ],
            options={
                'ordering': ['pk'],
            },
        ),
        migrations.CreateModel(
            name='FinishWeighIn',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('grams', models.DecimalField(decimal_places=2, max_digits=9, null=True)),
                ('at', models.DateTimeField(default=django.utils.timezone.now)),
                ('withdrawal', models.OneToOneField(blank=True, help_text='what it took from the shelf', null=True, on_delete=django.db.models.deletion.PROTECT, to='pantry.withdrawal')),
                ('part', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='weigh_ins', to='pours.pourfinishpart')),
            ],
            options={
                'ordering': ['pk'],
                'constraints': [models.CheckConstraint(condition=models.Q(models.Q(('grams__gte', 0.0), ('grams__lte', 50000.0)), ('grams__isnull', True), _connector='OR'), name='finish_weigh_in_grams_within')],
            },
        ),
        migrations.CreateModel(
            name='Replan',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('factor', models.DecimalField(decimal_places=5, max_digits=9)),
                ('targets', models.JSONField(help_text='grams by the position of a line')),
                ('why', models.CharField(max_length=200)),
                ('at', models.DateTimeField(auto_now_add=True)),
                ('pour', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='replans', to='pours.pour')),
            ],
            options={
                'ordering': ['pk'],
            },
        ),
        migrations.CreateModel(
            name='StepDone',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('key', models.CharField(max_length=20)),
                ('is_done', models.BooleanField(default=True)),
                ('note', models.CharField(blank=True, max_length=200)),
                ('title', models.CharField(blank=True, help_text='as the sheet called it then', max_length=120)),
                ('at', models.DateTimeField(default=django.utils.timezone.now)),
                ('pour', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='steps_done', to='pours.pour')),
            ],
            options={
                'ordering': ['pk'],
            },
        ),
        migrations.CreateModel(
            name='StepTimer',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('key', models.CharField(max_length=20)),
                ('rings_at', models.DateTimeField(help_text='none where it was stopped', null=True)),
                ('at', models.DateTimeField(default=django.utils.timezone.now)),
                ('pour', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='timers', to='pours.pour')),
            ],
            options={
                'ordering': ['pk'],
            },
        ),
        migrations.CreateModel(
            name='WeighLine',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('position', models.PositiveSmallIntegerField()),
                ('key', models.CharField(max_length=12)),
                ('material', models.SlugField(max_length=60)),
                ('percent', models.DecimalField(decimal_places=3, max_digits=6)),
                ('planned_g', models.DecimalField(decimal_places=2, max_digits=9)),
                ('lot', models.ForeignKey(blank=True, help_text='the lot chosen to be used first', null=True, on_delete=django.db.models.deletion.PROTECT, to='pantry.lot')),
                ('pour', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='lines', to='pours.pour')),
            ],
            options={
                'ordering': ['position'],
                'constraints': [models.UniqueConstraint(fields=('pour', 'position'), name='one_weigh_line_per_position'), models.CheckConstraint(condition=models.Q(models.Q(('percent__gte', 0.0), ('percent__lte', 100.0)), ('percent__isnull', True), _connector='OR'), name='weigh_line_percent_within'), models.CheckConstraint(condition=models.Q(models.Q(('planned_g__gte', 0.0), ('planned_g__lte', 50000.0)), ('planned_g__isnull', True), _connector='OR'), name='weigh_line_planned_g_within')],
            },
        ),
        migrations.CreateModel(
            name='WeighIn',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('grams', models.DecimalField(decimal_places=2, max_digits=9, null=True)),
                ('reason', models.CharField(blank=True, help_text='why a closed sheet was corrected', max_length=200)),
                ('at', models.DateTimeField(auto_now_add=True)),
                ('lot', models.ForeignKey(blank=True, help_text="chosen at the scale, before the sheet's", null=True, on_delete=django.db.models.deletion.PROTECT, to='pantry.lot')),
                ('withdrawal', models.OneToOneField(blank=True, help_text='what it took from the shelf', null=True, on_delete=django.db.models.deletion.PROTECT, to='pantry.withdrawal')),
                ('line', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='weigh_ins', to='pours.weighline')),
            ],
            options={
                'ordering': ['pk'],
                'constraints': [models.CheckConstraint(condition=models.Q(models.Q(('grams__gte', 0.0), ('grams__lte', 50000.0)), ('grams__isnull', True), _connector='OR'), name='weigh_in_grams_within')],
            },
        ),
        migrations.CreateModel(
            name='Yield',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('filled_g', models.DecimalField(decimal_places=2, max_digits=9)),
                ('left_g', models.DecimalField(decimal_places=2, max_digits=9)),
                ('pieces', models.JSONField(default=list, help_text='what single ones weighed: position of the filling and grams')),
                ('counts', models.JSONField(default=list, help_text='how many were filled: position and count')),
                ('at', models.DateTimeField(auto_now_add=True)),
                ('pour', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='yields', to='pours.pour')),
            ],
            options={
                'ordering': ['pk'],
                'constraints': [models.CheckConstraint(condition=models.Q(models.Q(('filled_g__gte', 0.0), ('filled_g__lte', 50000.0)), ('filled_g__isnull', True), _connector='OR'), name='yield_filled_g_within'), models.CheckConstraint(condition=models.Q(models.Q(('left_g__gte', 0.0), ('left_g__lte', 50000.0)), ('left_g__isnull', True), _connector='OR'), name='yield_left_g_within')],
            },
        ),
        migrations.CreateModel(
            name='ClosingLot',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('price', models.DecimalField(decimal_places=2, max_digits=9, null=True)),
                ('amount_g', models.DecimalField(decimal_places=2, max_digits=10)),
                ('bought_on', models.DateField()),
                ('best_before', models.DateField(null=True)),
                ('closing', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='lots', to='pours.closing')),
                ('lot', models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, to='pantry.lot')),
            ],
            options={
                'ordering': ['pk'],
                'constraints': [models.UniqueConstraint(fields=('closing', 'lot'), name='one_closing_lot_per_lot'), models.CheckConstraint(condition=models.Q(models.Q(('amount_g__gte', 0.01), ('amount_g__lte', 1000000.0)), ('amount_g__isnull', True), _connector='OR'), name='closing_lot_amount_g_within'), models.CheckConstraint(condition=models.Q(models.Q(('price__gte', 0.0), ('price__lte', 100000.0)), ('price__isnull', True), _connector='OR'), name='closing_lot_price_within'), models.CheckConstraint(condition=models.Q(models.Q(('bought_on__gte', datetime.date(1990, 1, 1)), ('bought_on__lte', datetime.date(2100, 12, 31))), ('bought_on__isnull', True), _connector='OR'), name='closing_lot_bought_on_within'), models.CheckConstraint(condition=models.Q(models.Q(('best_before__gte', datetime.date(1990, 1, 1)), ('best_before__lte', datetime.date(2100, 12, 31))), ('best_before__isnull', True), _connector='OR'), name='closing_lot_best_before_within')],
            },
        ),
    ]

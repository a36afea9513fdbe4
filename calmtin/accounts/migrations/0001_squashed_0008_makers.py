# A new book's tables in one step. Books of 1.0.x go by the steps that it replaces.

import django.contrib.auth.validators
import django.db.models.deletion
import django.utils.timezone
from django.conf import settings
from django.db import migrations, models


class Migration(migrations.Migration):

    replaces = [('accounts', '0001_initial'), ('accounts', '0002_bounds'), ('accounts', '0003_notation'), ('accounts', '0004_fill_plan'), ('accounts', '0005_by_the_book'), ('accounts', '0006_labels_and_stall'), ('accounts', '0007_is_set_up'), ('accounts', '0008_makers')]

    initial = True

    dependencies = [
        ('auth', '0012_alter_user_first_name_max_length'),
    ]

    operations = [
        migrations.CreateModel(
            name='User',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('password', models.CharField(max_length=128, verbose_name='password')),
                ('last_login', models.DateTimeField(blank=True, null=True, verbose_name='last login')),
                ('is_superuser', models.BooleanField(default=False, help_text='Designates that this user has all permissions without explicitly assigning them.', verbose_name='superuser status')),
                ('username', models.CharField(error_messages={'unique': 'A user with that username already exists.'}, help_text='Required. 150 characters or fewer. Letters, digits and @/./+/-/_ only.', max_length=150, unique=True, validators=[django.contrib.auth.validators.UnicodeUsernameValidator()], verbose_name='username')),
                ('first_name', models.CharField(blank=True, max_length=150, verbose_name='first name')),
                ('last_name', models.CharField(blank=True, max_length=150, verbose_name='last name')),
                ('email', models.EmailField(blank=True, max_length=254, verbose_name='email address')),
                ('is_staff', models.BooleanField(default=False, help_text='Designates whether the user can log into this admin site.', verbose_name='staff status')),
                ('is_active', models.BooleanField(default=True, help_text='Designates whether this user should be treated as active. Unselect this instead of deleting accounts.', verbose_name='active')),
                ('date_joined', models.DateTimeField(default=django.utils.timezone.now, verbose_name='date joined')),
                ('log_state', models.BigIntegerField(db_default=0, default=0, editable=False)),
                ('groups', models.ManyToManyField(blank=True, help_text='The groups this user belongs to. A user will get all permissions granted to each of their groups.', related_name='user_set', related_query_name='user', to='auth.group', verbose_name='groups')),
                ('user_permissions', models.ManyToManyField(blank=True, help_text='Specific permissions for this user.', related_name='user_set', related_query_name='user', to='auth.permission', verbose_name='user permissions')),
            ],
            options={
                'verbose_name': 'user',
                'verbose_name_plural': 'users',
                'abstract': False,
            },
        ),
        migrations.CreateModel(
            name='Bench',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('cold_c', models.FloatField(default=8.0, verbose_name='cold room')),
                ('room_c', models.FloatField(default=21.0, verbose_name='room')),
                ('hot_c', models.FloatField(default=45.0, verbose_name='hot day')),
                ('cold_name', models.CharField(default='cold room', max_length=20, verbose_name='called')),
                ('hot_name', models.CharField(default='hot car', max_length=20, verbose_name='called')),
                ('temperature_unit', models.CharField(choices=[('C', 'Celsius'), ('F', 'Fahrenheit')], default='C', max_length=1)),
                ('scale_step', models.CharField(choices=[('1', '1 g'), ('0.5', '0.5 g'), ('0.1', '0.1 g'), ('0.01', '0.01 g'), ('0.1oz', '0.1 oz'), ('0.05oz', '0.05 oz'), ('0.01oz', '0.01 oz'), ('0.001oz', '0.001 oz')], default='0.1', max_length=8)),
                ('decimal_comma', models.BooleanField(default=None, help_text="as the browser's language does, if empty", null=True, verbose_name='decimals with a comma')),
                ('cups', models.CharField(choices=[('us', 'US (237 ml)'), ('imperial', 'imperial (284 ml)'), ('metric', 'metric (250 ml)')], default='us', max_length=8, verbose_name='cups and spoons')),
                ('letter_keys', models.BooleanField(default=True, verbose_name='keys of one letter')),
                ('label_maker', models.CharField(blank=True, max_length=60, verbose_name='maker')),
                ('label_place', models.CharField(blank=True, max_length=80, verbose_name='place')),
                ('currency', models.CharField(blank=True, max_length=4)),
                ('hour_costs', models.DecimalField(blank=True, decimal_places=2, max_digits=7, null=True, verbose_name='an hour of work costs')),
                ('label_costs', models.DecimalField(blank=True, decimal_places=2, max_digits=7, null=True, verbose_name='a label and its packing cost')),
                ('margin_pct', models.FloatField(default=40.0, verbose_name='margin for a stall, %')),
                ('buying_days', models.PositiveSmallIntegerField(default=7, verbose_name='days from order to bench')),
                ('time_zone', models.CharField(blank=True, max_length=60)),
                ('theme', models.CharField(choices=[('light', 'light'), ('dark', 'dark'), ('auto', 'as this device has it')], default='light', max_length=5)),
                ('is_set_up', models.BooleanField(default=False, help_text='its maker was asked about scale and room')),
                ('by_the_book', models.BooleanField(default=False, verbose_name='show the book’s figures')),
                ('user', models.OneToOneField(on_delete=django.db.models.deletion.CASCADE, to=settings.AUTH_USER_MODEL)),
            ],
            options={
                'constraints': [models.CheckConstraint(condition=models.Q(models.Q(('cold_c__gte', -20.0), ('cold_c__lte', 30.0)), ('cold_c__isnull', True), _connector='OR'), name='bench_cold_c_within'), models.CheckConstraint(condition=models.Q(models.Q(('room_c__gte', 5.0), ('room_c__lte', 35.0)), ('room_c__isnull', True), _connector='OR'), name='bench_room_c_within'), models.CheckConstraint(condition=models.Q(models.Q(('hot_c__gte', 20.0), ('hot_c__lte', 80.0)), ('hot_c__isnull', True), _connector='OR'), name='bench_hot_c_within'), models.CheckConstraint(condition=models.Q(models.Q(('hour_costs__gte', 0.0), ('hour_costs__lte', 100000.0)), ('hour_costs__isnull', True), _connector='OR'), name='bench_hour_costs_within'), models.CheckConstraint(condition=models.Q(models.Q(('label_costs__gte', 0.0), ('label_costs__lte', 100000.0)), ('label_costs__isnull', True), _connector='OR'), name='bench_label_costs_within'), models.CheckConstraint(condition=models.Q(models.Q(('margin_pct__gte', 0.0), ('margin_pct__lte', 95.0)), ('margin_pct__isnull', True), _connector='OR'), name='bench_margin_pct_within'), models.CheckConstraint(condition=models.Q(models.Q(('buying_days__gte', 0), ('buying_days__lte', 120)), ('buying_days__isnull', True), _connector='OR'), name='bench_buying_days_within')],
            },
        ),
        migrations.CreateModel(
            name='FineScale',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('name', models.CharField(max_length=40)),
                ('step', models.CharField(choices=[('1', '1 g'), ('0.5', '0.5 g'), ('0.1', '0.1 g'), ('0.01', '0.01 g'), ('0.1oz', '0.1 oz'), ('0.05oz', '0.05 oz'), ('0.01oz', '0.01 oz'), ('0.001oz', '0.001 oz')], default='0.01', max_length=8)),
                ('capacity_g', models.DecimalField(decimal_places=2, max_digits=8)),
                ('least_g', models.DecimalField(blank=True, decimal_places=2, help_text='ten steps, if empty', max_digits=8, null=True)),
                ('owner', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='fine_scales', to=settings.AUTH_USER_MODEL)),
            ],
            options={
                'ordering': ['pk'],
                'constraints': [models.UniqueConstraint(fields=('owner', 'name'), name='one_scale_per_name'), models.CheckConstraint(condition=models.Q(models.Q(('capacity_g__gte', 0.0), ('capacity_g__lte', 50000.0)), ('capacity_g__isnull', True), _connector='OR'), name='fine_scale_capacity_g_within'), models.CheckConstraint(condition=models.Q(models.Q(('least_g__gte', 0.0), ('least_g__lte', 50000.0)), ('least_g__isnull', True), _connector='OR'), name='fine_scale_least_g_within')],
            },
        ),
    ]
